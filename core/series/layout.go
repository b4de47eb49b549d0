// Package series reads captures of the same rows, one after the other, as a history: what each row
// was, since when and until when, and what groups came to at each capture. Where a capture is
// missing there is a gap, and nothing is said of it.
package series

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/report"
)

// Datasets of a history.
const (
	States = "states" // a row for each state in which a row was, with since and until when
	Course = "course" // a row for each capture and state, with what that came to
)

// Columns that a history has beside those of the rows.
const (
	beforeColumn   = "state_before"
	cameColumn     = "came"
	sinceColumn    = "seen_since"
	untilColumn    = "seen_until"
	wentColumn     = "went"
	daysColumn     = "seen_days"
	inColumn       = "seen_in"
	gapsColumn     = "missed_in"
	spansColumn    = "spans"
	capturedColumn = "captured"
	captureColumn  = "capture"
	rowsColumn     = "rows"
	missedColumn   = "missed"
)

// Layout is which columns of a dataset a history is read of.
type Layout struct {
	Key   []string // columns that find a row in the next capture
	Track []string // columns whose change begins another state; the first says which state it is
	Along []string // columns that stand beside, as they were when the state was seen last
	Sums  []string // columns that are summed at each capture
	set   *report.Dataset
}

// Columns are the columns to read of each capture.
func (l Layout) Columns() []string { return slices.Concat(l.Key, l.Track, l.Along) }

// Compared is how many of these tell whether a row changed: the key and what is tracked.
func (l Layout) Compared() int { return len(l.Key) + len(l.Track) }

// state is the column that says which state a row is in.
func (l Layout) state() *report.Column { return l.set.Column(l.Track[0]) }

// Lay lays out the history of a dataset by its key, or by another that is named. Columns that are
// computed are left out: they follow from the others.
func Lay(set *report.Dataset, key, track []string) (Layout, error) {
	l := Layout{Key: key, Track: track, set: set}
	if len(key) == 0 {
		l.Key = set.Key
	}
	if len(l.Key) == 0 {
		return l, fmt.Errorf("rows of %s have no key to be found by in the next capture; name the columns", set.ID)
	}
	var given []string
	for _, c := range set.Columns {
		if c.Formula == "" && !c.AtGroups {
			given = append(given, c.ID)
		}
	}
	for _, id := range slices.Concat(l.Key, track) {
		if !slices.Contains(given, id) {
			return l, fmt.Errorf("the source gives %s no column %q; it gives %v", set.ID, id, given)
		}
	}
	if len(track) == 0 {
		return l, fmt.Errorf("say which column of %s is the state that is tracked", set.ID)
	}
	for _, id := range given {
		if slices.Contains(l.Key, id) || slices.Contains(track, id) {
			continue
		}
		l.Along = append(l.Along, id)
		if c := set.Column(id); c.Total == frame.Sum {
			l.Sums = append(l.Sums, id)
		}
	}
	for _, id := range track {
		if slices.Contains(l.Key, id) {
			return l, fmt.Errorf("the column %q finds a row, so it cannot be what changes in it", id)
		}
		if set.Column(id).Total == frame.Sum {
			l.Sums = append(l.Sums, id)
		}
	}
	return l, nil
}

// Alike tells why another definition's dataset cannot be read in the same history.
func (l Layout) Alike(other *report.Dataset) error {
	for _, id := range l.Columns() {
		c := other.Column(id)
		if c == nil {
			return fmt.Errorf("it has no column %q", id)
		}
		x, y := l.set.Column(id).Field(), c.Field()
		if x.Kind != y.Kind || x.Scale != y.Scale || x.Currency != y.Currency {
			return fmt.Errorf("its column %q holds other values", id)
		}
	}
	return nil
}

// plain is a column as it is kept: without what computes it, links it or marks it.
func plain(c *report.Column, total frame.Op) report.Column {
	out := c.Bare()
	out.Total = total
	return out
}

func number(id, label, unit, about string, total frame.Op) report.Column {
	return report.Column{ID: id, Label: label, Unit: unit, About: about, Kind: frame.Integer, Total: total}
}

// StateRows is the dataset of states.
func (l Layout) StateRows() report.Dataset {
	d := report.Dataset{ID: States}
	for _, id := range l.Columns() {
		d.Columns = append(d.Columns, plain(l.set.Column(id), frame.NoTotal))
	}
	before := plain(l.state(), frame.NoTotal)
	before.ID, before.Label, before.About = beforeColumn, before.Label+", before", "The state that it came from."
	d.Columns = append(d.Columns, before,
		report.Column{ID: cameColumn, Label: "Came", Kind: frame.Text,
			About: "There at first, entered, or changed from another state."},
		report.Column{ID: sinceColumn, Label: "Since", Kind: frame.Date,
			About: "The first capture that has it; it came between that and the capture before."},
		report.Column{ID: untilColumn, Label: "Until", Kind: frame.Date,
			About: "The first capture that has it no more; none while it lasts."},
		report.Column{ID: wentColumn, Label: "Went", Kind: frame.Text, About: "Still there, changed, or left."},
		number(daysColumn, "Time in state", "days", "From Since to Until, or to the last capture.", frame.Avg),
		number(inColumn, "Captures", "", "How many captures have it.", frame.NoTotal),
		number(gapsColumn, "Missed", "", "Captures that are missing while it lasted or just before.", frame.NoTotal),
		number(spansColumn, "States", "", "Each row counts one.", frame.Sum))
	return d
}

// CourseRows is the dataset of the course.
func (l Layout) CourseRows() report.Dataset {
	d := report.Dataset{ID: Course, Columns: []report.Column{
		{ID: capturedColumn, Label: "Captured", Kind: frame.Date},
		{ID: captureColumn, Label: "Result", Kind: frame.Text},
		plain(l.state(), frame.NoTotal),
		number(rowsColumn, "Rows", "", "How many rows were in the state.", frame.Sum),
	}}
	for _, id := range l.Sums {
		if id != l.Track[0] {
			d.Columns = append(d.Columns, plain(l.set.Column(id), frame.Sum))
		}
	}
	d.Columns = append(d.Columns, report.Column{ID: missedColumn, Label: "Missed", Kind: frame.Text,
		About: "Why nothing was kept then."})
	for _, c := range slices.Clone(d.Columns) {
		if c.Total == frame.Sum {
			d.Columns = append(d.Columns, ofCapture(c))
		}
	}
	return d
}

// ofCapture is a figure of one capture: adding up what several captures counted of the same rows
// would say nothing.
func ofCapture(c report.Column) report.Column {
	c.ID, c.Label, c.About = c.ID+"_at", c.Label+" at a capture", "On average, where several captures stand together."
	c.Formula = fmt.Sprintf("sum(%s) / count(distinct %s)", strings.TrimSuffix(c.ID, "_at"), captureColumn)
	c.AtGroups, c.Total = true, frame.NoTotal
	if c.Kind == frame.Integer {
		c.Kind = frame.Decimal
	}
	return c
}

// Check tells which of its own columns the history cannot have, since the rows have one of that name.
func (l Layout) Check() error {
	for _, d := range []report.Dataset{l.StateRows(), l.CourseRows()} {
		seen := map[string]bool{}
		for _, c := range d.Columns {
			if seen[c.ID] {
				return fmt.Errorf("%s has a column %q, which the history needs for itself", l.set.ID, c.ID)
			}
			seen[c.ID] = true
		}
	}
	return nil
}

// mostCells is how many sums stand in the table over captures, beside the count of rows.
const mostCells = 3

// Definition is how a history is read: its course, the captures beside each other, how long states
// lasted, and what became what.
func (l Layout) Definition(d report.Definition, says string) *report.Definition {
	states, course := l.StateRows(), l.CourseRows()
	state, cells := l.Track[0], []string(nil)
	for _, c := range course.Columns {
		if c.AtGroups && len(cells) <= mostCells {
			cells = append(cells, c.ID)
		}
	}
	d.Datasets = []report.Dataset{states, course}
	d.Views = []report.View{
		{ID: "course", Title: "The course", Of: Course, Show: report.Chart, Drawn: "line",
			Levels: []string{capturedColumn, state}, Cells: cells[:1], Empty: "say"},
		{ID: "captures", Title: "At each capture",
			Says: says + " Figures over several captures are those of one, on average.", Of: Course, Show: report.Crosstab,
			Down:   []string{state},
			Across: []string{capturedColumn}, Cells: cells, Empty: "say"},
		{ID: "stays", Title: "Time in each state", Of: States, Show: report.Table, Levels: []string{state, wentColumn},
			Open:  1,
			Empty: "say", Columns: slices.Concat(l.Key, []string{spansColumn, daysColumn, sinceColumn, untilColumn,
				gapsColumn})},
		{ID: "moves", Title: "What became what", Of: States, Show: report.Crosstab, Down: []string{beforeColumn},
			Across: []string{state}, Cells: []string{spansColumn}, Empty: "say"},
		{ID: "history", Title: "Every state of every row", Of: States, Show: report.Table, Empty: "say",
			Columns: slices.Concat(l.Key, l.Track, []string{cameColumn, beforeColumn, sinceColumn, untilColumn, wentColumn,
				daysColumn, inColumn, gapsColumn}, l.Along),
			Sort: []frame.Key{{Column: l.Key[0]}, {Column: sinceColumn}}},
	}
	d.Page = []string{"captures", "course", "stays"}
	return &d
}
