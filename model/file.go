package model

import (
	"encoding/json"
	"time"
)

// FileVersion is a file that somebody brought for a table of a source.
type FileVersion struct {
	Number        int64
	Source, Table string
	Name          string
	Bytes         int64
	Digest        string // SHA-256 in hex
	Rows          int64
	LeftOut       int64           // lines that did not fit and were left out
	Faults        json.RawMessage // the first of them
	Person        string
	At            time.Time
	InUse         bool // it is what the table has
}
