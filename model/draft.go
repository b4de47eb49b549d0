package model

import (
	"fmt"
	"strings"
	"time"
)

// DraftState is how far a draft is.
type DraftState string

// The states of a draft. What is taken into the catalog is no draft any more.
const (
	Writing   DraftState = "writing"
	HandedIn  DraftState = "handed in"
	GivenBack DraftState = "given back"
)

// Draft is a definition on its way into the catalog.
type Draft struct {
	Number    int64
	Report    string // the id in its text, "" while it has none
	Title     string
	Text      string
	Base      string // the version of the report that it began from; "" for a new report
	Owner     string
	Writers   []string  // who writes it with the owner
	Testers   []Opening // to whom it is open for trying out
	State     DraftState
	Note      string // what was said at the last step
	NotedBy   string
	Revision  int64
	ChangedAt time.Time
	ChangedBy string
}

const draftPrefix = "draft-"

// ReportID is the id under which the draft is tried out.
func (d *Draft) ReportID() string { return fmt.Sprintf("%s%d", draftPrefix, d.Number) }

// IsDraft tells whether a report's id is that of a draft.
func IsDraft(report string) bool {
	digits, ok := strings.CutPrefix(report, draftPrefix)
	return ok && digits != "" && strings.Trim(digits, "0123456789") == ""
}

// Notice is what the service tells a person on their desk.
type Notice struct {
	Number int64
	Person string
	At     time.Time
	About  string // draft or report
	Says   string
	Place  string // within the console
}

// Dependent is something of somebody's that a change of a report may break.
type Dependent struct {
	Kind  string // criteria, control, view, tile or report
	ID    string // as it is addressed
	Name  string
	Owner string
}
