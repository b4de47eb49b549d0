package reading

import (
	"context"
	"time"

	"mantilla/core/frame"
	"mantilla/model"
	"mantilla/seal"
	"mantilla/store/cache"
)

// Records are what the room keeps: results, their rows, and views that people keep of them.
type Records interface {
	// Cache keeps in memory what is dear to compute of results.
	Cache() *cache.Cache

	AddView(ctx context.Context, v model.View) (model.View, error)
	CheckSeal(ctx context.Context, r model.Result) (bool, error)
	BringBack(ctx context.Context, number int64) error
	// DeleteExpired puts into the trash what was kept long enough and deletes what was there long enough.
	DeleteExpired(ctx context.Context, now time.Time) (trashed, deleted []int64, err error)
	DeleteView(ctx context.Context, number int64, at time.Time) error
	DeletedView(ctx context.Context, number int64) (model.View, error)
	Frame(ctx context.Context, r model.Result, dataset string, schema frame.Schema) (*frame.Frame, error)
	Origin(ctx context.Context, name, present string) (text string, err error)
	PutView(ctx context.Context, v model.View) error
	Result(ctx context.Context, number int64) (model.Result, error)
	ResultOf(ctx context.Context, run int64) (number int64, err error)
	RestoreView(ctx context.Context, number int64) error
	Results(ctx context.Context, w model.ResultWish) ([]model.Result, error)
	// Sealed hands on everything that a result's seal is over.
	Sealed(ctx context.Context, r model.Result, p *seal.Proof) error
	Trash(ctx context.Context, number int64, by string, at time.Time) error
	Trashed(ctx context.Context, number int64) (model.Result, error)
	View(ctx context.Context, number int64) (model.View, error)
	Views(ctx context.Context, report, person string) ([]model.View, error)
}
