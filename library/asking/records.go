package asking

import (
	"context"
	"time"

	"mantilla/model"
)

// Records are what the room keeps: criteria, usual values, and marks of the last look.
type Records interface {
	AddCriteria(ctx context.Context, c model.Criteria) (model.Criteria, error)
	ControlOf(ctx context.Context, id string) (title, owner string, err error)
	CriteriaFor(ctx context.Context, report string, w model.Seen, search string, limit int) ([]model.Criteria, error)
	CriteriaOf(ctx context.Context, number int64, person string) (model.Criteria, error)
	DeleteCriteria(ctx context.Context, number int64, now time.Time) error
	DeleteMark(ctx context.Context, t model.Thrown) error
	PutBack(ctx context.Context, kind, id string) error
	LastTyped(ctx context.Context, person, report string) (typed map[string]string, err error)
	MarkAt(ctx context.Context, m model.Mark) (time.Time, error)
	MarkNumbered(ctx context.Context, number int64) (model.Mark, error)
	Marks(ctx context.Context, report string) ([]model.Mark, error)
	PastCriteria(ctx context.Context, number int64) ([]model.Criteria, error)
	PutCriteria(ctx context.Context, c model.Criteria) error
	RestoreCriteria(ctx context.Context, number int64) error
	SameResult(ctx context.Context, digest, fingerprint string) (model.Result, error)
	SentenceOf(ctx context.Context, run int64) (sentence string, err error)
	SignedFacts(ctx context.Context, report string) ([]model.Fact, error)
	SetMark(ctx context.Context, number int64, at time.Time) error
	SetUsual(ctx context.Context, person, report string, number int64) error
	Usual(ctx context.Context, person, report string) (typed map[string]string, err error)
}
