package server

import (
	"context"
	"fmt"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/timetable"
	"mantilla/library/controls"
	"mantilla/model"
)

func control(c controls.Control) api.Control {
	out := api.Control{Id: c.ID, Title: c.Title, Owner: c.Owner, Mine: c.Mine, Shared: c.Shared, Steps: []api.Step{},
		Outputs: []api.Output{},
		Rows:    c.Rows, Seconds: int64(c.Time / time.Second), Hours: c.Hours, Empty: api.ControlEmpty(c.Empty),
		KeepDays: c.Keep,
		Revision: c.Revision, ChangedAt: c.ChangedAt, Deleted: c.Deleted, LastRun: moment(c.LastRun),
		Broken: given1(c.Broken), Send: sendOut(c.Send), Split: splitOut(c.Split)}
	if c.Timetable != nil {
		t, says := timetableOut(c.Timetable), timetable.Say(c.Timetable.Rule)
		out.Timetable, out.Says, out.NextRun, out.Paused = &t, &says, moment(c.Next), truth(c.Paused)
	}
	for _, s := range c.Steps {
		step := api.Step{Report: s.Report, View: filled(s.View)}
		if s.Criteria > 0 {
			id := criteriaID(s.Criteria)
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

func (s *service) ListControls(ctx context.Context,
	r handlers.ListControlsRequestObject) (handlers.ListControlsResponseObject, error) {
	list, err := as(ctx).Controls.Controls(ctx, value(r.Params.Search), limit(r.Params.Limit))
	out := handlers.ListControls200JSONResponse{}
	for _, c := range list {
		out = append(out, control(c))
	}
	return out, err
}

func (s *service) GetControl(ctx context.Context,
	r handlers.GetControlRequestObject) (handlers.GetControlResponseObject, error) {
	c, err := as(ctx).Controls.Control(ctx, r.Control)
	return handlers.GetControl200JSONResponse(control(c)), err
}

func (s *service) PutControl(ctx context.Context,
	r handlers.PutControlRequestObject) (handlers.PutControlResponseObject, error) {
	seen, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	b := r.Body
	c := controls.Control{Control: model.Control{ID: r.Control, Title: b.Title, Shared: b.Shared, Revision: seen},
		Rows: b.Rows,
		Time: time.Duration(b.Seconds) * time.Second, Hours: b.Hours, Empty: string(b.Empty), Keep: b.KeepDays}
	for _, step := range b.Steps {
		n, err := optionalNumber("criteria", "C-", step.Criteria)
		if err != nil {
			return nil, err
		}
		c.Steps = append(c.Steps,
			controls.Step{Report: step.Report, Criteria: n, Typed: value(step.Values), View: value(step.View)})
	}
	for _, o := range b.Outputs {
		c.Outputs = append(c.Outputs, string(o))
	}
	c.Send, c.Split = sendIn(b.Send), splitIn(b.Split)
	if b.Timetable != nil {
		t, err := timetableIn(*b.Timetable)
		if err != nil {
			return nil, err
		}
		c.Timetable = &t
	}
	c, err = as(ctx).Controls.PutControl(ctx, c)
	return handlers.PutControl200JSONResponse(control(c)), err
}

func (s *service) DeleteControl(ctx context.Context,
	r handlers.DeleteControlRequestObject) (handlers.DeleteControlResponseObject, error) {
	return handlers.DeleteControl204Response{}, as(ctx).Controls.DeleteControl(ctx, r.Control)
}

func (s *service) RestoreControl(ctx context.Context,
	r handlers.RestoreControlRequestObject) (handlers.RestoreControlResponseObject, error) {
	c, err := as(ctx).Controls.RestoreControl(ctx, r.Control)
	return handlers.RestoreControl200JSONResponse(control(c)), err
}

func (s *service) controlRun(c model.ControlRun) api.ControlRun {
	out := api.ControlRun{
		Id:       fmt.Sprintf("S-%06d", c.Number),
		Control:  c.Control,
		AskedBy:  c.AskedBy,
		AskedAt:  c.AskedAt,
		Moment:   moment(c.Moment),
		Part:     given1(c.PartName),
		SentNote: given1(c.SentNote),
		Runs:     []api.Run{},
	}
	if c.Sending != "" {
		state := api.ControlRunSending(c.Sending)
		out.Sending = &state
	}
	for _, r := range c.Runs {
		out.Runs = append(out.Runs, s.run(r))
	}
	return out
}

func (s *service) ListControlRuns(ctx context.Context,
	r handlers.ListControlRunsRequestObject) (handlers.ListControlRunsResponseObject, error) {
	list, err := as(ctx).Controls.ControlRuns(ctx, r.Control, limit(r.Params.Limit))
	out := handlers.ListControlRuns200JSONResponse{}
	for _, c := range list {
		out = append(out, s.controlRun(c))
	}
	return out, err
}

func (s *service) AgainControlRun(ctx context.Context,
	r handlers.AgainControlRunRequestObject) (handlers.AgainControlRunResponseObject, error) {
	n, err := number("set", "S-", r.Set)
	if err != nil {
		return nil, err
	}
	c, err := as(ctx).Controls.AgainControlRun(ctx, n)
	return handlers.AgainControlRun200JSONResponse(s.controlRun(c)), err
}

func (s *service) RunControl(ctx context.Context,
	r handlers.RunControlRequestObject) (handlers.RunControlResponseObject, error) {
	all, err := as(ctx).Controls.RunControl(ctx, r.Control, r.Body.Values, value(r.Body.Send))
	out := handlers.RunControl201JSONResponse{}
	for _, c := range all {
		out = append(out, s.controlRun(c))
	}
	return out, err
}
