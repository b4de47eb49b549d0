package library

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"mantilla/core/param"
	"mantilla/core/timetable"
	"mantilla/render"
	"mantilla/store"
)

// Control is a named way to run one or several reports, in order.
type Control struct {
	store.Control
	Mine    bool
	Steps   []Step
	Outputs []string      // kept, csv, xlsx: what is wanted of each result
	Rows    int64         // most rows of each run; 0 for the report's limit
	Time    time.Duration // longest time of each run; 0 for the report's limit
	Hours   string        // within which runs may start: 20:00-06:00; "" for any
	Empty   string        // keep, note or fail
	Keep    int           // days that results are kept; 0 for as long as anyone likes

	Send      *Send  // to whom its files go; nil for nobody
	Split     *Split // what makes several of it; nil for one
	Timetable *timetable.Timetable
}

// Step is one report of a control, with criteria or values of its own.
type Step struct {
	Report   string            `json:"report"`
	Criteria int64             `json:"criteria,omitempty"`
	Typed    map[string]string `json:"typed,omitempty"`
	View     string            `json:"view,omitempty"` // opened first
}

// body is what a control consists of, as it is kept.
type body struct {
	Steps   []Step        `json:"steps"`
	Outputs []string      `json:"outputs"`
	Rows    int64         `json:"rows,omitempty"`
	Time    time.Duration `json:"time,omitempty"`
	Hours   string        `json:"hours,omitempty"`
	Empty   string        `json:"empty"`
	Keep    int           `json:"keep,omitempty"`

	Send      *Send                `json:"send,omitempty"`
	Split     *Split               `json:"split,omitempty"`
	Timetable *timetable.Timetable `json:"timetable,omitempty"`
}

func (a *Access) readControl(kept store.Control) (Control, error) {
	var b body
	err := json.Unmarshal(kept.Body, &b)
	return Control{Control: kept, Mine: kept.Owner == a.person.Name, Steps: b.Steps, Outputs: b.Outputs, Rows: b.Rows, Time: b.Time,
		Hours: b.Hours, Empty: b.Empty, Keep: b.Keep, Send: b.Send, Split: b.Split, Timetable: b.Timetable}, err
}

// Controls returns the run controls that the person sees.
func (a *Access) Controls(ctx context.Context, search string, limit int) ([]Control, error) {
	kept, err := a.store.Controls(ctx, store.Seen{Person: a.person.Name, Groups: a.person.Groups}, search, limit)
	out := make([]Control, len(kept))
	for i := range kept {
		if err == nil {
			out[i], err = a.readControl(kept[i])
		}
	}
	return out, err
}

// Control returns one run control that the person sees.
func (a *Access) Control(ctx context.Context, id string) (Control, error) {
	kept, err := a.store.Control(ctx, id)
	shared := kept.Shared == "everyone" || slices.Contains(a.person.Groups, kept.Shared)
	if err == nil && kept.Owner != a.person.Name && !shared && !a.has(keepCatalog) {
		err = store.ErrNotFound
	}
	if errors.Is(err, store.ErrNotFound) {
		return Control{}, missing("run control", id, a.controlIDs(ctx))
	}
	if err != nil {
		return Control{}, err
	}
	return a.readControl(kept)
}

func (a *Access) controlIDs(ctx context.Context) (ids []string) {
	all, _ := a.Controls(ctx, "", 1000) // only to offer what was meant
	for _, c := range all {
		ids = append(ids, c.ID)
	}
	return ids
}

var controlID = regexp.MustCompile(`^[a-z][a-z0-9-]{0,59}$`)

// PutControl keeps a run control. Revision is the one seen before, 0 for a new
// one.
func (a *Access) PutControl(ctx context.Context, c Control) (Control, error) {
	if err := a.may(run); err != nil {
		return c, err
	}
	c.Owner, c.ChangedAt = a.person.Name, a.settings.Now()
	if c.Revision > 0 {
		present, err := a.Control(ctx, c.ID)
		if err == nil {
			err = a.mayChange(fmt.Sprintf("the run control %q", present.Title), present.Owner)
		}
		if err != nil {
			return c, err
		}
	}
	if err := a.checkControl(ctx, &c); err != nil {
		return c, err
	}
	text, err := json.Marshal(body{c.Steps, append([]string{}, c.Outputs...), c.Rows, c.Time, c.Hours, c.Empty, c.Keep, c.Send, c.Split, c.Timetable})
	if err != nil {
		return c, err
	}
	c.Body = text
	if c.Next, err = a.nextOf(ctx, c, a.settings.Now()); err != nil {
		return c, err
	}
	if err := a.store.PutControl(ctx, c.Control); err != nil {
		return c, fmt.Errorf("the run control %s: %w", c.ID, err)
	}
	poke(a.toDue)
	return a.Control(ctx, c.ID)
}

func (a *Access) checkControl(ctx context.Context, c *Control) error {
	if c.Empty == "" {
		c.Empty = "keep"
	}
	if err := a.nameAndShare(&c.Title, c.Shared); err != nil {
		return err
	}
	_, err := hours(c.Hours)
	switch {
	case !controlID.MatchString(c.ID):
		return refused("id", "%q is not the id of a run control; use small letters, digits and hyphens, a letter first", c.ID)
	case len(c.Steps) == 0:
		return refused("steps", "a run control runs at least one report")
	case err != nil:
		return refused("hours", "%w", err)
	case !slices.Contains([]string{"keep", "note", "fail"}, c.Empty):
		return refused("empty", "%q is not what can be done with an empty result; use keep, note or fail", c.Empty)
	case c.Rows < 0 || c.Time < 0 || c.Keep < 0:
		return refused("limits", "limits and days to keep are above nothing, or left out")
	}
	for _, o := range c.Outputs {
		if _, err := render.FormatNamed(o); err != nil && o != "kept" {
			return refused("outputs", "%q is not an output; use kept, or a format: %w", o, err)
		}
	}
	for i, s := range c.Steps {
		if err := a.checkStep(ctx, s); err != nil {
			return refused(fmt.Sprintf("steps.%d", i+1), "step %d: %w", i+1, err)
		}
	}
	if err := a.checkTimetable(ctx, c); err != nil {
		return err
	}
	return a.checkSend(ctx, c)
}

func (a *Access) checkStep(ctx context.Context, s Step) error {
	d, err := a.Report(s.Report)
	if err != nil {
		return err
	}
	if s.View != "" && d.View(s.View) == nil {
		return missing("view", s.View, viewIDs(d))
	}
	if s.Criteria == 0 {
		return nil
	}
	c, err := a.criteria(ctx, s.Criteria)
	if err == nil && c.Report != s.Report {
		err = fmt.Errorf("the criteria %q are of the report %s", c.Name, c.Report)
	}
	return err
}

var hoursForm = regexp.MustCompile(`^(\d{1,2}):(\d{2})-(\d{1,2}):(\d{2})$`)

// hours reads 20:00-06:00; nil for no limit.
func hours(text string) (*store.Hours, error) {
	if text == "" {
		return nil, nil
	}
	var minutes []int
	from, to, _ := strings.Cut(text, "-")
	for _, end := range []string{from, to} {
		t, err := time.Parse("15:04", end)
		if err != nil || !hoursForm.MatchString(text) {
			return nil, fmt.Errorf("%q are not hours; write them as 20:00-06:00", text)
		}
		minutes = append(minutes, t.Hour()*60+t.Minute())
	}
	if minutes[0] == minutes[1] {
		return nil, fmt.Errorf("%q leave no time; write them as 20:00-06:00, or leave them out", text)
	}
	return &store.Hours{Opens: minutes[0], Closes: minutes[1]}, nil
}

// DeleteControl takes a run control out of sight; RestoreControl brings it back.
func (a *Access) DeleteControl(ctx context.Context, id string) error {
	c, err := a.Control(ctx, id)
	if err == nil {
		err = a.mayChange(fmt.Sprintf("the run control %q", c.Title), c.Owner)
	}
	if err == nil {
		err = a.store.DeleteControl(ctx, id, a.settings.Now())
	}
	return err
}

// RestoreControl brings a deleted run control back.
func (a *Access) RestoreControl(ctx context.Context, id string) (Control, error) {
	c, err := a.Control(ctx, id)
	if err == nil {
		err = a.mayChange(fmt.Sprintf("the run control %q", c.Title), c.Owner)
	}
	if err == nil {
		err = a.store.RestoreControl(ctx, id)
	}
	if err != nil {
		return c, err
	}
	return a.Control(ctx, id)
}

// RunControl runs every report of a control, in order, for each of its parts if
// it is split. Overrides replace values for this once: NAME for every report
// that has the parameter, REPORT.NAME for one. When the values of any report
// are wrong, nothing is run. What it gives is sent only if that is asked for.
func (a *Access) RunControl(ctx context.Context, id string, overrides map[string]string, send bool) ([]store.ControlRun, error) {
	if err := a.may(run); err != nil {
		return nil, err
	}
	c, err := a.Control(ctx, id)
	if err != nil {
		return nil, err
	}
	if c.Deleted {
		return nil, missing("run control", id, nil)
	}
	if send && c.Send == nil {
		return nil, refused("send", "the run control %q names nobody to send to", c.Title)
	}
	batches, err := a.planControl(ctx, c, overrides, send)
	if err != nil {
		return nil, err
	}
	if batches, err = a.store.AddControlRuns(ctx, batches); err == nil {
		a.runner.Wake()
	}
	return batches, err
}

// planControl makes the runs of a control: one set, or one for each part.
func (a *Access) planControl(ctx context.Context, c Control, overrides map[string]string, send bool) (out []store.ControlRun, err error) {
	parts := []part{{as: a}}
	if send {
		if parts, err = a.parts(ctx, c); err != nil {
			return nil, err
		}
	}
	for _, p := range parts {
		batch, err := p.as.planPart(ctx, c, overrides)
		if err != nil {
			return nil, err
		}
		batch.Part, batch.PartName, batch.Moment = p.key, p.name, a.moment
		if send {
			batch.Sending, batch.Plan = "waiting", p.plan.text()
		}
		if send || !a.moment.IsZero() { // nobody looks on who could run it again
			for i := range batch.Runs {
				batch.Runs[i].AfterCrash = "again"
			}
		}
		out = append(out, batch)
	}
	return out, nil
}

// planPart makes one set of a control's runs.
func (a *Access) planPart(ctx context.Context, c Control, overrides map[string]string) (store.ControlRun, error) {
	batch := store.ControlRun{Control: c.ID, AskedBy: a.person.Name, AskedAt: a.settings.Now()}
	open, err := hours(c.Hours)
	if err != nil {
		return batch, err
	}
	terms := store.Terms{Control: c.ID, Rows: c.Rows, Time: c.Time, Empty: c.Empty, Keep: c.Keep, Hours: open}
	var all param.Faults
	used := map[string]bool{}
	for _, s := range c.Steps {
		planned, err := a.planStep(ctx, c.ID, s, overrides, used)
		var faults param.Faults
		if errors.As(err, &faults) {
			for _, f := range faults {
				f.Parameter = s.Report + "." + f.Parameter
				all = append(all, f)
			}
			continue
		}
		if err != nil {
			return batch, fmt.Errorf("%s: %w", s.Report, err)
		}
		planned.Terms, planned.Criteria = terms, s.Criteria
		batch.Runs = append(batch.Runs, planned)
	}
	for name := range overrides {
		if !used[name] {
			all = append(all, param.Fault{Parameter: name, Message: fmt.Sprintf("no report of the run control has a parameter %q", name)})
		}
	}
	if len(all) > 0 {
		return batch, all
	}
	return batch, nil
}

// planStep makes the run of one step, with what overrides say.
func (a *Access) planStep(ctx context.Context, control string, s Step, overrides map[string]string, used map[string]bool) (store.Run, error) {
	d, err := a.Report(s.Report)
	if err != nil {
		return store.Run{}, err
	}
	typed := map[string]string{}
	for name, text := range s.Typed {
		typed[name] = text
	}
	if s.Criteria > 0 {
		c, err := a.criteria(ctx, s.Criteria)
		if err != nil {
			return store.Run{}, err
		}
		if c.Deleted {
			return store.Run{}, fmt.Errorf("its criteria %q were deleted; bring them back or choose others", c.Name)
		}
		typed = c.Typed
	}
	merged := map[string]string{}
	for name, text := range typed {
		merged[name] = text
	}
	for _, p := range d.Parameters {
		for _, name := range []string{p.ID, s.Report + "." + p.ID} {
			if text, ok := overrides[name]; ok {
				merged[p.ID], used[name] = text, true
			}
		}
	}
	if a.parted { // so that the sentence names the part
		for _, p := range d.Parameters {
			if p.Type == param.Unit && merged[p.ID] == "" && p.Many {
				merged[p.ID] = strings.Join(a.person.Units, "; ")
			}
		}
	}
	return a.plan(ctx, s.Report, merged, With{Control: control})
}

// ControlRuns returns the past runs of a control, the newest first, less the
// runs that the person does not see.
func (a *Access) ControlRuns(ctx context.Context, id string, limit int) ([]store.ControlRun, error) {
	if _, err := a.Control(ctx, id); err != nil {
		return nil, err
	}
	all, err := a.store.ControlRuns(ctx, id, limit)
	if err != nil {
		return nil, err
	}
	for i := range all {
		if all[i].Runs, err = a.seenRuns(ctx, all[i].Runs); err != nil {
			return nil, err
		}
	}
	return all, nil
}

// seenRuns are those of some runs that the person sees, as they now are.
func (a *Access) seenRuns(ctx context.Context, runs []store.Run) (seen []store.Run, err error) {
	for _, r := range runs {
		ok, err := a.sees(ctx, r.Report, r.Reach)
		if err != nil {
			return nil, err
		}
		if ok {
			seen = append(seen, a.current(r))
		}
	}
	return seen, nil
}
