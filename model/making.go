package model

import (
	"time"

	"mantilla/core/reconcile"
	"mantilla/core/report"
)

// Making says that a result is made of others.
type Making struct {
	How string   `json:"how"` // see [HowCompare]
	Of  []MadeOf `json:"of"`
	Key []string `json:"key,omitempty"` // columns that find a row on the other side

	// Restates says that the first result was signed off, and that people are told where the
	// second, of the same values, is not the same.
	Restates bool `json:"restates,omitempty"`

	Against *Against `json:"against,omitempty"` // of [HowReconcile]
	Series  *Series  `json:"series,omitempty"`  // of [HowHistory]
}

// How a result is made of others.
const (
	HowCompare   = "compare"   // what changed from the first of two results to the second
	HowHistory   = "history"   // the results of a run control in their order
	HowReconcile = "reconcile" // the first held against a statement, with what the second left open
)

// Against is the statement that a result is reconciled with, and how.
type Against struct {
	Statement int64              `json:"statement"`
	Name      string             `json:"name"`
	Digest    string             `json:"digest"` // SHA-256 of the file
	By        report.Statement   `json:"by"`
	Until     string             `json:"until"` // the last day that it covers
	Chosen    []reconcile.Choice `json:"chosen,omitempty"`
}

// Series are the results that a history is read of.
type Series struct {
	Control string   `json:"control"`
	Track   []string `json:"track"`          // columns whose change begins another state
	Days    []string `json:"days"`           // on which each result was captured
	Gaps    []Gap    `json:"gaps,omitempty"` // in their order
}

// Gap is a day of which nothing was kept.
type Gap struct {
	Day    string `json:"day"`
	Reason string `json:"reason"`
}

// Statement is a file of what somebody else states of a report's rows.
type Statement struct {
	Number       int64
	Report       string
	Declared     string // the statement of the report's definition that it is read as
	Name         string
	Digest       string // SHA-256 of the file
	Lines        int
	First, Until string // the days that it covers
	Total        string // of its amounts, with the sign of the report's
	At           time.Time
	By           string
}

// MadeOf is one of the results that a result is made of.
type MadeOf struct {
	Result  int64  `json:"result,omitempty"`
	Run     int64  `json:"run,omitempty"` // whose result it is, where there was none when it was asked for
	Report  string `json:"report"`
	Dataset string `json:"dataset,omitempty"` // "" for that of the view which opens first
	Seal    string `json:"seal,omitempty"`    // of the result, once it is made
}

// Beside is a report, other than the one that a result stands under, whose rows are in it.
func (m *Making) Beside(report string) string {
	if m != nil {
		for _, of := range m.Of {
			if of.Report != report {
				return of.Report
			}
		}
	}
	return ""
}

// MissedMoment is a due moment of a run control that gave no result.
type MissedMoment struct {
	Control string
	Title   string
	Owner   string
	Moment  time.Time
	Reason  string
	Run     int64 // the run of the control; 0 where there was none
}
