package sheet

import (
	"context"
	"fmt"
	"slices"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
)

// cross is a crosstab. Rows are an outline of the groups down. Figures come
// from by: by[i] groups by the first i levels down and then by all levels
// across, so its groups at level i are those of the rows, and each further
// level is one across. Totals and subtotals are computed from their own rows
// like every other figure.
type cross struct {
	by       []*ready.Figures
	tree     []across    // the groups across
	of       [][][]int32 // for by[i], level i+j: which group across each of its groups is
	measures []string
	stacked  bool
}

// across is a group of columns.
type across struct {
	level    int
	key      frame.Value
	path     string
	heads    []string
	children []int
	known    map[string]int // children by their last path segment
	column   int            // where its own columns begin, -1 where it has none
}

func (s *Sheet) layCrosstab(ctx context.Context) error {
	x := &cross{measures: s.of.As.Cells, stacked: s.of.As.Stacked}
	if len(x.measures) == 0 {
		return ask.Faultf("cells", "a crosstab needs a measure: choose one of %s", s.measureNames())
	}
	for _, id := range x.measures {
		if c := s.of.Set.Column(id); !ready.IsMeasure(c) {
			return ask.Faultf("cells", "column %s has no total and is not computed of groups; choose one of %s", id,
				s.measureNames())
		}
	}
	if len(s.of.Down) == 0 && len(s.of.Across) == 0 {
		return ask.Faultf("down", "a crosstab needs a column down or across")
	}
	s.of.Shown = x.measures
	rows, err := s.of.Figures(ctx, s.of.Down, x.measures)
	if err != nil {
		return err
	}
	for i := range len(s.of.Down) + 1 {
		f, err := s.of.Figures(ctx, slices.Concat(s.of.Down[:i], s.of.Across), x.measures)
		if err != nil {
			return err
		}
		x.by = append(x.by, f)
	}
	x.tree = s.acrossTree(x.by[0])
	for i, f := range x.by {
		x.of = append(x.of, x.assign(f, i, len(s.of.Across)))
	}
	s.columnsAcross(x)
	s.cross = x
	if len(s.of.Down) > 0 {
		if s.outline, err = s.arrange(ctx, rows); err != nil {
			return err
		}
		s.Lines = s.outline.lines
	}
	if x.stacked {
		s.Lines = (s.Lines + 1) * len(x.measures) // the total too
		return nil
	}
	total := Line{Cells: s.empty()}
	x.fill(&total, 0, 0, 0, len(s.Columns))
	for i, c := range s.Columns {
		s.Totals = append(s.Totals, Total{Op: max(c.Total, frame.Sum), Value: total.Cells[i]})
	}
	return nil
}

func (s *Sheet) measureNames() string {
	var names []string
	for i := range s.of.Set.Columns {
		if ready.IsMeasure(&s.of.Set.Columns[i]) {
			names = append(names, s.of.Set.Columns[i].ID)
		}
	}
	return fmt.Sprint(names)
}

// acrossTree makes the groups of columns; with fill also those of periods
// without rows. Element 0 is the total.
func (s *Sheet) acrossTree(f *ready.Figures) []across {
	tree := []across{{known: map[string]int{}, column: -1}}
	var periods []frame.Value
	if n := len(s.of.Across); n > 0 && s.of.As.Fill {
		periods = s.periods(s.of.Across[n-1], &f.Groups.Levels[n].Keys)
	}
	var grow func(node, level, from, to int)
	grow = func(node, level, from, to int) {
		l := &f.Groups.Levels[level]
		keys := make([]frame.Value, 0, to-from)
		groups := map[string]int{}
		for g := from; g < to; g++ {
			v := l.Keys.Value(l.Field, g)
			groups[ready.Segment(v)] = g
			keys = append(keys, v)
		}
		if level == len(s.of.Across) && periods != nil {
			keys = append(s.within(periods, node, tree), slices.DeleteFunc(keys, func(v frame.Value) bool { return !v.Null })...)
		}
		for _, v := range keys {
			part := ready.Segment(v)
			child := across{
				level:  level,
				key:    v,
				path:   part,
				heads:  append(slices.Clone(tree[node].heads), s.KeyText(v)),
				known:  map[string]int{},
				column: -1,
			}
			if level > 1 {
				child.path = tree[node].path + "/" + part
			}
			at := len(tree)
			tree[node].known[part], tree[node].children = at, append(tree[node].children, at)
			tree = append(tree, child)
			if g, ok := groups[part]; ok && level < len(s.of.Across) {
				grow(at, level+1, l.Children[g], l.Children[g+1])
			}
		}
	}
	if len(s.of.Across) > 0 {
		grow(0, 1, 0, f.Groups.Levels[1].Len())
	}
	return tree
}

// within returns the periods that lie within the period of a group across, or
// all where it is not one.
func (s *Sheet) within(periods []frame.Value, node int, tree []across) []frame.Value {
	above := tree[node]
	unit, ok := period.UnitNamed(above.key.Grain)
	if above.level == 0 || above.key.Null || above.key.Grain == "" || !ok {
		return slices.Clone(periods)
	}
	return slices.DeleteFunc(slices.Clone(periods), func(v frame.Value) bool {
		return int64(s.of.Setting.Calendar.Period(unit, period.Day(v.Int())).First) != above.key.Int()
	})
}

// periods returns the first days of all periods of the range that rows were
// asked for, where the level is of a column named like that range, and
// otherwise from the first period with rows to the last; nil where the level is
// not one of periods.
func (s *Sheet) periods(l ready.Level, keys *frame.Vector) (out []frame.Value) {
	unit := period.Days
	if l.Field.Grain != "" {
		unit, _ = period.UnitNamed(l.Field.Grain)
	}
	if l.Field.Kind != frame.Date {
		return nil
	}
	var low, high period.Day
	found := false
	for i, day := range keys.Ints {
		if !keys.Null(i) {
			d := period.Day(day)
			if !found {
				low, high = d, d
			}
			low, high, found = min(low, d), max(high, d), true
		}
	}
	for _, name := range s.namesIn(l.Text) {
		first, last := s.of.Setting.Given[name+".start"], s.of.Setting.Given[name+".end"]
		if first.Kind == frame.Date && !first.Null && !last.Null {
			from, to := period.Day(first.Int()), period.Day(last.Int())
			if !found {
				low, high = from, to
			}
			low, high, found = min(low, from), max(high, to), true
		}
	}
	if !found {
		return nil
	}
	c := s.of.Setting.Calendar
	for d := c.Period(unit, low).First; d <= high && len(out) < mostPeriods; d = c.Period(unit, d).Last + 1 {
		out = append(out, frame.Value{Kind: frame.Date, Grain: l.Field.Grain, Number: frame.Exact(int64(d), 0)})
	}
	return out
}

// mostPeriods bounds how many empty periods are shown.
const mostPeriods = 10_000

func (s *Sheet) namesIn(text string) []string {
	f, err := report.Level(text, s.of.Scope)
	if err != nil {
		return nil
	}
	return f.Names()
}

// assign finds which group across each group of f is; f has i levels before
// those across.
func (x *cross) assign(f *ready.Figures, i, levels int) [][]int32 {
	out := make([][]int32, levels+1)
	out[0] = make([]int32, f.Groups.Levels[i].Len()) // all are the total
	for j := 1; j <= levels; j++ {
		l := &f.Groups.Levels[i+j]
		out[j] = make([]int32, l.Len())
		parts := map[frame.Value]string{}
		for g := range out[j] {
			v := l.Keys.Value(l.Field, g)
			part, ok := parts[v]
			if !ok {
				part = ready.Segment(v)
				parts[v] = part
			}
			out[j][g] = int32(x.tree[out[j-1][l.Parent[g]]].known[part])
		}
	}
	return out
}

// columnsAcross makes the columns: groups in order, each subtotal after its
// parts, the total last.
func (s *Sheet) columnsAcross(x *cross) {
	hidden := map[int]bool{}
	if s.of.As.Zeros == "omit" {
		filled := map[int]bool{0: true}
		for j := 1; j <= len(s.of.Across); j++ {
			for g, node := range x.of[0][j] {
				filled[int(node)] = !x.by[0].Nothing(j, g, x.measures)
			}
		}
		for at := range x.tree {
			hidden[at] = !filled[at]
		}
	}
	add := func(at int) {
		node := &x.tree[at]
		node.column = len(s.Columns)
		for m, id := range x.measures {
			c := Column{
				Column:  *s.of.Set.Column(id),
				Heads:   node.heads,
				Path:    node.path,
				Field:   x.by[0].Of[id].Field,
				Measure: m,
			}
			c.Opens = nil
			s.Columns = append(s.Columns, c)
			if x.stacked {
				return
			}
		}
	}
	var walk func(at int)
	walk = func(at int) {
		if hidden[at] {
			return
		}
		for _, child := range x.tree[at].children {
			walk(child)
		}
		add(at)
	}
	walk(0)
}

// crossWindow reads lines of a crosstab, with the cells of the columns between from
// and to.
func (s *Sheet) crossWindow(ctx context.Context, first, count, from, to int) ([]Line, error) {
	out := make([]Line, 0, count)
	each := 1
	if s.cross.stacked {
		each = len(s.cross.measures)
	}
	for at := first; at < first+count; at++ {
		var line Line
		if s.outline == nil || at/each >= s.outline.lines {
			line = Line{
				Kind:    GroupLine,
				Size:    s.Rows,
				Cells:   s.empty(),
				Measure: at % each,
				Key:     frame.Value{Kind: frame.Text, Text: "Total"},
			}
			s.cross.fill(&line, 0, 0, from, to)
		} else if b := s.outline.blocks[at/each]; b.level > 0 {
			line = s.groupLine(b)
			line.Cells = s.empty()
			line.Measure = at % each
			if each == 1 {
				line.Below = s.outline.linesBelow(at)
			}
			s.cross.fill(&line, b.level, int(b.group), from, to)
		} else {
			var err error
			if line, err = s.restLine(ctx, b, at%each, from, to); err != nil {
				return nil, err
			}
		}
		out = append(out, line)
	}
	return out, s.toneCross(out)
}

// fill writes the figures of a row group into a line's cells, of the columns
// between from and to.
func (x *cross) fill(line *Line, level, group, from, to int) {
	f := x.by[level]
	put := func(node int32, l, g int) {
		column := x.tree[node].column
		if column < 0 {
			return
		}
		for m, id := range x.measures {
			at := column + m
			if x.stacked {
				if m != line.Measure {
					continue
				}
				at = column
			}
			if at >= from && at < to {
				fig := f.Of[id]
				line.Cells[at] = fig.Levels[l].Value(fig.Field, g)
			}
		}
	}
	first, last := group, group+1
	for j := 0; ; j++ {
		for g := first; g < last; g++ {
			put(x.of[level][j][g], level+j, g)
		}
		if j+1 == len(x.of[level]) {
			return
		}
		children := f.Groups.Levels[level+j].Children
		first, last = children[first], children[last]
	}
}

// restLine is the line of the groups beyond the limit.
func (s *Sheet) restLine(ctx context.Context, b block, measure, from, to int) (Line, error) {
	line := s.groupLine(b)
	line.Cells, line.Measure = s.empty(), measure
	f, err := s.of.FiguresOf(ctx, *s.outline.rest, s.of.Across, s.cross.measures, s.outline.Groups)
	if err != nil {
		return line, err
	}
	of := s.cross.assign(f, 0, len(s.of.Across))
	beyond := *s.cross
	beyond.by, beyond.of = []*ready.Figures{f}, [][][]int32{of}
	beyond.fill(&line, 0, 0, from, to)
	return line, nil
}

// toneCross marks cells by the tones of their measures.
func (s *Sheet) toneCross(lines []Line) error {
	for m, id := range s.cross.measures {
		c := s.of.Set.Column(id)
		if len(c.Tones) == 0 {
			continue
		}
		if err := s.toneMeasure(lines, m, c); err != nil {
			return err
		}
	}
	return nil
}
