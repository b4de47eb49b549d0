package controls

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"mantilla/core/timetable"
	"mantilla/library/access"
	"mantilla/library/reading"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/render"
)

// mostKept is how many days results may be kept where they are not kept for ever:
// a hundred years.
const mostKept = 36_500

// Control is a named way to run one or several reports, in order.
type Control struct {
	model.Control
	Mine    bool
	Steps   []Step
	Outputs []string      // kept, csv, xlsx: what is wanted of each result
	Rows    int64         // most rows of each run; 0 for the report's limit
	Time    time.Duration // longest time of each run; 0 for the report's limit
	Hours   string        // within which runs may start: 20:00-06:00; "" for any
	Empty   string        // keep, note or fail
	Keep    int           // days that results are kept; 0 for as long as anyone likes
	Restate bool          // each result is compared with the last of its values that was signed off

	Send      *sending.Send  // to whom its files go; nil for nobody
	Split     *sending.Split // what makes several of it; nil for one
	Timetable *timetable.Timetable
	Broken    string // why it cannot be read; "" where it can
}

// Step is one report of a control, with criteria or values of its own.
type Step struct {
	Report   string            `json:"report"`
	Criteria int64             `json:"criteria,omitempty"`
	Typed    map[string]string `json:"typed,omitempty"`
	View     string            `json:"view,omitempty"` // opened first
}

// order is what sending looks at of a control.
func (c *Control) order() sending.Order {
	o := sending.Order{Title: c.Title, Outputs: c.Outputs, Send: c.Send, Split: c.Split}
	for _, s := range c.Steps {
		o.Steps = append(o.Steps, sending.Step{Report: s.Report, View: s.View})
	}
	return o
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
	Restate bool          `json:"restate,omitempty"`

	Send      *sending.Send        `json:"send,omitempty"`
	Split     *sending.Split       `json:"split,omitempty"`
	Timetable *timetable.Timetable `json:"timetable,omitempty"`
}

// readControl reads a control as it was kept, for a reader. One that cannot be read says so in
// Broken, and stands in nobody's way.
func readControl(kept model.Control, reader string) Control {
	var b body
	broken := ""
	if err := json.Unmarshal(kept.Body, &b); err != nil {
		b, broken = body{Empty: "keep"}, "its record cannot be read; write the run control anew: "+err.Error()
	}
	return Control{Control: kept, Broken: broken, Mine: kept.Owner == reader, Steps: b.Steps, Outputs: b.Outputs,
		Rows: b.Rows, Time: b.Time,
		Hours: b.Hours, Empty: b.Empty, Keep: b.Keep, Restate: b.Restate, Send: b.Send, Split: b.Split,
		Timetable: b.Timetable}
}

// Controls returns the run controls that the person sees.
func (a *Access) Controls(ctx context.Context, search string, limit int) ([]Control, error) {
	kept, err := a.room.records.Controls(ctx, model.Seen{Person: a.Person().Name, Groups: a.Person().Groups}, search,
		limit)
	out := make([]Control, len(kept))
	for i := range kept {
		out[i] = readControl(kept[i], a.Person().Name)
	}
	return out, err
}

// Control returns one run control that the person sees.
func (a *Access) Control(ctx context.Context, id string) (Control, error) {
	kept, err := a.room.records.Control(ctx, id)
	shared := kept.Shared == "everyone" || slices.Contains(a.Person().Groups, kept.Shared)
	if err == nil && kept.Owner != a.Person().Name && !shared && !a.Has(access.KeepCatalog) {
		err = model.ErrNotFound
	}
	if errors.Is(err, model.ErrNotFound) {
		return Control{}, model.NoSuch("run control", id, a.controlIDs(ctx))
	}
	if err != nil {
		return Control{}, err
	}
	return readControl(kept, a.Person().Name), nil
}

// changeable returns a run control that the person may change.
func (a *Access) changeable(ctx context.Context, id string) (Control, error) {
	c, err := a.Control(ctx, id)
	if err == nil {
		err = a.MayChange(fmt.Sprintf("the run control %q", c.Title), c.Owner)
	}
	return c, err
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
	if err := a.May(access.Run); err != nil {
		return c, err
	}
	c.Owner, c.ChangedAt, c.ChangedBy = a.Person().Name, a.room.org.Now(), a.Person().Name
	if c.Revision > 0 {
		if _, err := a.changeable(ctx, c.ID); err != nil {
			return c, err
		}
	}
	if err := a.checkControl(ctx, &c); err != nil {
		return c, err
	}
	text, err := json.Marshal(body{c.Steps, append([]string{}, c.Outputs...), c.Rows, c.Time, c.Hours, c.Empty, c.Keep,
		c.Restate, c.Send, c.Split, c.Timetable})
	if err != nil {
		return c, err
	}
	c.Body = text
	if c.Next, err = a.room.nextOf(ctx, c, a.room.org.Now()); err != nil {
		return c, err
	}
	if err := a.room.records.PutControl(ctx, c.Control); err != nil {
		return c, fmt.Errorf("the run control %s: %w", c.ID, err)
	}
	a.room.toDue.Ring()
	return a.Control(ctx, c.ID)
}

func (a *Access) checkControl(ctx context.Context, c *Control) error {
	if c.Empty == "" {
		c.Empty = "keep"
	}
	if err := a.asking.NameAndShare(&c.Title, c.Shared); err != nil {
		return err
	}
	_, err := hours(c.Hours)
	switch {
	case !controlID.MatchString(c.ID):
		return model.Refuse("id", "%q is not the id of a run control; use small letters, digits and hyphens, a letter first",
			c.ID)
	case len(c.Steps) == 0:
		return model.Refuse("steps", "a run control runs at least one report")
	case err != nil:
		return model.Refuse("hours", "%w", err)
	case !slices.Contains([]string{"keep", "note", "fail"}, c.Empty):
		return model.Refuse("empty", "%q is not what can be done with an empty result; use keep, note or fail", c.Empty)
	case c.Rows < 0 || c.Time < 0 || c.Keep < 0:
		return model.Refuse("limits", "limits and days to keep are above nothing, or left out")
	case c.Keep > mostKept:
		return model.Refuse("keepDays", "results are kept for at most %d days, or left out for as long as anyone likes",
			mostKept)
	}
	for _, o := range c.Outputs {
		if _, err := render.FormatNamed(o); err != nil && o != "kept" {
			return model.Refuse("outputs", "%q is not an output; use kept, or a format: %w", o, err)
		}
	}
	for i, s := range c.Steps {
		if err := a.checkStep(ctx, s); err != nil {
			return model.Refuse(fmt.Sprintf("steps.%d", i+1), "step %d: %w", i+1, err)
		}
	}
	if err := a.checkTimetable(ctx, c); err != nil {
		return err
	}
	return a.sending.Check(ctx, c.order())
}

func (a *Access) checkStep(ctx context.Context, s Step) error {
	d, err := a.catalog.Report(s.Report)
	if err != nil {
		return err
	}
	if s.View != "" && d.View(s.View) == nil {
		return model.NoSuch("view", s.View, reading.ViewIDs(d))
	}
	if s.Criteria == 0 {
		return nil
	}
	c, err := a.asking.FindCriteria(ctx, s.Criteria)
	if err == nil && c.Report != s.Report {
		err = fmt.Errorf("the criteria %q are of the report %s", c.Name, c.Report)
	}
	return err
}

var hoursForm = regexp.MustCompile(`^(\d{1,2}):(\d{2})-(\d{1,2}):(\d{2})$`)

// hours reads 20:00-06:00; nil for no limit.
func hours(text string) (*model.Hours, error) {
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
	return &model.Hours{Opens: minutes[0], Closes: minutes[1]}, nil
}

// DeleteControl takes a run control out of sight; RestoreControl brings it back.
func (a *Access) DeleteControl(ctx context.Context, id string) error {
	_, err := a.changeable(ctx, id)
	if err == nil {
		err = a.room.records.DeleteControl(ctx, id, a.room.org.Now())
	}
	return err
}

// RestoreControl brings a deleted run control back or, for a revision other than 0, what it was
// before it was overwritten; what that replaces is kept in turn.
func (a *Access) RestoreControl(ctx context.Context, id string, revision int64) (Control, error) {
	c, err := a.changeable(ctx, id)
	if err != nil {
		return c, err
	}
	if revision != 0 {
		return a.bringBack(ctx, c, revision)
	}
	next, err := a.room.nextOf(ctx, c, a.room.org.Now())
	if err != nil {
		return c, err
	}
	if err := a.room.records.RestoreControl(ctx, id, next); err != nil {
		return c, err
	}
	a.room.toDue.Ring()
	return a.Control(ctx, id)
}
