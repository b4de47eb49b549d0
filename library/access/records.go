package access

import (
	"context"
	"time"

	"mantilla/model"
)

// Records are what the room keeps: accounts, groups, sessions, and to whom reports are open.
type Records interface {
	AddSession(ctx context.Context, n model.Session) error
	Data(ctx context.Context, person string) (map[string][]map[string]any, error)
	DeleteGroup(ctx context.Context, t model.Thrown) error
	DeletePerson(ctx context.Context, t model.Thrown) error
	PutBack(ctx context.Context, kind, id string) error
	EndSession(ctx context.Context, digest string) error
	Erase(ctx context.Context, alias string) error
	Groups(ctx context.Context) ([]model.Group, error)
	Introduce(ctx context.Context, p model.Person, groups []string) error
	KeptFor(ctx context.Context, person string) (kept []string, err error)
	OpeningWish(ctx context.Context, report string) (model.OpeningWish, error)
	Openings(ctx context.Context) (map[string][]model.Opening, error)
	People(ctx context.Context) ([]model.Person, error)
	Person(ctx context.Context, name string) (model.Person, error)
	PersonOf(ctx context.Context, subject string) (model.Person, error)
	PutGroup(ctx context.Context, g model.Group) error
	PutOpeningWish(ctx context.Context, w model.OpeningWish) error
	PutOpenings(ctx context.Context, report string, to []model.Opening) error
	PutPerson(ctx context.Context, p model.Person) error
	Reinstate(ctx context.Context, kind, id string) error
	Rename(ctx context.Context, kind, from, to string) error
	Retire(ctx context.Context, r model.Retired) error
	Retired(ctx context.Context) ([]model.Retired, error)
	Second(ctx context.Context, person string) (model.Second, error)
	PutSecond(ctx context.Context, x model.Second, was int64) error
	DeleteSecond(ctx context.Context, person string) error
	Passkeys(ctx context.Context, person string) ([]model.Passkey, error)
	Passkey(ctx context.Context, id string) (model.Passkey, error)
	AddPasskey(ctx context.Context, k model.Passkey) error
	UsedPasskey(ctx context.Context, k model.Passkey, was []byte) error
	DeletePasskey(ctx context.Context, person, id string) error
	SessionPerson(ctx context.Context, digest string, now time.Time) (model.Person, model.Session, error)
	SessionUsed(ctx context.Context, digest string, at time.Time) error
	Sessions(ctx context.Context, person string, now time.Time) ([]model.Session, error)
	SetZone(ctx context.Context, name, zone string) error
	SetWays(ctx context.Context, name string, w model.Ways) error
}
