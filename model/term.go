package model

import "time"

// Term is a word of the glossary.
type Term struct {
	ID        string
	Name      string
	Also      []string // other words for the same
	Meaning   string
	Owner     string // who answers for the meaning; "" for nobody
	Revision  int64
	ChangedAt time.Time
	ChangedBy string
}
