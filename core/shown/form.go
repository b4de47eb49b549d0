package shown

import (
	"fmt"
	"time"
)

// Form is how figures and days are written for somebody. The zero Form is that of
// the house: 1,234.50 and 30 Sep 2026, moments in UTC.
type Form struct {
	Zone    *time.Location // of moments; nil for UTC
	Numbers string         // one of the names of [NumberForms]; "" is comma
	Days    string         // one of the names of [DayForms]; "" is words
}

// NumberForms are the ways of writing numbers, by the mark between groups of three digits.
var NumberForms = []string{"comma", "dot", "space", "apostrophe"}

// DayForms are the ways of writing days.
var DayForms = []string{"words", "dots", "slashes", "month-first", "iso"}

// marks are what stands between groups of three digits, and before what is less than one.
type marks struct {
	group string
	point byte
}

// A group never breaks over two lines: its space is one that does not.
func (f Form) marks() marks {
	switch f.Numbers {
	case "dot":
		return marks{".", ','}
	case "space":
		return marks{"\u00a0", ','}
	case "apostrophe":
		return marks{"\u2019", '.'}
	}
	return marks{",", '.'}
}

// words is how a day is written in words, as the time package has layouts.
const words = "2 Jan 2006"

// day is how a day is written, as the time package has layouts.
func (f Form) day() string {
	switch f.Days {
	case "dots":
		return "02.01.2006"
	case "slashes":
		return "02/01/2006"
	case "month-first":
		return "01/02/2006"
	case "iso":
		return time.DateOnly
	}
	return words
}

// String names the form, for what is kept by it.
func (f Form) String() string { return fmt.Sprint(f.Zone, " ", f.Numbers, " ", f.Days) }

// In is the form with moments in a zone.
func (f Form) In(zone *time.Location) Form {
	f.Zone = zone
	return f
}
