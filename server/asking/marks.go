package asking

import (
	"context"
	"fmt"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/asking"
	"mantilla/server/answer"
)

func lookedTill(m asking.Mark, zone *time.Location) api.Mark {
	return api.Mark{Id: fmt.Sprintf("M-%d", m.Number), Whose: m.Of, Parameter: m.Parameter, Label: m.Label, At: m.At,
		Says: m.At.In(zone).Format("2 January 2006 15:04 MST"), Run: answer.RunID(m.Run), Sentence: m.Sentence}
}

// ListMarks answers GET /reports/{report}/marks.
func (s Asking) ListMarks(ctx context.Context, r handlers.ListMarksRequestObject) (handlers.ListMarksResponseObject,
	error) {
	all, err := answer.As(ctx).Asking.Marks(ctx, r.Report)
	out := handlers.ListMarks200JSONResponse{}
	for _, m := range all {
		out = append(out, lookedTill(m, answer.As(ctx).Zone()))
	}
	return out, err
}

// SetMark answers PUT /marks/{mark}: set back, or on, until when one looked.
func (s Asking) SetMark(ctx context.Context, r handlers.SetMarkRequestObject) (handlers.SetMarkResponseObject,
	error) {
	n, err := answer.Number("mark", "M-", r.Mark)
	if err != nil {
		return nil, err
	}
	m, err := answer.As(ctx).Asking.SetMark(ctx, n, r.Body.At)
	return handlers.SetMark200JSONResponse(lookedTill(m, answer.As(ctx).Zone())), err
}

// DeleteMark answers DELETE /marks/{mark}: forget until when one looked.
func (s Asking) DeleteMark(ctx context.Context,
	r handlers.DeleteMarkRequestObject) (handlers.DeleteMarkResponseObject, error) {
	n, err := answer.Number("mark", "M-", r.Mark)
	if err != nil {
		return nil, err
	}
	return handlers.DeleteMark204Response{}, answer.As(ctx).Asking.DeleteMark(ctx, n)
}
