package model

import (
	"encoding/json"
	"strings"
	"time"
)

// How an entry can come about.
const (
	WayTyped  = "typed"
	WayPasted = "pasted"
	WayFile   = "file"
	WayUndone = "undone"
)

// Entry is a value that a person typed in beside a row.
type Entry struct {
	Number int64
	Column string
	Key    string // of the row
	Value  string // "" where it was taken away
	Person string
	At     time.Time
	Says   string // why
	Way    string
	Change int64 // entries that were made together have one number
	Undoes int64 // the change that it undoes; 0 for none
}

// EntryCell is a cell that is to be filled in: what was seen there before is the number of that
// entry, 0 for none.
type EntryCell struct {
	Column, Key, Value string
	Seen               int64
}

// EntryConflict says that somebody else filled in a cell meanwhile.
type EntryConflict struct{ Entry Entry }

func (c *EntryConflict) Error() string {
	value := c.Entry.Value
	if value == "" {
		value = "nothing"
	}
	var key []string
	_ = json.Unmarshal([]byte(c.Entry.Key), &key) // it is a list that the service wrote
	return c.Entry.Person + " typed " + value + " into " + c.Entry.Column + " of " + strings.Join(key, ", ") + " meanwhile"
}

// Is tells that it is a stale change.
func (c *EntryConflict) Is(target error) bool { return target == ErrStale }
