package report

import (
	"slices"
	"strings"
)

// Entry says that a column is filled in by people, beside the rows: its cells belong to the key of
// a row, and stay when the rows are read anew.
type Entry struct {
	Options []string // what may be typed; none for anything of the column's type
	Least   string   // of numbers; "" for no bound
	Most    string
	Default string   // a formula of the row, for cells that nobody filled in
	Who     []string // groups of people; none for everybody who may run reports
	Until   string   // the last day on which it is open, "signed" for until a result is signed off, "" for always
	Before  bool     // what stood there at the end of the last month is a column too
}

// Of columns that people fill in: what they typed, and what stood there at the end of last month.
const (
	TypedPrefix  = "entered_"
	BeforePrefix = "before_"
)

// UntilSigned says that entries are open until a result is signed off.
const UntilSigned = "signed"

// HasEntries tells whether people fill in any column.
func (d *Dataset) HasEntries() bool {
	return slices.ContainsFunc(d.Columns, func(c Column) bool { return c.Entry != nil })
}

// Typed is the dataset as it is read: what people typed stands in columns behind those that were
// kept, entered_x of a column x, and before_x where the column has that of last month beside it.
func (d *Dataset) Typed() *Dataset {
	if !d.HasEntries() || slices.ContainsFunc(d.Columns, func(c Column) bool { return c.TypedOf != "" }) {
		return d
	}
	out := *d
	out.Columns = slices.Clone(d.Columns)
	for _, c := range d.Columns {
		if c.Entry == nil {
			continue
		}
		as := func(prefix, says string) {
			out.Columns = append(out.Columns, Column{ID: prefix + c.ID, Label: c.Label + says, Kind: c.Kind, Scale: c.Scale,
				Currency: c.Currency, Unit: c.Unit, TypedOf: c.ID})
		}
		as(TypedPrefix, ", typed in")
		if c.Entry.Before {
			as(BeforePrefix, ", last month")
		}
	}
	return &out
}

// IsBefore tells whether a column of [Dataset.Typed] is what stood there at the end of last month.
func (c *Column) IsBefore() bool { return c.TypedOf != "" && strings.HasPrefix(c.ID, BeforePrefix) }
