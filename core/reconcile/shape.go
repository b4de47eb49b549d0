package reconcile

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/shown"
)

// Datasets of a reconciliation: every row, and those that are not matched.
const (
	AllRows  = "rows"
	OpenRows = "open"
)

// Columns that a reconciliation has beside those of ours.
const (
	ClassColumn      = "class"
	howColumn        = "how"
	SetColumn        = "match_no"
	OursColumn       = "our_no"
	LineColumn       = "line_no"
	DayColumn        = "line_day"
	ReferenceColumn  = "line_reference"
	TextColumn       = "line_text"
	AmountColumn     = "line_amount"
	lagColumn        = "lag"
	DifferenceColumn = "difference"
	SinceColumn      = "since"
)

// settled tells whether rows of a class are done with: they are not open.
func settled(c Class) bool { return c == Matched || c == Before }

// Shape is what is written of a reconciliation: a row for each item, or for two that belong
// together.
type Shape struct {
	By   *report.Statement
	Rows report.Dataset // its id is [AllRows]
	Ours []string       // the columns of ours, by their ids
}

// Shaped shapes the reconciliation of a dataset. It fails where the dataset has a column of a name
// that the reconciliation needs.
func Shaped(set *report.Dataset, by *report.Statement) (*Shape, error) {
	amount := set.Column(by.Amount)
	own := func(id, label string, kind frame.Kind, about string) report.Column {
		return report.Column{ID: id, Label: label, Kind: kind, About: about}
	}
	money := func(id, label, about string) report.Column {
		return report.Column{ID: id, Label: label, Kind: amount.Kind, Scale: amount.Scale, Currency: amount.Currency,
			Unit: amount.Unit, Total: frame.Sum, About: about}
	}
	s := &Shape{By: by, Rows: report.Dataset{ID: AllRows, Columns: []report.Column{
		own(ClassColumn, "Became", frame.Text,
			"Matched, differs, doubtful, only ours, only theirs, next period or earlier period."),
		own(howColumn, "Found", frame.Text, "By what the two were found to belong together."),
		own(SetColumn, "Match", frame.Integer, "Rows of one number belong together."),
		own(OursColumn, "No.", frame.Integer, "The number of ours, by which it is chosen."),
	}}}
	for i := range set.Columns {
		c := &set.Columns[i]
		if c.AtGroups {
			continue
		}
		is := c.Bare()
		if c.ID == by.Amount {
			is.Total, is.Label = frame.Sum, c.Label+", ours"
		}
		s.Rows.Columns, s.Ours = append(s.Rows.Columns, is), append(s.Ours, c.ID)
	}
	s.Rows.Columns = append(s.Rows.Columns,
		own(LineColumn, "Line", frame.Integer, "The number of the statement's line, by which it is chosen."),
		own(DayColumn, "Stated on", frame.Date, "The day of the statement's line."),
		own(ReferenceColumn, "Stated reference", frame.Text, ""),
		own(TextColumn, "Stated text", frame.Text, ""),
		money(AmountColumn, "Stated", "The amount of the statement's line, with the sign of ours."),
		own(lagColumn, "After", frame.Integer, "Working days from the day of ours to that of the statement's line."),
		money(DifferenceColumn, "Difference", "What is stated less what is ours."),
		own(SinceColumn, "Brought from", frame.Text, "The reconciliation in which it was first left open."))
	s.Rows.Column(lagColumn).Unit = "days"
	for i, c := range s.Rows.Columns {
		for _, other := range s.Rows.Columns[:i] {
			if other.ID == c.ID {
				return nil, fmt.Errorf("%s has a column %q, which the reconciliation needs for itself", set.ID, c.ID)
			}
		}
	}
	return s, nil
}

// Sums are what the items of a class come to.
type Sums struct {
	Class        Class
	Ours, Theirs int64
	Sets         int
}

// Sum sums every class that has any set, in their order.
func Sum(ours, theirs []Item, sets []Set) (sums []Sums) {
	for _, class := range Classes {
		of := Sums{Class: class}
		for _, s := range sets {
			if s.Class == class {
				of.Sets, of.Ours, of.Theirs = of.Sets+1, of.Ours+sum(ours, s.Ours), of.Theirs+sum(theirs, s.Theirs)
			}
		}
		if of.Sets > 0 {
			sums = append(sums, of)
		}
	}
	return sums
}

// Say says how the difference of both sides comes about, to the last cent.
func (s *Shape) Say(sums []Sums) string {
	amount := s.Rows.Column(AmountColumn)
	written := func(n int64) string {
		return strings.TrimSpace(shown.Grouped(frame.Exact(n, amount.Scale).String()) + " " + amount.Currency)
	}
	var ours, theirs int64
	var counts, explain []string
	for _, c := range sums {
		ours, theirs = ours+c.Ours, theirs+c.Theirs
		counts = append(counts, fmt.Sprintf("%d %s", c.Sets, c.Class))
		if c.Theirs != c.Ours {
			explain = append(explain, fmt.Sprintf("%s %s", c.Class, written(c.Theirs-c.Ours)))
		}
	}
	said := fmt.Sprintf("%s. Ours %s, stated %s, difference %s", strings.Join(counts, ", "), written(ours),
		written(theirs),
		written(theirs-ours))
	if len(explain) > 0 {
		said += ": " + strings.Join(explain, ", ")
	}
	return said + "."
}

// Definition is how a reconciliation is read: the sums of each class, what is open, and every row.
func (s *Shape) Definition(d report.Definition, says string) *report.Definition {
	open := s.Rows
	open.ID = OpenRows
	d.Datasets = []report.Dataset{s.Rows, open}
	known := []string{s.By.Reference, s.By.Day, s.By.Amount}
	shown := slices.Concat([]string{OursColumn}, slices.DeleteFunc(known, func(id string) bool { return id == "" }),
		[]string{LineColumn, DayColumn, lagColumn, AmountColumn, DifferenceColumn, ReferenceColumn, TextColumn})
	order := []frame.Key{{Column: SetColumn}, {Column: OursColumn}, {Column: LineColumn}}
	d.Views = []report.View{
		{ID: "sums", Title: "What explains the difference", Says: says, Of: AllRows, Show: report.Table,
			Levels: []string{ClassColumn}, Open: 1, Empty: "say",
			Columns: []string{OursColumn, s.By.Amount, LineColumn, AmountColumn, DifferenceColumn}},
		{ID: "open", Title: "What is open", Of: OpenRows, Show: report.Table, Levels: []string{ClassColumn}, Open: 2,
			Empty: "say", Columns: slices.Concat(shown, []string{SinceColumn}), Sort: order},
		{ID: "matched", Title: "Every row", Of: AllRows, Show: report.Table, Levels: []string{ClassColumn}, Open: 1,
			Empty: "say", Columns: slices.Concat(shown, []string{howColumn, SetColumn, SinceColumn}), Sort: order},
	}
	d.Page = []string{"sums", "open"}
	return &d
}
