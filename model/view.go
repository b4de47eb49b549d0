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
