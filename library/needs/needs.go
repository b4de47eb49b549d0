package needs

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"mantilla/library/access"
	"mantilla/model"
)

// Kinds of what needs a person.
const (
	Notice  = "notice"  // somebody wrote, or the service tells something
	Request = "request" // somebody asks for a report
	Control = "control" // a run of a run control failed, or its moment passed without one
	Run     = "run"     // a run that the person asked for failed
	Parcel  = "parcel"  // something did not arrive
)

// Need is one thing that needs a person, until it is done.
type Need struct {
	Kind   string
	Of     string // number or identifier of what it is about
	At     time.Time
	Says   string
	Do     string // what there is to do
	Place  string // where, within the console
	Notice int64  // that can be put away; 0 for what goes when it is done
}

const (
	lately  = 3 * 24 * time.Hour // how long a run that failed needs somebody
	mostOfA = 50                 // of one kind
)

// Needs is all that needs the person, the newest first.
func (a *Access) Needs(ctx context.Context) (all []Need, err error) {
	gather := []func(context.Context) ([]Need, error){a.told, a.asked}
	if a.Has(access.Run) {
		gather = append(gather, a.failedControls, a.failedRuns, a.failedParcels)
	}
	for _, of := range gather {
		some, err := of(ctx)
		if err != nil {
			return nil, err
		}
		all = append(all, some...)
	}
	all = slices.DeleteFunc(all, func(n Need) bool { return n.Kind == Notice && slices.ContainsFunc(all, n.goesWith) })
	slices.SortStableFunc(all, func(x, y Need) int { return y.At.Compare(x.At) })
	return all, nil
}

// goesWith tells whether a notice says what another need says that is there to be done: that
// nothing was kept of a run control that failed.
func (n Need) goesWith(o Need) bool {
	return o.Kind == Control && n.Of == "run control" && n.Place == o.Place
}

// told is what the person was told and did not put away. Of a request that waits for them the
// request itself stands in the list.
func (a *Access) told(ctx context.Context) (all []Need, err error) {
	told, err := a.notices.List(ctx)
	for _, n := range told {
		if n.About == "request" && a.Has(access.Grant) {
			continue
		}
		all = append(all, Need{Kind: Notice, Of: n.About, At: n.At, Says: n.Says, Do: "Look at it, or put it away",
			Place: n.Place, Notice: n.Number})
	}
	return all, err
}

func (a *Access) asked(ctx context.Context) (all []Need, err error) {
	if !a.Has(access.Grant) {
		return nil, nil
	}
	requests, err := a.care.Requests(ctx)
	for _, r := range requests {
		if r.State != "open" || len(all) == mostOfA {
			continue
		}
		says := a.titleOfPerson(ctx, r.Person) + " asks for the report “" + a.titleOf(r.Report) + "”"
		if r.Says != "" {
			says += ". “" + r.Says + "”"
		}
		all = append(all, Need{Kind: Request, Of: r.Report, At: r.At, Says: says, Do: "Open it to them, or say why not",
			Place: fmt.Sprintf("/office?desk=open&request=%d", r.Number)})
	}
	return all, err
}

func (a *Access) titleOfPerson(ctx context.Context, name string) string {
	if who, err := a.room.rooms.People.AsPerson(ctx, name); err == nil {
		return who.Person().Title
	}
	return name
}

func (a *Access) titleOf(report string) string {
	if d := a.room.rooms.Catalog.Present()[report]; d != nil {
		return d.Title
	}
	return report
}

// failedControls are the person's own run controls, or their parts, whose last run failed or
// whose last moment gave none.
func (a *Access) failedControls(ctx context.Context) (all []Need, err error) {
	t, err := a.controls.Timetable(ctx, 200)
	if err != nil {
		return nil, err
	}
	controls, err := a.controls.Controls(ctx, "", 1000)
	if err != nil {
		return nil, err
	}
	own := map[string]string{}
	for _, c := range controls {
		if c.Mine {
			own[c.ID] = c.Title
		}
	}
	last := map[string]time.Time{} // of each control and part
	for _, r := range t.Ran {
		of := r.Control + " " + r.Part
		if _, later := last[of]; later || own[r.Control] == "" {
			continue
		}
		last[of] = r.AskedAt
		last[r.Control] = latest(last[r.Control], r.AskedAt)
		if reason := failed(r); reason != "" && len(all) < mostOfA {
			says := own[r.Control]
			if r.Part != "" {
				says += ", " + cmp.Or(r.PartName, r.Part)
			}
			all = append(all, Need{Kind: Control, Of: r.Control, At: r.AskedAt, Says: says + ": " + reason,
				Do: "Mend what is said, then try its run again", Place: "/controls/" + r.Control})
		}
	}
	for _, n := range t.Notes {
		if own[n.Control] == "" || n.State != "refused" || n.Moment.Before(last[n.Control]) || len(all) == mostOfA {
			continue
		}
		last[n.Control] = a.room.org.Now() // the last moment alone
		all = append(all, Need{Kind: Control, Of: n.Control, At: n.Moment, Says: own[n.Control] + ": " + n.Reason,
			Do: "Mend the run control", Place: "/controls/" + n.Control})
	}
	return all, nil
}

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// failed is why a run of a run control did not give all it should; "" where it did.
func failed(r model.ControlRun) string {
	for _, run := range r.Runs {
		if run.State == model.Failed {
			return cmp.Or(run.Reason, "a run failed")
		}
	}
	if r.Sending == "failed" {
		return cmp.Or(r.SentNote, "it was not sent")
	}
	return ""
}

// failedRuns are runs that the person asked for lately, and that failed where nothing ran since
// with the same values.
func (a *Access) failedRuns(ctx context.Context) (all []Need, err error) {
	runs, err := a.capture.Runs(ctx, model.RunWish{Limit: 200})
	seen := map[string]bool{}
	for _, r := range runs {
		of := r.Report + r.Sentence
		if seen[of] || r.AskedBy != a.Person().Name || r.ControlRun != 0 || r.AskedAt.Before(a.room.org.Now().Add(-lately)) {
			continue
		}
		seen[of] = true
		if r.State == model.Failed {
			number := fmt.Sprintf("RUN-%06d", r.Number)
			all = append(all, Need{Kind: Run, Of: number, At: r.AskedAt, Says: r.Title + ": " + r.Reason,
				Do: "Run it again, or change its values", Place: "/runs/" + number})
		}
	}
	return all, err
}

func (a *Access) failedParcels(ctx context.Context) (all []Need, err error) {
	parcels, err := a.sending.Parcels(ctx, model.Failed, 0, mostOfA)
	for _, p := range parcels {
		if p.Owner != a.Person().Name {
			continue
		}
		number := fmt.Sprintf("P-%06d", p.Number)
		all = append(all, Need{Kind: Parcel, Of: number, At: p.MadeAt, Says: p.Title + ": " + p.Reason,
			Do: "Send it again, or to another address", Place: "/sending?parcel=" + number})
	}
	return all, err
}
