package model

import (
	"encoding/json"
	"time"
)

// FileVersion is a file that was brought for a table of a source, or came by itself.
type FileVersion struct {
	Number        int64
	Source, Table string
	Name          string
	Bytes         int64
	Digest        string // SHA-256 in hex
	Rows          int64
	LeftOut       int64           // lines that did not fit and were left out
	Faults        json.RawMessage // the first of them
	Person        string          // "" for one that came by itself
	At            time.Time
	InUse         bool // it is what the table has
}

// FileLook is what became of the last look for a file that comes by itself for a table.
type FileLook struct {
	Source, Table string
	At            time.Time // zero where nobody looked yet
	State         string    // what tells whether there is another file
	Digest        string    // of the last file that was taken; "" for none
	Fault         string    // why it was not taken, or could not be read; "" where all is well
}
