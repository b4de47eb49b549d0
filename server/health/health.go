// Package health answers calls about how the catalog does.
package health

import (
	"context"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// Health answers calls about how the catalog does.
type Health struct{ *answer.Service }

// GetHealth answers GET /health.
func (s Health) GetHealth(ctx context.Context, r handlers.GetHealthRequestObject) (handlers.GetHealthResponseObject,
	error) {
	who := answer.As(ctx)
	days := answer.Or(r.Params.UnusedDays, 180)
	problems, err := who.Health.Problems(ctx, time.Duration(days)*24*time.Hour)
	out := handlers.GetHealth200JSONResponse{Reports: who.Health.Reports(), Problems: []api.HealthProblem{}}
	for _, p := range problems {
		out.Problems = append(out.Problems, api.HealthProblem{Report: p.Report, Title: p.Title, Kind: p.Kind, Says: p.Says,
			Mend: p.Mend, Place: p.Place})
	}
	return out, err
}

// GetUse answers GET /reports/{report}/use.
func (s Health) GetUse(ctx context.Context, r handlers.GetUseRequestObject) (handlers.GetUseResponseObject, error) {
	months, err := answer.As(ctx).Health.Uses(ctx, r.Report)
	out := handlers.GetUse200JSONResponse{}
	for _, u := range months {
		out = append(out, api.MonthOfUse{Month: u.Month, Runs: u.Runs, Failed: u.Failed, People: u.People,
			Results: u.Results, Readers: u.Readers, Reads: u.Reads, Exports: u.Exports, Seconds: u.Seconds})
	}
	return out, err
}
