// Package keeping answers calls about what results are kept for.
package keeping

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/keeping"
	"mantilla/model"
	"mantilla/server/answer"
	"mantilla/server/capture"
)

// Keeping answers calls about what results are kept for.
type Keeping struct{ *answer.Service }

// Compare answers POST /comparisons.
func (s Keeping) Compare(ctx context.Context, r handlers.CompareRequestObject) (handlers.CompareResponseObject, error) {
	c := keeping.Comparison{}
	if r.Body.Key != nil {
		c.Key = *r.Body.Key
	}
	var err error
	if c.Before, err = side("before", r.Body.Before); err != nil {
		return nil, err
	}
	if c.After, err = side("after", r.Body.After); err != nil {
		return nil, err
	}
	run, err := answer.As(ctx).Keeping.Compare(ctx, c)
	if err != nil {
		return nil, err
	}
	return handlers.Compare201JSONResponse(capture.Out(run, s.Library.Settings().Now())), nil
}

// side reads one of two results, by the name of its part.
func side(part string, given api.ComparedSide) (out keeping.Side, err error) {
	out = keeping.Side{Report: answer.Value(given.Report), Dataset: answer.Value(given.Dataset),
		Version: answer.Value(given.Version), Moved: answer.Value(given.Moved)}
	if given.Values != nil {
		out.Typed = *given.Values
	}
	if out.Result, err = answer.OptionalNumber(part, "R-", given.Result); err != nil {
		return out, err
	}
	if (out.Result > 0) == (out.Report != "") {
		err = model.Refuse(part, "it is either a result, such as R-000012, or a report with values")
	}
	return out, err
}
