package model

import "time"

// Mark is until when somebody looked at a report: the end of the last range
// that a parameter had as since last run, for the same other values.
type Mark struct {
	Number    int64
	Whose     string // control ID, criteria NUMBER or person NAME
	Report    string
	Parameter string
	Others    string // digest of the other values
	At        time.Time
	Run       int64 // that looked
}

// Criteria are values kept under a name, as typed.
type Criteria struct {
	Number    int64
	Report    string
	Name      string
	Owner     string
	Shared    string // group it is shared with, everyone, or "" for nobody
	Typed     map[string]string
	Version   string // of the report when they were kept
	Revision  int64
	ChangedAt time.Time
	Deleted   bool
	Usual     bool      // they are the asking person's usual
	LastRun   time.Time // zero when they never ran well
	LastRows  int64     // -1 where they are not told
}
