package catalog

import (
	"context"
	"time"

	"mantilla/model"
	"mantilla/store/catalog"
)

// Records are what the room keeps: sources, reports with their versions, and shared parameters.
type Records interface {
	DeleteReport(ctx context.Context, t model.Thrown) error
	Favourites(ctx context.Context, person string) ([]string, error)
	Rename(ctx context.Context, r catalog.Renaming, at time.Time) error
	Rewrite(ctx context.Context, r catalog.Rewriting, at time.Time) error
	Retire(ctx context.Context, id, successor string, at time.Time) error
	SetFavourite(ctx context.Context, person, report string, on bool) error
	DeleteSource(ctx context.Context, t model.Thrown) error
	PutBack(ctx context.Context, kind, id string) error
	Names(ctx context.Context) (map[string]string, error)
	PutReport(ctx context.Context, r model.Report, was string, at time.Time) error
	PutShared(ctx context.Context, text string, reports []model.Report, at time.Time) error
	PutSource(ctx context.Context, id, text string) error
	ReportText(ctx context.Context, report, version string) (text, shared string, err error)
	Reports(ctx context.Context) ([]model.Report, error)
	Shared(ctx context.Context) (text string, err error)
	Sources(ctx context.Context) ([]string, error)
	Uses(ctx context.Context, reports []string) (map[string]model.Use, error)
	Versions(ctx context.Context, report string) ([]model.Version, error)
}
