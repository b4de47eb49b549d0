package model

import "time"

// Making says that a result is made of others.
type Making struct {
	How string   `json:"how"` // see [HowCompare]
	Of  []MadeOf `json:"of"`
	Key []string `json:"key,omitempty"` // columns that find a row on the other side

	// Restates says that the first result was signed off, and that people are told where the
	// second, of the same values, is not the same.
	Restates bool `json:"restates,omitempty"`
}

// HowCompare makes what changed from the first of two results to the second.
const HowCompare = "compare"

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
