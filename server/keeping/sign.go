package keeping

import (
	"context"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/keeping"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/server/answer"
	read "mantilla/server/reading"
)

// GetKeeping answers GET /results/{result}/keeping.
func (s Keeping) GetKeeping(ctx context.Context, r handlers.GetKeepingRequestObject) (handlers.GetKeepingResponseObject,
	error) {
	x, err := read.ResultOf(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	out, err := kept(ctx, x)
	return handlers.GetKeeping200JSONResponse(out), err
}

// kept is what was said and done of a result, as the contract has it.
func kept(ctx context.Context, x *reading.Result) (api.Keeping, error) {
	out := api.Keeping{Signs: []api.Sign{}, Signed: x.Signed, Held: x.Held, Acts: []api.Act{}, Notes: []api.Note{}}
	for _, sign := range x.Signs {
		out.Signs = append(out.Signs, api.Sign{Person: sign.Person, Title: sign.Title, At: sign.At, Says: sign.Says})
	}
	acts, err := answer.As(ctx).Keeping.Acts(ctx, x.Number)
	if err != nil {
		return out, err
	}
	for _, a := range acts {
		out.Acts = append(out.Acts, api.Act{What: api.ActWhat(a.What), Person: a.Person, At: a.At, Says: a.Says})
	}
	notes, err := answer.As(ctx).Keeping.Notes(ctx, x.Number)
	for _, n := range notes {
		out.Notes = append(out.Notes, note(n))
	}
	return out, err
}

// KeepResult answers POST /results/{result}/keeping.
func (s Keeping) KeepResult(ctx context.Context, r handlers.KeepResultRequestObject) (handlers.KeepResultResponseObject,
	error) {
	n, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	x, err := step(ctx, answer.As(ctx), n, r.Body.Do, strings.TrimSpace(answer.Value(r.Body.Says)))
	if err != nil {
		return nil, err
	}
	out, err := kept(ctx, x)
	return handlers.KeepResult200JSONResponse(out), err
}

func step(ctx context.Context, a *library.Access, result int64, do api.KeepingStepDo, says string) (*reading.Result,
	error) {
	switch do {
	case api.KeepingStepDoSign:
		return a.Keeping.SignOff(ctx, result, says)
	case api.KeepingStepDoWithdraw:
		return a.Keeping.Withdraw(ctx, result, says)
	}
	return a.Keeping.Hold(ctx, result, do == api.KeepingStepDoHold, says)
}

func note(n model.ResultNote) api.Note {
	out := api.Note{Number: n.Number, Result: answer.ResultID(n.Result), Person: n.Person, At: n.At, Says: n.Says,
		SettledBy: answer.Given(n.SettledBy), SettledAt: answer.Moment(n.SettledAt)}
	if n.Answers > 0 {
		out.Answers = &n.Answers
	}
	if n.About.View != "" {
		filters := answer.List(n.About.Filters)
		out.About = &api.NoteAbout{View: n.About.View, Filters: &filters, Says: &n.About.Says}
	}
	return out
}

// WriteNote answers POST /results/{result}/notes.
func (s Keeping) WriteNote(ctx context.Context, r handlers.WriteNoteRequestObject) (handlers.WriteNoteResponseObject,
	error) {
	n, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	given := keeping.NewNote{Says: r.Body.Says, Answers: answer.Value(r.Body.Answers), Row: r.Body.Row}
	if about := r.Body.About; about != nil {
		given.About = model.NoteAbout{View: about.View, Filters: answer.Value(about.Filters), Says: answer.Value(about.Says)}
	}
	written, err := answer.As(ctx).Keeping.WriteNote(ctx, n, given)
	return handlers.WriteNote201JSONResponse(note(written)), err
}

// SettleNote answers PUT /notes/{number}/settled.
func (s Keeping) SettleNote(ctx context.Context, r handlers.SettleNoteRequestObject) (handlers.SettleNoteResponseObject,
	error) {
	n, err := answer.As(ctx).Keeping.SettleNote(ctx, r.Number, r.Body.Settled)
	return handlers.SettleNote200JSONResponse(note(n)), err
}

// GetSignRule answers GET /reports/{report}/sign-rule.
func (s Keeping) GetSignRule(ctx context.Context,
	r handlers.GetSignRuleRequestObject) (handlers.GetSignRuleResponseObject, error) {
	rule, err := answer.As(ctx).Keeping.SignRule(ctx, r.Report)
	out := api.SignRule{Steps: rule.Steps, Who: answer.Opening(rule.Who)}
	return handlers.GetSignRule200JSONResponse(out), err
}

// PutSignRule answers PUT /reports/{report}/sign-rule.
func (s Keeping) PutSignRule(ctx context.Context,
	r handlers.PutSignRuleRequestObject) (handlers.PutSignRuleResponseObject, error) {
	err := answer.As(ctx).Keeping.PutSignRule(ctx, model.SignRule{Report: r.Report, Steps: r.Body.Steps,
		Who: answer.Openings(&r.Body.Who)})
	return handlers.PutSignRule204Response{}, err
}
