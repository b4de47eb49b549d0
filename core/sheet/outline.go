package sheet

import (
	"cmp"
	"context"
	"slices"
	"sync"

	"mantilla/core/ask"
	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
)

// outline is a grouped table: which groups are shown in which order, and which
// of them are unfolded.
type outline struct {
	*ready.Figures
	order   [][]uint32     // by ready.Level: the groups of each parent, in the order shown
	rest    *table.Where   // rows of the groups beyond the limit; nil where there are none
	restOf  *ready.Figures // of these
	below   table.Order    // the rows below the deepest groups
	blocks  []block
	lines   int
	starts  []int // by leaf: where its rows begin in below; one element more than leaves
	open    int
	leaves  bool // the rows of the deepest groups can be unfolded
	rows    bool // some are
	hidden  func(level, group int) bool
	toggled map[string]bool

	ended sync.Once
	ends  []int // by block of a group: the line after all below it
}

// block is a group's line, or the rows below it, from a line of the sheet on.
type block struct {
	first  int
	level  int // 0 for the line of the rest
	group  uint32
	rows   bool // the rows of the group, not its line
	opened bool
}

// linesBelow counts the lines that are shown below the group of a block.
func (o *outline) linesBelow(at int) int {
	if o.blocks[at].level == 0 {
		return 0
	}
	o.ended.Do(func() { // for all groups at once: a stack of those that are open
		o.ends = make([]int, len(o.blocks))
		var open []int
		for i, b := range o.blocks {
			for len(open) > 0 && !b.rows && b.level <= o.blocks[open[len(open)-1]].level {
				o.ends[open[len(open)-1]] = b.first
				open = open[:len(open)-1]
			}
			if !b.rows {
				open = append(open, i)
			}
		}
		for _, i := range open {
			o.ends[i] = o.lines
		}
	})
	return o.ends[at] - o.blocks[at].first - 1
}

// arrange settles the lines of a grouped table.
func (s *Sheet) arrange(ctx context.Context, f *ready.Figures) (*outline, error) {
	o := &outline{Figures: f, open: s.View.Open, toggled: map[string]bool{}, leaves: s.of.As.Show != report.Crosstab}
	if o.open < 0 {
		o.open = s.unfolded(f)
	}
	if o.open > len(s.of.Levels)+1 {
		return nil, ask.Faultf("open", "the sheet has %d levels of groups; %d unfolds the rows too", len(s.of.Levels),
			len(s.of.Levels)+1)
	}
	for _, path := range s.changes.Fold {
		o.toggled[path] = true
	}
	o.hidden = func(level, group int) bool { return false }
	if s.View.Zeros == "omit" {
		o.hidden = func(level, group int) bool { return f.Nothing(level, group, s.of.Shown) }
	}
	o.order = s.orderGroups(f, s.of.Levels)
	shown := o.order[1]
	if s.View.Limit > 0 && len(shown) > s.View.Limit {
		if err := s.restOf(ctx, o, shown[:s.View.Limit]); err != nil {
			return nil, err
		}
		shown = shown[:s.View.Limit]
	}
	if err := s.gathered(ctx, o); err != nil {
		return nil, err
	}
	for _, g := range shown {
		o.add(1, int(g), ready.Path(nil))
	}
	if o.rest != nil {
		o.blocks = append(o.blocks, block{first: o.lines})
		o.lines++
	}
	return o, nil
}

// gathered settles which rows are shown below the deepest groups: all, or where
// zeros are left out those that have a figure.
func (s *Sheet) gathered(ctx context.Context, o *outline) error {
	deepest := len(o.Groups.Levels) - 1
	o.starts = o.Groups.Levels[deepest].Rows
	o.below = s.sorted()
	o.below.By = ready.Places(s.of.Levels[:deepest])
	if o.below.Filled = s.hides(); o.below.Filled == nil {
		return nil
	}
	groups, err := s.of.Rows.Groups(ctx, o.below.Where, o.below.By, nil)
	if err != nil {
		return err
	}
	sizes, few := map[string]int{}, &ready.Figures{Groups: groups}
	for leaf := range groups.Levels[deepest].Len() {
		sizes[few.Path(deepest, leaf)] = groups.Levels[deepest].Size(leaf)
	}
	o.starts = make([]int, o.Groups.Levels[deepest].Len()+1)
	for leaf := range o.Groups.Levels[deepest].Len() {
		o.starts[leaf+1] = o.starts[leaf] + sizes[o.Path(deepest, leaf)]
	}
	return nil
}

// hides are the columns of which a row must have a figure to have a line of its own;
// nil where all rows have one.
func (s *Sheet) hides() []int {
	if s.View.Zeros != "omit" {
		return nil
	}
	return s.of.Filled(s.of.Shown)
}

// mostUnfolded is how many lines a grouped sheet unfolds by itself.
const mostUnfolded = 400

// unfolded is how many levels are shown where nobody says: as many as do not
// make the sheet long, and one at least.
func (s *Sheet) unfolded(f *ready.Figures) int {
	lines := 0
	for level := 1; level < len(f.Groups.Levels); level++ {
		if lines += f.Groups.Levels[level].Len(); lines > mostUnfolded && level > 1 {
			return level - 1
		}
	}
	return len(s.of.Levels)
}

// add appends the line of a group and what is unfolded below it.
func (o *outline) add(level, group int, above string) {
	if o.hidden(level, group) {
		return
	}
	l := &o.Groups.Levels[level]
	path := above + ready.Segment(l.Keys.Value(l.Field, group))
	opened := (level < o.open) != o.toggled[path] && (level < len(o.Groups.Levels)-1 || o.leaves)
	o.blocks = append(o.blocks, block{first: o.lines, level: level, group: uint32(group), opened: opened})
	o.lines++
	if !opened {
		return
	}
	if level == len(o.Groups.Levels)-1 {
		o.blocks = append(o.blocks, block{first: o.lines, level: level, group: uint32(group), rows: true})
		o.lines += o.starts[group+1] - o.starts[group]
		o.rows = true
		return
	}
	for _, child := range o.order[level+1][l.Children[group]:l.Children[group+1]] {
		o.add(level+1, int(child), path+"/")
	}
}

// restOf computes the figures of the groups beyond the limit: of the rows that are
// in none of those shown.
func (s *Sheet) restOf(ctx context.Context, o *outline, shown []uint32) error {
	l := &o.Groups.Levels[1]
	name := s.of.Rows.Schema()[s.of.Levels[0].Place].Name
	not := table.Condition{Column: name, Test: table.IsNot}
	rest := s.of.Where()
	for _, g := range shown {
		switch v := l.Key(int(g)); {
		case v.Null:
			rest.Conditions = append(rest.Conditions, table.Condition{Column: name, Test: table.NotEmpty})
		case v.Kind == frame.Text:
			not.Texts = append(not.Texts, v.Text)
		default:
			not.Ints = append(not.Ints, v.Int())
		}
	}
	if len(not.Texts)+len(not.Ints) > 0 {
		rest.Conditions = append(rest.Conditions, not)
	}
	o.rest = &rest
	f, err := s.of.FiguresOf(ctx, rest, nil, o.IDs, o.Groups)
	o.restOf = f
	return err
}

// orderGroups orders the groups of every level within their parents by the
// sort keys: a level's own values, or figures. What has no figure stands last.
func (s *Sheet) orderGroups(f *ready.Figures, levels []ready.Level) [][]uint32 {
	out := make([][]uint32, len(f.Groups.Levels))
	for l := 1; l < len(out); l++ {
		order := make([]uint32, f.Groups.Levels[l].Len())
		for g := range order {
			order[g] = uint32(g)
		}
		compare := s.comparison(f, levels, l)
		if compare != nil {
			above := f.Groups.Levels[l-1].Children
			for parent := range len(above) - 1 {
				slices.SortStableFunc(order[above[parent]:above[parent+1]], compare)
			}
		}
		out[l] = order
	}
	return out
}

// comparison compares groups of a level, or is nil where their own order
// stands.
func (s *Sheet) comparison(f *ready.Figures, levels []ready.Level, l int) func(a, b uint32) int {
	var by []func(a, b uint32) int
	for _, k := range s.Sort {
		sign := 1
		if k.Descending {
			sign = -1
		}
		if k.Column == levels[l-1].Text {
			keys := f.Groups.Levels[l].Keys
			by = append(by, func(a, b uint32) int {
				return cmp.Or(nullsLast(keys.Null(int(a)), keys.Null(int(b))), sign*cmp.Compare(a, b))
			})
			continue
		}
		x, ok := f.Of[k.Column]
		if !ok {
			continue
		}
		v := x.Levels[l]
		by = append(by, func(a, b uint32) int {
			if c := nullsLast(v.Null(int(a)), v.Null(int(b))); c != 0 || v.Null(int(a)) {
				return c
			}
			if x.Field.Kind == frame.Text {
				return sign * cmp.Compare(fold.Text(v.Text(int(a))), fold.Text(v.Text(int(b))))
			}
			return sign * v.Digits(int(a)).Cmp(v.Digits(int(b)))
		})
	}
	if len(by) == 0 {
		return nil
	}
	return func(a, b uint32) int {
		for _, compare := range by {
			if c := compare(a, b); c != 0 {
				return c
			}
		}
		return 0
	}
}

func nullsLast(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return 1
	}
	return -1
}
