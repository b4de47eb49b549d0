package desk

import (
	"context"

	"mantilla/model"
)

// Records are what the room keeps: the tiles of people and groups.
type Records interface {
	Desk(ctx context.Context, kind, owner string) (model.Desk, error)
	LatestOf(ctx context.Context, sees model.Sight, control string, step int, part string, limit int) ([]int64, error)
	PutDesk(ctx context.Context, d model.DeskChange) error
	ThrownTile(ctx context.Context, number int64) (model.Tile, error)
}
