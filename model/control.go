package model

import (
	"encoding/json"
	"time"

	"mantilla/core/period"
)

// Control is a named way to run reports. What it consists of is kept as the
// library writes it.
type Control struct {
	ID        string
	Title     string
	Owner     string
	Shared    string
	Body      json.RawMessage
	Revision  int64
	ChangedAt time.Time
	ChangedBy string // "" where it was not written down yet
	Deleted   bool
	LastRun   time.Time // when it was last asked for; zero for never
	Next      time.Time // when it is due next; zero for never
	Paused    bool      // its timetable waits
}

// ControlRun is one run of a control: a run for each of its reports, in order.
// A control that is split has one for each part.
type ControlRun struct {
	Number   int64
	Control  string
	AskedBy  string
	AskedAt  time.Time
	Moment   time.Time // that was due; zero when somebody asked for it
	Part     string    // what part of the control it is; "" for the whole
	PartName string
	Plan     json.RawMessage // who gets what, as the library writes it
	Sending  string          // waiting, done, none or failed; "" where nothing is sent
	SentNote string
	Runs     []Run
}

// Due is one due moment as it is settled: the runs it gives, or why it gives
// none, and the control's next moment.
type Due struct {
	Control string
	Moment  time.Time // that was due
	Runs    []ControlRun
	State   string // skipped or refused, where there are no runs
	Reason  string
	Next    time.Time // zero for none
}

// DueNote tells of a moment that gave no run.
type DueNote struct {
	Control string
	Moment  time.Time
	State   string // skipped or refused
	Reason  string
}

// Calendar is days off, as an iCalendar file told them.
type Calendar struct {
	ID, Title, Text string
	Days            []period.Day
	Revision        int64
}
