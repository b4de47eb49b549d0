package model

import "time"

// The kinds of things that are in the trash before they are gone.
const (
	ThrownResult   = "result"
	ThrownCriteria = "criteria"
	ThrownControl  = "control"
	ThrownView     = "view"
	ThrownTile     = "tile"
	ThrownReport   = "report"
	ThrownDraft    = "draft"
	ThrownDocument = "document" // or a link
	ThrownMark     = "mark"     // until when somebody looked
	ThrownCalendar = "calendar" // of days off
	ThrownSource   = KindSource
	ThrownGroup    = KindGroup
	ThrownAccount  = KindAccount
)

// TrashDays is how long what was deleted can be brought back.
const TrashDays = 30

// Thrown is something that was deleted and can be brought back: its kind, its id as the
// outside sees it, and what it was called.
type Thrown struct {
	Kind, ID string
	Name     string
	Report   string // of which it is; "" for none
	Owner    string // a person; of a tile, whose desk it was on; of what the office keeps, who deleted it
	At       time.Time
}
