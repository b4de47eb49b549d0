package controls

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"mantilla/core/param"
	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/sending"
	"mantilla/model"
)

// RunControl runs every report of a control, in order, for each of its parts if
// it is split. Overrides replace values for this once: NAME for every report
// that has the parameter, REPORT.NAME for one. When the values of any report
// are wrong, nothing is run. What it gives is sent only if that is asked for.
func (a *Access) RunControl(ctx context.Context, id string, overrides map[string]string, send bool) ([]model.ControlRun,
	error) {
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	c, err := a.Control(ctx, id)
	if err != nil {
		return nil, err
	}
	if c.Deleted {
		return nil, model.NoSuch("run control", id, nil)
	}
	if c.Broken != "" {
		return nil, model.Refuse("control", "%s", c.Broken)
	}
	if send && c.Send == nil {
		return nil, model.Refuse("send", "the run control %q names nobody to send to", c.Title)
	}
	if err := a.room.rooms.Capture.As(a.Access).MayStart(ctx); err != nil {
		return nil, err
	}
	batches, err := a.planControl(ctx, c, overrides, send)
	if err != nil {
		return nil, err
	}
	if batches, err = a.room.records.AddControlRuns(ctx, batches); err == nil {
		a.room.rooms.Capture.Wake()
	}
	return batches, err
}

// planControl makes the runs of a control: one set, or one for each part.
func (a *Access) planControl(ctx context.Context, c Control, overrides map[string]string,
	send bool) (out []model.ControlRun, err error) {
	parts := []sending.Part{{As: a.Access}}
	if send {
		if parts, err = a.sending.Parts(ctx, c.order()); err != nil {
			return nil, err
		}
	}
	for _, p := range parts {
		batch, err := a.room.As(p.As).planPart(ctx, c, overrides)
		if err != nil {
			return nil, err
		}
		batch.Part, batch.PartName, batch.Moment = p.Key, p.Name, a.Due()
		if send {
			batch.Sending, batch.Plan = "waiting", p.Plan()
		}
		if send || !a.Due().IsZero() { // nobody looks on who could run it again
			for i := range batch.Runs {
				batch.Runs[i].AfterCrash = "again"
			}
		}
		out = append(out, batch)
	}
	return out, nil
}

// planPart makes one set of a control's runs.
func (a *Access) planPart(ctx context.Context, c Control, overrides map[string]string) (model.ControlRun, error) {
	batch := model.ControlRun{Control: c.ID, AskedBy: a.Person().Name, AskedAt: a.room.org.Now()}
	open, err := hours(c.Hours)
	if err != nil {
		return batch, err
	}
	terms := model.Terms{Control: c.ID, Rows: c.Rows, Time: c.Time, Empty: c.Empty, Keep: c.Keep, Hours: open,
		Restate: c.Restate}
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
			all = append(all,
				param.Fault{Parameter: name, Message: fmt.Sprintf("no report of the run control has a parameter %q", name)})
		}
	}
	if len(all) > 0 {
		return batch, all
	}
	return batch, nil
}

// planStep makes the run of one step, with what overrides say.
func (a *Access) planStep(ctx context.Context, control string, s Step, overrides map[string]string,
	used map[string]bool) (model.Run, error) {
	d, err := a.catalog.Report(s.Report)
	if err != nil {
		return model.Run{}, err
	}
	typed := map[string]string{}
	for name, text := range s.Typed {
		typed[name] = text
	}
	if s.Criteria > 0 {
		c, err := a.asking.FindCriteria(ctx, s.Criteria)
		if err != nil {
			return model.Run{}, err
		}
		if c.Deleted {
			return model.Run{}, fmt.Errorf("its criteria %q were deleted; bring them back or choose others", c.Name)
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
	if a.Parted() { // so that the sentence names the part
		for _, p := range d.Parameters {
			if p.Type == param.Unit && merged[p.ID] == "" && p.Many {
				merged[p.ID] = strings.Join(a.PlainUnits(), "; ")
			}
		}
	}
	return a.asking.Plan(ctx, s.Report, merged, asking.With{Control: control})
}

// ControlRuns returns the past runs of a control, the newest first, less the
// runs that the person does not see.
func (a *Access) ControlRuns(ctx context.Context, id string, limit int) ([]model.ControlRun, error) {
	if _, err := a.Control(ctx, id); err != nil {
		return nil, err
	}
	all, err := a.room.records.ControlRuns(ctx, id, limit)
	if err != nil {
		return nil, err
	}
	for i := range all {
		if all[i].Runs, err = a.capture.SeenRuns(ctx, all[i].Runs); err != nil {
			return nil, err
		}
	}
	return all, nil
}

// AgainControlRun tries again what failed of a run of a control: its runs that gave
// no result, with the values they had, and then its sending. Parcels that were let
// go and failed on their way are tried again by [Access.MendParcel].
func (a *Access) AgainControlRun(ctx context.Context, number int64) (model.ControlRun, error) {
	name := fmt.Sprintf("S-%06d", number)
	if err := a.May(access.Run); err != nil {
		return model.ControlRun{}, err
	}
	r, err := a.room.records.ControlRun(ctx, number)
	if err != nil {
		return r, model.NoSuch("set of runs", name, nil)
	}
	c, err := a.Control(ctx, r.Control)
	if err != nil {
		return r, model.NoSuch("set of runs", name, nil)
	}
	if err := a.MayChange(fmt.Sprintf("the run control %q", c.Title), c.Owner); err != nil {
		return r, err
	}
	switch err := a.room.records.AgainControlRun(ctx, number); {
	case errors.Is(err, model.ErrNotFound):
		return r, model.Refuse("set", "nothing of %s failed", name)
	case err != nil:
		return r, err
	}
	a.room.rooms.Capture.Wake()
	a.room.rooms.Sending.Wake()
	if r, err = a.room.records.ControlRun(ctx, number); err == nil {
		r.Runs, err = a.capture.SeenRuns(ctx, r.Runs)
	}
	return r, err
}
