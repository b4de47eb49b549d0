package model

import (
	"time"

	"mantilla/core/period"
)

// Care is who looks after a report, and how.
type Care struct {
	Report   string
	Owner    string     // an account; "" for nobody
	Review   bool       // it is to be looked at again
	ReviewOn period.Day // on that day, where it is
	Every    int        // months from one review to the next; 0 for once
	Listed   bool       // people to whom it is not open see that there is one, and may ask for it
}

// Due tells whether a report is to be looked at on a day.
func (c Care) Due(today period.Day) bool { return c.Review && c.ReviewOn <= today }

// Request is somebody's wish for a report that is not open to them.
type Request struct {
	Number     int64
	Report     string
	Person     string
	At         time.Time
	Says       string
	State      string // open, granted or refused
	Answer     string
	AnsweredBy string
	AnsweredAt time.Time
}

// What somebody does with a report.
const (
	VisitForm   = "form"
	VisitRun    = "run"
	VisitRead   = "read"
	VisitExport = "export"
)

// Feedback is what a reader wrote to those who keep a report.
type Feedback struct {
	Number     int64
	Report     string
	Result     int64 // that it is about; 0 for none
	Person     string
	At         time.Time
	Says       string
	State      string // open, answered or done
	Answer     string
	AnsweredBy string
	AnsweredAt time.Time
}
