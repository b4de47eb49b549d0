package model

import (
	"encoding/json"
	"time"

	"mantilla/core/ask"
)

// View is a view of a report as somebody keeps it.
type View struct {
	Number    int64
	Report    string
	Base      string // the view of the report
	Name      string
	Owner     string
	Everyone  bool
	Changes   ask.Changes
	Seen      []string // the columns that the dataset had
	Revision  int64
	ChangedAt time.Time
}

// Desk is the tiles of a person or a group, as the library writes them.
type Desk struct {
	Kind, Owner string
	Tiles       json.RawMessage
	Revision    int64
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
