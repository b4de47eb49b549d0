package keeping

import (
	"context"
	"time"

	"mantilla/model"
)

// Records are what the room keeps: sign-offs, holds and notes.
type Records interface {
	Acts(ctx context.Context, result int64) ([]model.Act, error)
	AddNote(ctx context.Context, n model.ResultNote) (number int64, err error)
	PutSigningKey(ctx context.Context, k model.SigningKey) error
	// SigningKeys are all keys that proofs were ever signed with, the present one first.
	SigningKeys(ctx context.Context) ([]model.SigningKey, error)
	// Missed are due moments that gave no result by a time and of which nobody was told.
	Missed(ctx context.Context, by time.Time, limit int) ([]model.MissedMoment, error)
	ToldMissed(ctx context.Context, m model.MissedMoment) error
	Note(ctx context.Context, number int64) (model.ResultNote, error)
	Notes(ctx context.Context, result int64) ([]model.ResultNote, error)
	PutHold(ctx context.Context, result int64, held bool, a model.Act) error
	PutSignRule(ctx context.Context, rule model.SignRule) error
	PutSigns(ctx context.Context, result int64, seen, signs []model.Sign, whole bool, a model.Act) error
	SettleNote(ctx context.Context, number int64, by string, at time.Time) error
	SignRule(ctx context.Context, report string) (model.SignRule, error)
}
