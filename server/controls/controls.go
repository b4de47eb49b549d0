// Package controls answers calls about run controls, the timetable and calendars.
package controls

import (
	"mantilla/server/answer"
	"mantilla/server/capture"

	"context"
	"fmt"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/timetable"
	"mantilla/library/controls"
	"mantilla/model"
)

// Controls answers calls about run controls, the timetable and calendars.
type Controls struct{ *answer.Service }

func control(c controls.Control) api.Control {
	out := api.Control{Id: c.ID, Title: c.Title, Owner: c.Owner, Mine: c.Mine, Shared: c.Shared, Steps: []api.Step{},
		Outputs: []api.Output{},
		Rows:    c.Rows, Seconds: int64(c.Time / time.Second), Hours: c.Hours, Empty: api.ControlEmpty(c.Empty),
		KeepDays: c.Keep, Restate: answer.Truth(c.Restate),
		Revision: c.Revision, ChangedAt: c.ChangedAt, ChangedBy: answer.Given(c.ChangedBy), Deleted: c.Deleted,
		LastRun: answer.Moment(c.LastRun), Broken: answer.Given(c.Broken), Send: sendOut(c.Send), Split: splitOut(c.Split)}
	if c.Timetable != nil {
		t, says := timetableOut(c.Timetable), timetable.Say(c.Timetable.Rule)
		out.Timetable, out.Says, out.NextRun, out.Paused = &t, &says, answer.Moment(c.Next), answer.Truth(c.Paused)
	}
	for _, s := range c.Steps {
		step := api.Step{Report: s.Report, View: answer.Filled(s.View)}
		if s.Criteria > 0 {
			id := answer.CriteriaID(s.Criteria)
			step.Criteria = &id
		} else if s.Typed != nil {
			step.Values = (*api.Values)(&s.Typed)
		}
		out.Steps = append(out.Steps, step)
	}
	for _, o := range c.Outputs {
		out.Outputs = append(out.Outputs, api.Output(o))
	}
	return out
}

// ListControls answers GET /controls: run controls by title.
func (s Controls) ListControls(ctx context.Context,
	r handlers.ListControlsRequestObject) (handlers.ListControlsResponseObject, error) {
	list, err := answer.As(ctx).Controls.Controls(ctx, answer.Value(r.Params.Search), answer.Limit(r.Params.Limit))
	out := handlers.ListControls200JSONResponse{}
	for _, c := range list {
		out = append(out, control(c))
	}
	return out, err
}

// GetControl answers GET /controls/{control}: one run control, also a deleted one.
func (s Controls) GetControl(ctx context.Context,
	r handlers.GetControlRequestObject) (handlers.GetControlResponseObject, error) {
	c, err := answer.As(ctx).Controls.Control(ctx, r.Control)
	return handlers.GetControl200JSONResponse(control(c)), err
}

// PutControl answers PUT /controls/{control}.
func (s Controls) PutControl(ctx context.Context,
	r handlers.PutControlRequestObject) (handlers.PutControlResponseObject, error) {
	seen, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	c, err := changed(r.Body)
	if err != nil {
		return nil, err
	}
	c.ID, c.Revision = r.Control, seen
	c, err = answer.As(ctx).Controls.PutControl(ctx, c)
	return handlers.PutControl200JSONResponse(control(c)), err
}

// changed reads a run control as somebody wrote it.
func changed(b *api.ControlChange) (controls.Control, error) {
	c := controls.Control{Control: model.Control{Title: b.Title, Shared: b.Shared},
		Rows: b.Rows,
		Time: time.Duration(b.Seconds) * time.Second, Hours: b.Hours, Empty: string(b.Empty), Keep: b.KeepDays,
		Restate: answer.Value(b.Restate)}
	for _, step := range b.Steps {
		n, err := answer.OptionalNumber("criteria", "C-", step.Criteria)
		if err != nil {
			return c, err
		}
		c.Steps = append(c.Steps,
			controls.Step{Report: step.Report, Criteria: n, Typed: answer.Value(step.Values), View: answer.Value(step.View)})
	}
	for _, o := range b.Outputs {
		c.Outputs = append(c.Outputs, string(o))
	}
	c.Send, c.Split = sendIn(b.Send), splitIn(b.Split)
	if b.Timetable != nil {
		t, err := timetableIn(*b.Timetable)
		if err != nil {
			return c, err
		}
		c.Timetable = &t
	}
	return c, nil
}

// DeleteControl answers DELETE /controls/{control}: delete a run control; restoring brings it back.
func (s Controls) DeleteControl(ctx context.Context,
	r handlers.DeleteControlRequestObject) (handlers.DeleteControlResponseObject, error) {
	return handlers.DeleteControl204Response{}, answer.As(ctx).Controls.DeleteControl(ctx, r.Control)
}

// RestoreControl answers POST /controls/{control}/restore: bring a deleted run control back, or an
// earlier version.
func (s Controls) RestoreControl(ctx context.Context,
	r handlers.RestoreControlRequestObject) (handlers.RestoreControlResponseObject, error) {
	c, err := answer.As(ctx).Controls.RestoreControl(ctx, r.Control, answer.Value(r.Params.Revision))
	return handlers.RestoreControl200JSONResponse(control(c)), err
}

func (s Controls) controlRun(c model.ControlRun) api.ControlRun {
	out := api.ControlRun{
		Id:       fmt.Sprintf("S-%06d", c.Number),
		Control:  c.Control,
		AskedBy:  c.AskedBy,
		AskedAt:  c.AskedAt,
		Moment:   answer.Moment(c.Moment),
		Part:     answer.Given(c.PartName),
		SentNote: answer.Given(c.SentNote),
		Runs:     []api.Run{},
	}
	if c.Sending != "" {
		state := api.ControlRunSending(c.Sending)
		out.Sending = &state
	}
	for _, r := range c.Runs {
		out.Runs = append(out.Runs, capture.Out(r, s.Library.Settings().Now()))
	}
	return out
}

// ListControlRuns answers GET /controls/{control}/runs: past runs of a control, the newest first.
func (s Controls) ListControlRuns(ctx context.Context,
	r handlers.ListControlRunsRequestObject) (handlers.ListControlRunsResponseObject, error) {
	list, err := answer.As(ctx).Controls.ControlRuns(ctx, r.Control, answer.Limit(r.Params.Limit))
	out := handlers.ListControlRuns200JSONResponse{}
	for _, c := range list {
		out = append(out, s.controlRun(c))
	}
	return out, err
}

// AgainControlRun answers POST /control-runs/{set}/again.
func (s Controls) AgainControlRun(ctx context.Context,
	r handlers.AgainControlRunRequestObject) (handlers.AgainControlRunResponseObject, error) {
	n, err := answer.Number("set", "S-", r.Set)
	if err != nil {
		return nil, err
	}
	c, err := answer.As(ctx).Controls.AgainControlRun(ctx, n)
	return handlers.AgainControlRun200JSONResponse(s.controlRun(c)), err
}

// RunControl answers POST /controls/{control}/runs.
func (s Controls) RunControl(ctx context.Context,
	r handlers.RunControlRequestObject) (handlers.RunControlResponseObject, error) {
	all, err := answer.As(ctx).Controls.RunControl(ctx, r.Control, r.Body.Values, answer.Value(r.Body.Send))
	out := handlers.RunControl201JSONResponse{}
	for _, c := range all {
		out = append(out, s.controlRun(c))
	}
	return out, err
}
