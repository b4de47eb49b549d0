package model

import (
	"time"

	"mantilla/core/report"
	"mantilla/core/shown"
)

// Sight says whose runs and results are seen: of the reports that are open to
// a person, those whose rows lie within the person's reach, and the person's
// own.
type Sight struct {
	All     bool // everything
	Person  string
	Reports []string
	Reach   report.Reach
}

// Role is how much a person may do; each role may do all that those before it
// may.
type Role string

// The roles, from the least to the most.
const (
	Reader        Role = "reader"
	Runner        Role = "runner"
	Author        Role = "author"
	Librarian     Role = "librarian"
	Administrator Role = "administrator"
)

// Person is an account.
type Person struct {
	Name     string // what is typed to sign in
	Title    string // how the person is called
	Role     Role
	Units    []string // codes that the person is limited to; none for no limit
	Groups   []string
	Closed   bool
	Given    []string // names of rights beyond those of the role
	Withheld []string // names of rights that the role has and the person has not
	Revision int64
	Password string // as bcrypt keeps it
	Zone     string // IANA, in which moments are said to them; "" for the organisation's
	Ways     Ways   // how they like the console
	Subject  string // who they are for the provider that they sign in by; "" for who has not yet
	Second   bool   // they have a second factor
	Owner    string // of a service account, which signs in by tokens alone: who answers for it; "" for a person
}

// Second is the second factor of an account: codes by time (RFC 6238), and some for the day it is
// lost.
type Second struct {
	Person    string
	Sealed    []byte   // secret of the codes
	Confirmed bool     // it counts
	Step      int64    // of the code that was used last
	Codes     []string // digests of those that are left
}

// Passkey is a key by which a person signs in without a password.
type Passkey struct {
	ID         string // of its credential, in base64url
	Person     string
	Label      string // what its owner calls it
	Credential []byte // what it is checked by
	MadeAt     time.Time
	LastAt     time.Time // zero for one that was not used yet
}

// Group is a group of people.
type Group struct {
	ID, Title string
	Members   []string
	Revision  int64
}

// Opening says to whom a report is open: a group, a person, or everyone.
type Opening struct{ Kind, Name string }

// OpeningWish is to whom somebody wants a report to be open, where another has to want it too.
type OpeningWish struct {
	Report string
	To     []Opening
	By     string
	At     time.Time
}

// Session is a signed-in browser or command line, known by the SHA-256 of its
// secret.
type Session struct {
	Digest string
	Person string
	Kind   string // browser or token
	Label  string
	MadeAt time.Time
	EndsAt time.Time
	As     Role      // what it does at most; "" for what its owner may
	Strong bool      // it was begun by more than a password, as by a passkey
	LastAt time.Time // when it was used last, to some minutes
}

// Seen says whose criteria and controls are wanted: a person's own and those
// shared with everyone or one of the groups.
type Seen struct {
	Person string
	Groups []string
	All    bool // whoever owns them
}

// Ways are how a person likes the console. Empty fields are as everybody has it.
type Ways struct {
	Opens   string `json:"opens,omitempty"`   // the place that it opens with: desk, catalog, controls, runs, results
	Density string `json:"density,omitempty"` // how lines stand: roomy or close
	Scheme  string `json:"scheme,omitempty"`  // light or dark; "" as the machine is
	Week    string `json:"week,omitempty"`    // its first day: monday, sunday or saturday
	Numbers string `json:"numbers,omitempty"` // how they are written; "" as the browser has it
	Days    string `json:"days,omitempty"`    // how they are written
}

// WaysToChoose are what each of the ways may be, by name.
var WaysToChoose = map[string][]string{"opens": {"desk", "catalog", "controls", "runs", "results"},
	"density": {"roomy", "close"}, "scheme": {"light", "dark"}, "week": {"monday", "sunday", "saturday"},
	"numbers": shown.NumberForms, "days": shown.DayForms}
