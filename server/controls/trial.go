package controls

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/controls"
	"mantilla/server/answer"
)

// SayControl answers POST /controls/said.
func (s Controls) SayControl(ctx context.Context,
	r handlers.SayControlRequestObject) (handlers.SayControlResponseObject, error) {
	c, err := changed(r.Body)
	if err != nil {
		return nil, err
	}
	c.Paused = answer.Value(r.Params.Paused)
	said := answer.As(ctx).Controls.Say(ctx, c)
	return handlers.SayControl200JSONResponse{What: said.What, How: said.How, To: said.To, When: said.When,
		All: said.All}, nil
}

// TryControl answers POST /controls/trial.
func (s Controls) TryControl(ctx context.Context,
	r handlers.TryControlRequestObject) (handlers.TryControlResponseObject, error) {
	c, err := changed(r.Body)
	if err != nil {
		return nil, err
	}
	t, err := answer.As(ctx).Controls.Try(ctx, c)
	if err != nil {
		return nil, err
	}
	out := handlers.TryControl200JSONResponse{Next: answer.List(t.Next), Parts: []api.TriedPart{}}
	for _, p := range t.Parts {
		out.Parts = append(out.Parts, tried(p))
	}
	return out, nil
}

func tried(p controls.TriedPart) api.TriedPart {
	out := api.TriedPart{Name: p.Name, To: []api.TriedRecipient{}, Not: answer.List(p.Not), Runs: []api.TriedRun{}}
	for _, to := range p.To {
		r := api.TriedRecipient{Name: to.Name, Mail: to.Mail, Line: api.TriedRecipientLine(to.Line)}
		if len(to.Values) > 0 {
			r.Values = &to.Values
		}
		out.To = append(out.To, r)
	}
	for _, run := range p.Runs {
		r := api.TriedRun{Report: run.Report, Title: run.Title, Sentence: run.Sentence, Failed: answer.Given(run.Failed)}
		if run.Counted {
			r.Rows = &run.Rows
		}
		out.Runs = append(out.Runs, r)
	}
	return out
}
