package health

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"mantilla/core/report"
	"mantilla/core/revision"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/store/health"
)

// What can be wrong with a report, in the order in which it is told.
const (
	Broken       = "broken"
	NoSource     = "no source"
	NoFile       = "no file"
	Failing      = "failing"
	NearLimit    = "near its limit"
	Slower       = "slower"
	Heavy        = "heavy"
	DeadLink     = "dead link"
	Unfit        = "no longer fits"
	ToNobody     = "open to nobody"
	Unused       = "unused"
	Duplicate    = "duplicate"
	Undocumented = "undocumented"
	OwnerGone    = "owner gone"
	PastReview   = "past review"
)

var kinds = []string{Broken, NoSource, NoFile, Failing, NearLimit, Slower, Heavy, DeadLink, Unfit, ToNobody, Unused,
	Duplicate, Undocumented, OwnerGone, PastReview}

// Problem is something that a report needs, with what mends it.
type Problem struct {
	Report, Title string
	Kind          string
	Says          string
	Mend          string // what to do about it
	Place         string // within the console, where that is done
}

// looked is how many of the last runs of a report are looked at.
const looked = 2 * newest

// Bounds beyond which something is told.
const (
	failures   = 3                // last runs that all failed
	newest     = 4                // runs that are held against those before them
	growth     = 2.0              // times as long as before
	leastSlow  = 2 * time.Second  // runs below it are not told to be slow
	limitShare = 0.8              // of a limit
	heavyShare = 0.25             // of what all runs took in a day
	leastHeavy = 60 * time.Second // a day with less is no load
)

// Problems tell what the catalog needs. Reports that were not run for so long count as
// unused.
func (a *Access) Problems(ctx context.Context, unused time.Duration) ([]Problem, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	l := look{a: a, now: a.room.org.Now(), unused: unused, present: a.room.catalog.Present(), all: []Problem{}}
	for _, step := range []func(context.Context) error{l.sources, l.files, l.runs, l.load, l.definitions, l.criteria} {
		if err := step(ctx); err != nil {
			return nil, err
		}
	}
	slices.SortStableFunc(l.all, func(a, b Problem) int {
		if by := slices.Index(kinds, a.Kind) - slices.Index(kinds, b.Kind); by != 0 {
			return by
		}
		return strings.Compare(a.Report, b.Report)
	})
	return l.all, nil
}

// look gathers what the catalog needs.
type look struct {
	a       *Access
	now     time.Time
	unused  time.Duration
	present map[string]*report.Definition
	since   map[string]model.Version
	all     []Problem
}

func (l *look) add(id, kind, says, mend, place string) {
	title := id
	if d := l.present[id]; d != nil {
		title = d.Title
	}
	l.all = append(l.all, Problem{id, title, kind, says, mend, place})
}

// sources tell which reports cannot be run since their source cannot be read.
func (l *look) sources(context.Context) error {
	for id, d := range l.present {
		since, why := l.a.room.catalog.Silent(d.Source)
		switch {
		case why == nil:
		case since.IsZero():
			l.add(id, NoSource, why.Error(), "mend the declaration of its source", "/office?desk=sources")
		default:
			l.add(id, NoSource, fmt.Sprintf("Its source has not answered for %s: %s.", l.now.Sub(since).Round(time.Minute), why),
				"look at the server, and test the source", "/office?desk=sources")
		}
	}
	return nil
}

// files tell which reports are read from a table whose newest file was not taken.
func (l *look) files(ctx context.Context) error {
	untaken, err := l.a.room.records.Untaken(ctx)
	if err != nil {
		return err
	}
	for _, u := range untaken {
		for id, d := range l.present {
			reads := slices.ContainsFunc(d.Datasets, func(of report.Dataset) bool { return of.Reads(u.Table) })
			if d.Source == u.Source && reads {
				l.add(id, NoFile, fmt.Sprintf("Its table %s is not fresh: %s.", u.Table, u.Fault),
					"mend the file, or how its table is declared", "/office?desk=sources&source="+u.Source)
			}
		}
	}
	return nil
}

// runs tell which reports fail, grow slow, come near their limits, or are not run.
func (l *look) runs(ctx context.Context) (err error) {
	if l.since, err = l.a.room.records.Since(ctx); err != nil {
		return err
	}
	trails, err := l.a.room.records.Trails(ctx, looked)
	if err != nil {
		return err
	}
	byReport := map[string][]health.Trail{}
	for _, t := range trails {
		byReport[t.Report] = append(byReport[t.Report], t)
	}
	for id, d := range l.present {
		l.idle(id, byReport[id])
		l.failing(id, byReport[id])
		l.slow(d, byReport[id])
	}
	return nil
}

func (l *look) idle(id string, trails []health.Trail) {
	last, says := l.since[id].At, "it was never run"
	if len(trails) > 0 {
		last = trails[0].AskedAt
		says = "it was last run on " + last.In(l.a.room.org.Zone).Format("2 Jan 2006")
	}
	if l.now.Sub(last) >= l.unused {
		l.add(id, Unused, says, "retire it, or tell people of it", "/reports/"+id)
	}
}

func (l *look) failing(id string, trails []health.Trail) {
	failed := 0
	for _, t := range trails {
		if t.State != model.Failed {
			break
		}
		failed++
	}
	if failed >= failures {
		l.add(id, Failing, fmt.Sprintf("its last %d runs failed: %s", failed, trails[0].Reason), "change its definition",
			"/office?desk=reports")
	}
}

func (l *look) slow(d *report.Definition, trails []health.Trail) {
	var took []time.Duration
	var rows int64
	for _, t := range trails {
		if t.State == model.Done && t.Took > 0 {
			took = append(took, t.Took)
			rows = max(rows, t.Rows)
		}
	}
	if len(took) == 0 {
		return
	}
	most, mostRows := l.a.room.most.Time, l.a.room.most.Rows
	if d.Limits.Time > 0 {
		most = min(most, d.Limits.Time)
	}
	if d.Limits.Rows > 0 {
		mostRows = min(mostRows, d.Limits.Rows)
	}
	narrow := "narrow its parameters, or raise its limits"
	if longest := slices.Max(took[:min(len(took), newest)]); float64(longest) > limitShare*float64(most) {
		l.add(d.ID, NearLimit, fmt.Sprintf("a run took %s of at most %s", longest.Round(time.Second/10), most), narrow,
			"/office?desk=reports")
	} else if float64(rows) > limitShare*float64(mostRows) {
		l.add(d.ID, NearLimit, fmt.Sprintf("a run gave %d of at most %d rows", rows, mostRows), narrow,
			"/office?desk=reports")
	}
	if len(took) < 2*newest {
		return
	}
	now, before := median(took[:newest]), median(took[newest:])
	if now > leastSlow && float64(now) > growth*float64(before) {
		l.add(d.ID, Slower, fmt.Sprintf("its last runs took %s, those before %s", now.Round(time.Second/10),
			before.Round(time.Second/10)), "look at its SQL and its source", "/office?desk=reports")
	}
}

func median(of []time.Duration) time.Duration {
	sorted := slices.Sorted(slices.Values(of))
	return sorted[len(sorted)/2]
}

// load tells which reports have a heavy share of the last day.
func (l *look) load(ctx context.Context) error {
	spent, err := l.a.room.records.Spent(ctx, l.now.Add(-24*time.Hour))
	if err != nil {
		return err
	}
	var total time.Duration
	for _, took := range spent {
		total += took
	}
	for id, took := range spent {
		if l.present[id] != nil && total >= leastHeavy && float64(took) > heavyShare*float64(total) {
			l.add(id, Heavy, fmt.Sprintf("its runs had %d %% of the last day's %s", int(100*took/total),
				total.Round(time.Second)), "run it at night, or split it", "/reports/"+id)
		}
	}
	return nil
}

// definitions tell what reports say of themselves, and where they lead.
func (l *look) definitions(ctx context.Context) error {
	people, err := l.a.room.people.Accounts(ctx)
	if err != nil {
		return err
	}
	same := map[string][]string{}
	for id, d := range l.present {
		signature := revision.Signature(d)
		same[signature] = append(same[signature], id)
		if missing := undocumented(d); len(missing) > 0 {
			l.add(id, Undocumented, "it lacks "+strings.Join(missing, " and "), "write them into its definition",
				"/office?desk=reports")
		}
		if len(l.a.room.people.Openings(id)) == 0 {
			l.add(id, ToNobody, "nobody but those who write definitions can find it", "open it, or delete it",
				"/office?desk=open")
		}
		l.links(d)
		l.care(id, people)
	}
	for _, ids := range same {
		slices.Sort(ids)
		for _, id := range ids[1:] {
			l.add(id, Duplicate, "it reads the same as "+l.present[ids[0]].Title+" ("+ids[0]+")",
				"keep one of them, with a view for each", "/office?desk=reports")
		}
	}
	for id, why := range l.a.room.catalog.Unread() {
		l.add(id, Broken, strings.Join(strings.Fields(why.Error()), " "), "mend its text", "/office?desk=reports")
	}
	return nil
}

// care tells which reports nobody looks after, and which were not looked at in time.
func (l *look) care(id string, people map[string]bool) {
	c := l.a.room.care.Of(id)
	by, what := c.Owner, "who looks after it"
	if by == "" {
		by, what = l.since[id].By, "who took it in last"
	}
	if by != "" && by != access.ServiceName && !people[by] {
		l.add(id, OwnerGone, by+", "+what+", has no account any more", "let somebody else look after it",
			"/office?desk=reports")
	}
	if c.Due(l.a.room.org.Calendar().Today) {
		l.add(id, PastReview, "it was to be looked at on "+c.ReviewOn.Time().Format("2 Jan 2006"),
			"look at it, and say that it was reviewed", "/office?desk=reports")
	}
}

// links tell where a report leads to nothing.
func (l *look) links(d *report.Definition) {
	dead := func(says string, args ...any) {
		l.add(d.ID, DeadLink, fmt.Sprintf(says, args...), "mend the link", "/office?desk=reports")
	}
	for _, id := range d.Companions {
		if l.present[id] == nil {
			dead("its companion %s is not in the catalog", id)
		}
	}
	for i := range d.Datasets {
		for _, c := range d.Datasets[i].Columns {
			if c.Opens == nil || c.Opens.Report == "" {
				continue
			}
			to := l.present[c.Opens.Report]
			if to == nil {
				dead("column %s opens the report %s, which is not in the catalog", c.ID, c.Opens.Report)
				continue
			}
			for _, f := range c.Opens.With {
				if to.Parameter(f.Parameter) == nil {
					dead("column %s fills the parameter %s, which %s does not have", c.ID, f.Parameter, to.ID)
				}
			}
		}
	}
}

// undocumented is what a definition does not say.
func undocumented(d *report.Definition) (missing []string) {
	if len([]rune(d.About)) < 20 || strings.Contains(d.About, "Say here what they are for") {
		missing = append(missing, "a purpose")
	}
	if d.Guide == "" {
		missing = append(missing, "steps")
	}
	return missing
}

// criteria tell what people keep that speaks of parameters that are gone.
func (l *look) criteria(ctx context.Context) error {
	all, err := l.a.room.kept.AllCriteria(ctx)
	if err != nil {
		return err
	}
	for _, c := range all {
		d := l.present[c.Report]
		if d == nil {
			continue
		}
		for _, id := range slices.Sorted(maps.Keys(c.Typed)) {
			if c.Typed[id] != "" && d.Parameter(id) == nil {
				l.add(c.Report, Unfit, fmt.Sprintf("the criteria “%s” of %s speak of the parameter %s, which is gone", c.Name,
					c.Owner, id), "tell them, or bring the parameter back", "/reports/"+c.Report+
					fmt.Sprintf("?criteria=C-%d", c.Number))
				break
			}
		}
	}
	return nil
}

// Use is how a report was used in a month: run, and read.
type Use struct {
	health.Use
	Readers, Reads, Exports int
}

// Uses are the last months in which a report was run or read.
func (a *Access) Uses(ctx context.Context, id string) ([]Use, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	if _, err := a.catalog.Report(id); err != nil {
		return nil, err
	}
	runs, err := a.room.records.Uses(ctx, id, usedMonths)
	if err != nil {
		return nil, err
	}
	read, err := a.looked.Used(ctx, id)
	if err != nil {
		return nil, err
	}
	byMonth := map[string]Use{}
	for _, u := range runs {
		byMonth[u.Month] = Use{Use: u}
	}
	for _, r := range read {
		u := byMonth[r.Month]
		u.Month, u.Readers, u.Reads, u.Exports = r.Month, r.Readers, r.Reads, r.Exports
		byMonth[r.Month] = u
	}
	out := slices.SortedFunc(maps.Values(byMonth), func(a, b Use) int { return strings.Compare(b.Month, a.Month) })
	return out[:min(len(out), usedMonths)], nil
}

// usedMonths is how many months of use are told.
const usedMonths = 24
