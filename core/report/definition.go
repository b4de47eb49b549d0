// Package report is a report's definition, as [mantilla/core/definition] reads it: its
// parameters, datasets, columns and views, and how the values of a run settle it. It
// knows no source and runs nothing.
package report

import (
	"fmt"
	"slices"
	"time"

	"mantilla/core/frame"
	"mantilla/core/param"
)

// Definition is a report as its author wrote it, checked. What its values
// decide is settled by [Definition.Settle].
type Definition struct {
	ID          string
	Title       string
	Category    string
	Depth       string // overview, breakdown or lines
	Companions  []string
	Follow      string // who may run it by following a link from a row: runners, or readers too; "" means runners
	AsksPurpose bool   `json:",omitempty"` // whoever reads rows of its results says first what for
	About       string
	Guide       string
	Source      string
	Parameters  []param.Parameter
	Notes       []Note
	Datasets    []Dataset
	Views       []View
	Page        []string // ids of the views shown together, in order
	Imports     []Import
	Statements  []Statement
	Checks      []Check
	Expected    []Expected
	Limits      Limits
	Version     string // SHA-256 of the canonical content, in hex
	Text        string // the file as written

	ParameterLines []int `json:"-"` // where each parameter is declared
}

// Draft is the definition as it is tried out before it is in the catalog: under
// another id, and with a title that says on everything what it is.
func (d *Definition) Draft(id string) *Definition {
	tried := *d
	tried.ID, tried.Title = id, "Draft: "+d.Title
	return &tried
}

// Note is shown when its condition holds of the values.
type Note struct {
	When string // a formula over single values
	Say  string
}

// Limits bound a run of the report.
type Limits struct {
	Rows       int64         // most rows kept; 0 means the service's limit
	Time       time.Duration // longest time; 0 means the service's limit
	AfterCrash string        // fail or again: what becomes of a run that the service's end cut off
}

// Piece is a piece of the source's SQL and where it stands in the file. A piece
// may be switched: then By is a parameter, and Cases holds what stands for each
// of its entries, for "none" where nothing is chosen, and for "else".
type Piece struct {
	SQL   string
	By    string
	Cases map[string]string
	Line  int
	Col   int
}

// Condition is one line of where. Within, if any, is a parameter of days or
// times that the piece must lie in; Moments tells that the piece is a moment in
// UTC even where the parameter has days.
type Condition struct {
	Piece
	Within  string
	Moments bool
}

// Dataset is one query and its columns.
type Dataset struct {
	ID      string
	From    Piece
	Where   []Condition
	Group   []Piece
	Levels  string   // parameter whose chosen columns the rows are grouped by
	Scope   Piece    // the column that a person's units limit; "everyone" for rows that are not about units
	Newest  string   // parameter that says how many of the first rows by Order are read
	MayFail bool     // when its query fails, the rest of the result is kept, and that it failed is told
	Order   []Piece  // how the source orders rows, for Newest
	Each    []Piece  // of each of which Newest reads so many
	Compare string   // range parameter whose companions are read too
	Key     []string // columns that tell a row from all others
	Behind  *Behind  `json:",omitempty"` // where the rows are that the source grouped
	Keep    string   `json:",omitempty"` // [InEngine] where its rows stay in the engine of the source; "" for here
	Columns []Column

	read []Column // what the query gives, where Columns holds more
}

// Read returns the columns that the dataset's query gives. Settled datasets
// that are compared have further columns, computed from several queries.
func (d *Dataset) Read() []Column {
	if d.read != nil {
		return d.read
	}
	return d.Kept()
}

// Kept returns the columns whose cells are kept: those without a formula.
func (d *Dataset) Kept() []Column {
	return slices.DeleteFunc(slices.Clone(d.Columns), func(c Column) bool { return c.Formula != "" })
}

// InEngine says that rows stay where their source lies.
const InEngine = "engine"

// Everyone is the scope of rows that are not about units.
const Everyone = "everyone"

// Schema returns the frame schema of the dataset's kept rows.
func (d *Dataset) Schema() frame.Schema { return SchemaOf(d.Kept()) }

// SchemaOf returns the frame schema of columns.
func SchemaOf(columns []Column) frame.Schema {
	s := make(frame.Schema, len(columns))
	for i, c := range columns {
		s[i] = c.Field()
	}
	return s
}

// Labels are those of columns, by their ids.
func (d *Dataset) Labels(ids []string) []string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = d.Column(id).Label
	}
	return out
}

// ColumnIDs are the ids of the columns, in their order.
func (d *Dataset) ColumnIDs() []string {
	var ids []string
	for _, c := range d.Columns {
		ids = append(ids, c.ID)
	}
	return ids
}

// Bare is a column as it is kept elsewhere: without what computes it, sums it, links it or marks it.
func (c *Column) Bare() Column {
	return Column{ID: c.ID, Label: c.Label, About: c.About, Means: c.Means, Kind: c.Kind, Scale: c.Scale,
		Currency: c.Currency, Unit: c.Unit, Personal: c.Personal}
}

// Column returns the column with that id, or nil.
func (d *Dataset) Column(id string) *Column {
	for i := range d.Columns {
		if d.Columns[i].ID == id {
			return &d.Columns[i]
		}
	}
	return nil
}

// Column is one column of a dataset. Stored tells how the source holds a
// decimal: smallest, a whole count of the smallest places (grams of a kilogram
// with three places), or decimal, a number or text with a point.
type Column struct {
	ID       string
	Label    string
	About    string // what its cells are, in a sentence or two
	Means    string // the term of the glossary that they are of
	Is       Piece
	Kind     frame.Kind
	Scale    int32
	Currency string
	Unit     string
	Stored   string
	Total    frame.Op
	Opens    *Opens
	Percent  *Percent // where the column is computed from two others

	// Difference is set where the figure of a group is the difference of two
	// figures rather than made of the cells; the cells are differences too.
	Difference *Difference
	Formula    string    // where the column is computed of others when a result is read
	AtGroups   bool      // the formula makes a figure of the rows of each group
	Companion  int       `json:",omitempty"` // of a settled column: which companion period it is of; 0 for none
	Entry      *Entry    // where people fill it in; its formula is of what they typed
	TypedOf    string    // of columns that [Dataset.Typed] adds: the one that people fill in
	Code       string    // column that holds the codes of these names
	Under      string    // heading that several columns stand under
	Personal   *Personal `json:",omitempty"` // says of people what not everybody is to see; nil for others
	Tones      []Tone

	Labels    Piece  `json:"-"` // what Label is switched by
	ScaleBy   string `json:"-"` // parameter that supplies Scale
	FormulaAt Place  `json:"-"`

	changes bool // of a settled column: it is the change on a companion period
}

// Personal marks a column that says something of people, and how it is hidden from who may not see it.
type Personal struct {
	Mask  string // one of the masks; "" for what is marked and not hidden
	Clear string // the least role that sees it clear: runner, author, librarian or administrator
}

// Told says who sees a personal column how; "" of what is not personal.
func (p *Personal) Told() string {
	switch {
	case p == nil:
		return ""
	case p.Mask == "":
		return "Seen by everybody who may read the result."
	}
	how := map[string]string{MaskWhole: "nothing of it", MaskPart: "the first letter of each word",
		MaskPseudonym: "a pseudonym, the same for the same name"}
	return fmt.Sprintf("Seen clear from the role %s on; others see %s.", p.Clear, how[p.Mask])
}

// How personal columns are hidden.
const (
	MaskWhole     = "whole"     // nothing is shown
	MaskPart      = "part"      // the first letter of each word
	MaskPseudonym = "pseudonym" // the same other name for the same name
)

// Place is where something stands in the file, counted from 1.
type Place struct{ Line, Column int }

// Tone marks cells or rows of which a condition holds: good, attention, alert,
// muted or total.
type Tone struct {
	When string
	As   string

	Place Place `json:"-"`
}

// Field returns what the column's cells are.
func (c Column) Field() frame.Field {
	return frame.Field{Name: c.ID, Kind: c.Kind, Scale: c.Scale, Currency: c.Currency}
}

// Percent says that a column is the percentage that one column is of another.
type Percent struct{ Of, By string }

// Difference says that a figure is what the figure of one column is more than
// that of another.
type Difference struct{ Of, From string }

// Opens leads from a cell to another report, with parameters filled from the
// row or, where From begins with a colon, from this run's own parameters; or to
// a web address with {column} in it.
type Opens struct {
	Report  string
	With    []Fill
	Address string
}

// Fill says where one parameter of the report to be opened comes from. Companion,
// where it is not 0, is which of the ranges that this run compares with is meant.
type Fill struct {
	Parameter, From string
	Companion       int `json:",omitempty"`
}

// Dataset returns the dataset with that id, or nil.
func (d *Definition) Dataset(id string) *Dataset {
	for i := range d.Datasets {
		if d.Datasets[i].ID == id {
			return &d.Datasets[i]
		}
	}
	return nil
}

// View returns the view with that id, or nil.
func (d *Definition) View(id string) *View {
	for i := range d.Views {
		if d.Views[i].ID == id {
			return &d.Views[i]
		}
	}
	return nil
}

// Parameter returns the parameter with that id, or nil.
func (d *Definition) Parameter(id string) *param.Parameter {
	for i := range d.Parameters {
		if d.Parameters[i].ID == id {
			return &d.Parameters[i]
		}
	}
	return nil
}

// ParameterLine returns the line where a parameter is declared, 0 when it is not.
func (d *Definition) ParameterLine(id string) int {
	for i := range d.Parameters {
		if d.Parameters[i].ID == id {
			return d.ParameterLines[i]
		}
	}
	return 0
}
