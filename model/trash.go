package model

import (
	"encoding/json"
	"time"
)

// The kinds of things that are in the trash before they are gone.
const (
	ThrownResult   = "result"
	ThrownCriteria = "criteria"
	ThrownControl  = "control"
	ThrownView     = "view"
	ThrownTile     = "tile"
)

// TrashDays is how long what was deleted can be brought back.
const TrashDays = 30

// Thrown is something that was deleted and can be brought back: its kind, its id as the
// outside sees it, and what it was called.
type Thrown struct {
	Kind, ID string
	Name     string
	Report   string // of which it is; "" for run controls and tiles
	Owner    string // a person; of a tile, the person or group whose desk it was on
	At       time.Time
}

// Tile is one that was taken off a desk.
type Tile struct {
	Number      int64
	Kind, Owner string // of the desk
	Tile        json.RawMessage
	Title       string
	At          time.Time
}

// DeskChange is a desk as it then is, with the tiles that were taken off it and the
// number of the one that came back to it; 0 for none.
type DeskChange struct {
	Desk
	Thrown   []Tile
	Returned int64
}
