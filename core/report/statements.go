package report

import (
	"fmt"

	"mantilla/core/frame"
)

// Statement is what somebody else says of the rows of a dataset, as a bank of payments: how it
// is read from a file, and which of its lines can belong to which row.
type Statement struct {
	ID    string
	Title string
	Of    string // dataset

	// Columns of the dataset.
	Day       string // the day that lines follow
	Amount    string
	Reference string // "" for none

	// When a line can belong to a row.
	From, To  int    // working days after the day
	Calendar  string // whose days off count; "" for Saturdays and Sundays alone
	Tolerance string // by how much amounts may differ, as a number; "" for nothing

	Reversed bool // the statement gives amounts with the other sign
	File     StatementFile
}

// StatementFile is how CSV and XLSX files are read. A camt.053 file needs none of it.
type StatementFile struct {
	Day, Amount, Reference, Text, Currency string // headings; "" for columns that are not there
	Separator                              string // comma, semicolon, tab or bar
	Decimal                                string // point or comma
	Dates                                  string // iso (2026-10-14), dmy (14.10.2026) or mdy (10/14/2026)
}

// Statement returns the statement with that id, or nil.
func (d *Definition) Statement(id string) *Statement {
	for i := range d.Statements {
		if d.Statements[i].ID == id {
			return &d.Statements[i]
		}
	}
	return nil
}

// Check tells why rows as a definition reads them cannot be held against the statement.
func (s *Statement) Check(d *Definition) error {
	set := d.Dataset(s.Of)
	if set == nil {
		return fmt.Errorf("the statement %s is of the dataset %q, which is not declared", s.ID, s.Of)
	}
	for _, want := range []struct {
		what, id string
		is       func(frame.Kind) bool
		kind     string
	}{
		{"day", s.Day, func(k frame.Kind) bool { return k == frame.Date }, "a date"},
		{"amount", s.Amount, frame.Kind.Numeric, "a number"},
		{"reference", s.Reference, func(k frame.Kind) bool { return k == frame.Text }, "a text"},
	} {
		if want.what == "reference" && want.id == "" {
			continue
		}
		c := set.Column(want.id)
		if c == nil || c.AtGroups || !want.is(c.Kind) {
			return fmt.Errorf("the %s of the statement %s is the column %q, which is not %s in the rows of %s", want.what, s.ID,
				want.id, want.kind, s.Of)
		}
	}
	if s.Tolerance != "" {
		if n, err := frame.ParseNumber(s.Tolerance, set.Column(s.Amount).Scale); err != nil || n < 0 {
			return fmt.Errorf("the tolerance %q of the statement %s is no amount such as 0.05", s.Tolerance, s.ID)
		}
	}
	return nil
}
