package model

import "time"

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
