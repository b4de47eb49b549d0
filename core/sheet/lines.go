package sheet

import (
	"context"
	"slices"
	"sort"

	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/table"
)

// LineKind tells what a line of a sheet is.
type LineKind string

// The kinds of lines.
const (
	RowLine   LineKind = "row"
	GroupLine LineKind = "group"
	RestLine  LineKind = "rest" // the groups beyond a limit together
)

// Line is one line of a sheet. Cells are by column; those that do not belong to
// the line have no value.
type Line struct {
	Kind    LineKind
	Level   int // of a group, 1 outermost
	Path    string
	Key     frame.Value // the group's value
	Size    int         // rows of a group
	Below   int         // lines of the sheet that are shown below a group
	Open    bool        // whether what is below it is shown
	Measure int         // in a stacked crosstab, which measure the line shows
	Row     uint32      // number of a kept row
	Cells   []frame.Value
	Links   []frame.Value
	Tone    string   // of the line
	Tones   []string // of cells; nil where none has any
}

// Read returns the lines from first on, at most count; fewer at the end.
func (s *Sheet) Read(ctx context.Context, first, count int) ([]Line, error) {
	first = min(max(first, 0), s.Lines)
	count = min(max(count, 0), s.Lines-first)
	switch {
	case s.cross != nil:
		return s.crossWindow(ctx, first, count, 0, len(s.Columns))
	case s.outline == nil:
		return s.rowLines(ctx, s.order, first, count)
	}
	var out []Line
	blocks := s.outline.blocks
	at := sort.Search(len(blocks), func(i int) bool { return blocks[i].first > first }) - 1
	for ; at < len(blocks) && len(out) < count; at++ {
		b := blocks[at]
		if !b.rows {
			line := s.groupLine(b)
			line.Below = s.outline.linesBelow(at)
			out = append(out, line)
			continue
		}
		from := s.outline.starts[b.group] + max(first-b.first, 0)
		to := min(s.outline.starts[b.group+1], from+count-len(out))
		rows, err := s.rowLines(ctx, s.outline.below, from, to-from)
		if err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, s.toneGroups(out)
}

func (s *Sheet) groupLine(b block) Line {
	o := s.outline
	line := Line{Kind: GroupLine, Level: b.level, Open: b.opened, Cells: s.empty()}
	f, level, group := o.Figures, b.level, int(b.group)
	if b.level == 0 {
		line.Kind, line.Level, line.Path, line.Size = RestLine, 1, ready.Rest, o.restOf.Groups.Levels[0].Size(0)
		line.Key = frame.Value{Kind: frame.Text, Text: s.View.Rest}
		f, level, group = o.restOf, 0, 0
	} else {
		l := &o.Groups.Levels[level]
		line.Key, line.Size, line.Path = l.Keys.Value(l.Field, group), l.Size(group), o.Path(level, group)
	}
	for i, c := range s.Columns {
		if x, ok := f.Of[c.ID]; ok {
			line.Cells[i] = x.Levels[level].Value(x.Field, group)
		}
	}
	return line
}

func (s *Sheet) empty() []frame.Value {
	cells := make([]frame.Value, len(s.Columns))
	for i, c := range s.Columns {
		cells[i] = frame.Value{Kind: c.Kind, Null: true}
	}
	return cells
}

// rowLines reads rows of an order as lines.
func (s *Sheet) rowLines(ctx context.Context, order table.Order, first, count int) ([]Line, error) {
	places := slices.Clone(s.needs)
	for _, t := range s.toned {
		for _, at := range s.of.PlacesOf(t.formula.Names()) {
			if !slices.Contains(places, at) {
				places = append(places, at)
			}
		}
	}
	b, numbers, err := s.of.Rows.Page(ctx, order, first, count, places)
	if err != nil {
		return nil, err
	}
	full := b.Spread(places, s.of.Rows.Schema())
	out := make([]Line, len(numbers))
	for r, number := range numbers {
		out[r] = Line{Kind: RowLine, Row: number, Cells: s.empty()}
		for i, c := range s.Columns {
			if at := s.of.Scope.Columns.Index(c.ID); at >= 0 {
				out[r].Cells[i] = full.Value(at, r)
			}
		}
		for _, id := range s.Links {
			out[r].Links = append(out[r].Links, full.Value(s.of.Scope.Columns.Index(id), r))
		}
	}
	return out, s.toneRows(out, full)
}

// Each hands on all rows of a sheet without groups in batches, in the sheet's
// order and columns; columns of groups are left out.
func (s *Sheet) Each(ctx context.Context, visit func(*frame.Batch) error) error {
	return s.of.Rows.Each(ctx, s.order, s.of.PlacesOf(s.of.Shown), visit)
}

// LinesInTurn hands on all lines of the sheet.
func (s *Sheet) LinesInTurn(ctx context.Context, visit func([]Line) error) error {
	for first := 0; first < s.Lines; first += 4096 {
		lines, err := s.Read(ctx, first, 4096)
		if err == nil {
			err = visit(lines)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
