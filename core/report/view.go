package report

import (
	"strings"

	"mantilla/core/frame"
)

// Show is the form in which a view shows its rows.
type Show string

// The forms of views.
const (
	Table    Show = "table"
	Crosstab Show = "crosstab"
	Chart    Show = "chart"
	Timeline Show = "timeline"
	Form     Show = "form"
)

// View lays a dataset out. Levels, Down and Across are columns, formulas of
// rows such as month(received), or parameters that supply columns: ':levels'.
type View struct {
	ID      string
	Title   string
	Says    string // a sentence shown with it
	Hides   string `json:"-"` // which of its columns are hidden from who reads it, and how
	Of      string // dataset
	Show    Show
	Columns []string
	Chosen  string // parameter that supplies the columns
	Sort    []frame.Key
	Empty   string // say or omit: what a page does with it when there are no rows
	Zeros   string // omit leaves out groups, lines and crosstab columns whose figures are all nothing
	Names   string // names, codes or both: how columns with codes are shown
	Tones   []Tone // of whole rows

	// Of tables.
	Levels []string // what the rows are grouped by, outermost first
	Open   int      // how many levels are unfolded at first; one more than there are shows the rows
	Limit  int      // how many groups of the first level are shown; the others are one line
	Rest   string   // what that line is called
	Blanks []string // columns to be filled in by hand
	Break  bool     // each group of the first level begins a page where it is printed

	// Of crosstabs.
	Down, Across []string
	Cells        []string // measures
	Stacked      bool     // measures stand as lines under each row instead of side by side
	Fill         bool     // periods without rows are shown too

	// Of charts; the groups are Levels, the figures Cells.
	Drawn string // bar, line, area, pie, scatter or histogram
	X, Y  string // of scatter charts; X of histograms
	Bins  int    // of histograms
	Marks []Mark // limit lines

	// Of timelines.
	Start, End, Label string
}

// Mark is a line across a chart: a number, or a figure of all rows.
type Mark struct {
	At    string // a formula of groups
	Label string

	Place Place `json:"-"`
}

// Rows returns the view that shows all rows of a dataset with all columns,
// which every dataset has beside those of its author.
func (d *Dataset) Rows() *View {
	return &View{ID: d.ID + ".rows", Title: "Rows of " + Titled(d.ID), Of: d.ID, Show: Table, Empty: "say", Names: "both"}
}

// SortKey reads a column id with a minus sign before it for descending order.
func SortKey(text string) frame.Key {
	column, descending := strings.CutPrefix(text, "-")
	return frame.Key{Column: column, Descending: descending}
}

// Titled is an id as a title, where its author gave none.
func Titled(id string) string {
	if id == "" {
		return ""
	}
	return strings.ToUpper(id[:1]) + strings.NewReplacer("_", " ", "-", " ").Replace(id[1:])
}
