package sheet

import (
	"context"
	"strconv"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/shown"
)

// MostPicked is how many cells can be picked at once.
const MostPicked = 200_000

// Rect is a rectangle of cells: lines from First on, columns from Left on.
type Rect struct{ First, Count, Left, Width int }

// Picked is what some cells of one column come to. Sum and Average are null where nothing is a number,
// Least and Most where nothing is filled or can be ordered.
type Picked struct {
	Column  Column
	Filled  int
	Sum     frame.Value
	Average frame.Value // rounded half away from zero, to at least two places
	Least   frame.Value
	Most    frame.Value
}

// Pick is what the cells of a rectangle come to, column by column, and their lines with headings, for a
// spreadsheet. Parts of the rectangle that are beyond the sheet are none.
type Pick struct {
	Cells   int
	Columns []Picked
	Grid    [][]frame.Value // a line for each: what it is grouped by, then the cells
	Heads   []string        // of the columns of the grid
	Mixed   bool            // it has groups of several levels, or several measures one below the other
}

// Pick reads a rectangle of cells. What is picked of lines of several levels is added up as it stands, so
// that Mixed says that something may be counted twice.
func (s *Sheet) Pick(ctx context.Context, r Rect) (p Pick, err error) {
	left := min(max(r.Left, 0), len(s.Columns))
	right := left + min(max(r.Width, 0), len(s.Columns)-left)
	count := min(max(r.Count, 0), s.Lines-min(max(r.First, 0), s.Lines))
	if p.Cells = count * (right - left); p.Cells > MostPicked {
		return p, ask.Faultf("cells", "%s cells are more than the %s that are added up at once; pick fewer, or group",
			shown.Grouped(strconv.Itoa(p.Cells)), shown.Grouped(strconv.Itoa(MostPicked)))
	}
	lines, err := s.Read(ctx, r.First, count)
	if err != nil {
		return p, err
	}
	grouped := len(s.Levels) > 0 || s.cross != nil
	if grouped {
		p.Heads = append(p.Heads, s.levelNames())
	}
	for _, c := range s.Columns[left:right] {
		p.Columns = append(p.Columns, picked(c))
		p.Heads = append(p.Heads, s.headOf(c))
	}
	levels := map[[2]int]bool{}
	for _, l := range lines {
		var row []frame.Value
		if grouped {
			name := ""
			if l.Kind != RowLine {
				name = s.KeyText(l.Key)
			}
			row = append(row, frame.Value{Kind: frame.Text, Text: name})
		}
		levels[[2]int{l.Level, l.Measure}] = true
		for i, v := range l.Cells[left:right] {
			p.Columns[i].add(v)
			row = append(row, v)
		}
		p.Grid = append(p.Grid, row)
	}
	for i := range p.Columns {
		p.Columns[i].average()
	}
	p.Mixed = len(levels) > 1
	return p, nil
}

// levelNames is the heading of what lines are grouped by.
func (s *Sheet) levelNames() string {
	var names []string
	for _, l := range s.Levels {
		names = append(names, l.Label)
	}
	return strings.Join(names, ", ")
}

// picked is a column of which nothing was added up yet.
func picked(c Column) Picked {
	none := frame.Value{Kind: c.Field.Kind, Null: true}
	return Picked{Column: c, Sum: none, Average: none, Least: none, Most: none}
}

// add counts one cell more.
func (p *Picked) add(v frame.Value) {
	if v.Null {
		return
	}
	p.Filled++
	if v.Kind == frame.Text || v.Kind == frame.Flag {
		return
	}
	if p.Least.Null || v.Number.Compare(p.Least.Number) < 0 {
		p.Least = v
	}
	if p.Most.Null || v.Number.Compare(p.Most.Number) > 0 {
		p.Most = v
	}
	if !v.Kind.Numeric() {
		return
	}
	if p.Sum.Null {
		p.Sum = frame.Value{Kind: v.Kind, Number: v.Number}
		return
	}
	p.Sum.Number = p.Sum.Number.Plus(v.Number, 1)
}

func (p *Picked) average() {
	if p.Sum.Null {
		return
	}
	places := max(p.Sum.Number.Scale, 2)
	p.Average = frame.Value{Kind: frame.Decimal, Number: p.Sum.Number.Divide(int64(p.Filled), places)}
}
