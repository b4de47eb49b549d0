package model

import (
	"time"
)

// Sign is a person's word that a result was checked.
type Sign struct {
	Person string    `json:"person"`
	Title  string    `json:"title"` // how the person was called then
	At     time.Time `json:"at"`
	Says   string    `json:"says,omitempty"`
}

// SignRule is who may sign the results of a report off, and in how many steps, each by another
// person.
type SignRule struct {
	Report string
	Who    []Opening // none for its owner and librarians
	Steps  int       // 1 or 2
}

// What can be done about keeping a result.
const (
	ActSigned    = "signed"
	ActWithdrawn = "withdrawn"
	ActHeld      = "held"
	ActReleased  = "released"
)

// Act is something that was done about keeping a result.
type Act struct {
	What   string
	Person string
	At     time.Time
	Says   string
}

// ResultNote is what a person wrote on a result, or on rows of it.
type ResultNote struct {
	Number    int64
	Result    int64
	Answers   int64 // the note that it answers; 0 for none
	Person    string
	At        time.Time
	Says      string
	About     NoteAbout
	SettledBy string
	SettledAt time.Time // zero while it is open
}

// NoteAbout is what of a result a note is about: rows of a view that filters select. A zero one
// is the whole result.
type NoteAbout struct {
	View    string
	Filters []string
	Says    string // as people read it
}

// SigningKey is a key of Ed25519 that proofs of results are signed with.
type SigningKey struct {
	ID     string
	Public []byte
	Seed   []byte // of the private key; none where nothing is signed with it any more
	MadeAt time.Time
}
