package sheet

import (
	"context"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/core/table"
)

// Opening leads from a figure to the rows that made it. Filters select these
// rows and are to be added to those of the sheet; After is the figure computed
// anew from the rows so selected, so that both can be seen to agree.
type Opening struct {
	Filters []string
	Says    string // the figure in words: Net weight of Hollin, Sep 2026
	Column  string
	Label   string
	Before  frame.Value
	After   frame.Value
	Rows    int
	By      []Attribute
}

// Agree tells whether the figure and its rows come to the same.
func (o *Opening) Agree() bool {
	if o.Before.Null || o.After.Null {
		return o.Before.Null == o.After.Null
	}
	if o.Before.Kind == frame.Text {
		return o.Before.Text == o.After.Text
	}
	return o.Before.Number.Compare(o.After.Number) == 0
}

// Attribute is something that opened rows can be grouped by.
type Attribute struct {
	Text, Label string
	Groups      int
}

// Cell names a figure of a sheet: the path of its line (of its place, in a
// chart), that of its column across (of its series), and the column whose
// figure it is. Without a column the rows themselves are meant. A row, by its number,
// has figures only where its source grouped it; see [Sheet.Behind].
type Cell struct {
	Path, Across, Column string
	Row                  *int
}

// Open opens a figure. It fails when there is no such figure.
func (s *Sheet) Open(ctx context.Context, at Cell) (*Opening, error) {
	if at.Column != "" && s.of.Set.Column(at.Column) == nil {
		return nil, fmt.Errorf("there is no column %q; %s", at.Column, ready.Offer(at.Column, s.of.Set.ColumnIDs()))
	}
	keys, levels, err := s.keysAt(ctx, at)
	if err != nil {
		return nil, err
	}
	o := &Opening{Column: at.Column, Label: "Rows"}
	words := []string{}
	if at.Path == ready.Rest {
		o.Filters = s.restFilters()
		words = append(words, s.of.As.Rest)
	}
	for i, v := range keys {
		o.Filters = append(o.Filters, ready.FilterOf(levels[i], v))
		word := s.KeyText(v)
		if v.Kind == frame.Flag { // yes alone says nothing
			word = shown.Uncapitalised(levels[i].Label) + " " + word
		}
		words = append(words, word)
	}
	if err := s.agree(ctx, o, at, levels[:len(keys)]); err != nil {
		return nil, err
	}
	o.Says = o.Label
	if len(words) > 0 {
		o.Says += " of " + strings.Join(words, ", ")
	}
	return o, nil
}

// keysAt returns the values that a figure's groups stand for, with their
// levels.
func (s *Sheet) keysAt(ctx context.Context, at Cell) (keys []frame.Value, levels []ready.Level, err error) {
	across := s.of.Across
	if s.Chart != nil && len(s.of.Levels) > 1 {
		across = s.of.Levels[1:2]
	}
	for _, part := range []struct {
		path   string
		levels []ready.Level
	}{{at.Path, s.downLevels()}, {at.Across, across}} {
		if part.path == "" || part.path == ready.Rest {
			continue
		}
		f, err := s.of.Figures(ctx, part.levels, s.of.Shown)
		if err != nil {
			return nil, nil, err
		}
		l, g, err := f.Find(part.path)
		if err != nil {
			empty, ok := emptyPeriods(part.path, part.levels)
			if !ok {
				return nil, nil, err
			}
			keys, levels = append(keys, empty...), append(levels, part.levels[:len(empty)]...)
			continue
		}
		keys, levels = append(keys, f.Keys(l, g)...), append(levels, part.levels[:l]...)
	}
	return keys, levels, nil
}

// emptyPeriods reads the path of a period that has no rows.
func emptyPeriods(path string, levels []ready.Level) (keys []frame.Value, ok bool) {
	for i, part := range strings.Split(path, "/") {
		if i >= len(levels) {
			return nil, false
		}
		day, err := period.ParseDay(part)
		text, badly := url.PathUnescape(part)
		switch {
		case levels[i].Field.Kind == frame.Date && err == nil:
			keys = append(keys, frame.Value{Kind: frame.Date, Grain: levels[i].Field.Grain, Number: frame.Exact(int64(day), 0)})
			ok = true
		case part == ready.None:
			keys = append(keys, frame.Value{Kind: levels[i].Field.Kind, Null: true})
		case part == ready.Blank:
			keys = append(keys, frame.Value{Kind: frame.Text})
		case levels[i].Field.Kind == frame.Text && badly == nil:
			keys = append(keys, frame.Value{Kind: frame.Text, Text: text})
		default:
			return nil, false
		}
	}
	return keys, ok
}

func (s *Sheet) downLevels() []ready.Level {
	if s.Chart != nil {
		return s.of.Levels[:min(1, len(s.of.Levels))]
	}
	return s.of.Levels
}

// restFilters select the groups beyond a limit: all but those shown.
func (s *Sheet) restFilters() []string {
	of, l := s.of.Levels[0], &s.outline.Groups.Levels[1]
	shown := map[string][]string{}
	filters := []string{}
	for _, b := range s.outline.blocks {
		if b.level != 1 || b.rows {
			continue
		}
		if v := l.Keys.Value(l.Field, int(b.group)); v.Null {
			filters = append(filters, of.Text+"<>")
		} else {
			column, value := of.Named(v)
			shown[column] = append(shown[column], value)
		}
	}
	for _, column := range slices.Sorted(maps.Keys(shown)) {
		filters = append(filters, column+"<>"+strings.Join(shown[column], ";"))
	}
	return filters
}

// agree computes the figure where it stands and again from the rows that the
// filters select.
func (s *Sheet) agree(ctx context.Context, o *Opening, at Cell, levels []ready.Level) error {
	opened := s.of.Where()
	for _, text := range o.Filters {
		f, err := s.of.Filter(text)
		if err != nil {
			return err
		}
		opened.Conditions = append(opened.Conditions, f.Conditions...)
	}
	within := s.of.Where()
	if at.Path == ready.Rest {
		within = *s.outline.rest
	}
	var measures []table.Measure
	c := s.of.Set.Column(at.Column)
	isFigure := c != nil && ready.IsMeasure(c)
	if isFigure {
		measures = ready.Distinct(s.measuresCompared(c))
	}
	whole, err := s.standing(ctx, within, levels, measures)
	if err != nil {
		return err
	}
	attributes := s.attributes()
	asked := slices.Clone(measures)
	for _, a := range attributes {
		asked = append(asked, table.Measure{Column: a.place, Op: frame.Distinct})
	}
	alone, err := s.of.Rows.Groups(ctx, opened, nil, ready.Distinct(asked))
	if err != nil {
		return err
	}
	o.Rows = alone.Levels[0].Size(0)
	o.By = apart(attributes, alone)
	group := s.groupAt(whole, at)
	if !isFigure {
		size := int64(0)
		if group >= 0 {
			size = int64(whole.Levels[len(levels)].Size(group))
		}
		o.Before = frame.Value{Kind: frame.Integer, Number: frame.Exact(size, 0)}
		o.After = frame.Value{Kind: frame.Integer, Number: frame.Exact(int64(o.Rows), 0)}
		return nil
	}
	o.Label = shown.Heading(*c)
	before, err := s.compared(whole, c)
	if err != nil {
		return err
	}
	after, err := s.compared(alone, c)
	if err != nil {
		return err
	}
	o.After = after.Levels[0].Value(after.Field, 0)
	switch {
	case group >= 0:
		o.Before = before.Levels[len(levels)].Value(before.Field, group)
	case o.Rows == 0:
		o.Before = o.After // a period without rows has the figure of no rows
	default:
		o.Before = frame.Value{Kind: before.Field.Kind, Null: true}
	}
	return nil
}

// standing are the groups of a figure with what it is made of: those that were laid
// out, where they go as deep.
func (s *Sheet) standing(ctx context.Context, within table.Where, levels []ready.Level,
	measures []table.Measure) (*table.Groups, error) {
	laid := s.outline != nil && s.outline.rest == nil && s.cross == nil && s.Chart == nil && len(levels) > 0
	if laid && slices.EqualFunc(levels, s.of.Levels[:min(len(levels), len(s.of.Levels))],
		func(a, b ready.Level) bool { return a.Place == b.Place }) {
		of := s.outline.Groups
		if !slices.ContainsFunc(measures, func(m table.Measure) bool { return !slices.Contains(of.Measures, m) }) {
			return of, nil
		}
	}
	return s.of.Rows.Groups(ctx, within, ready.Places(levels), measures)
}

// groupAt finds the group of a figure by its path; -1 where there is none: of an
// empty period, which keysAt found.
func (s *Sheet) groupAt(groups *table.Groups, at Cell) int {
	path := strings.Trim(strings.TrimPrefix(at.Path, ready.Rest)+"/"+at.Across, "/")
	_, group, err := (&ready.Figures{Groups: groups}).Find(path)
	if err != nil {
		return -1
	}
	return group
}

// compared is a column's figure; of a share or another figure that depends on the
// groups around, it is what the share is of.
func (s *Sheet) compared(groups *table.Groups, c *report.Column) (ready.Figure, error) {
	switch {
	case c.Percent != nil:
		return s.compared(groups, s.of.Set.Column(c.Percent.Of))
	case c.Difference != nil:
		of, err := s.compared(groups, s.of.Set.Column(c.Difference.Of))
		if err != nil {
			return ready.Figure{}, err
		}
		from, err := s.compared(groups, s.of.Set.Column(c.Difference.From))
		return ready.Differences(groups, of, from), err
	case !c.AtGroups:
		return ready.Measured(groups, s.of.TotalOf(c))
	}
	return s.of.Calculated(groups, s.inner(c), nil)
}

// inner is the formula of a column of groups, of a share what it is of.
func (s *Sheet) inner(c *report.Column) *formula.Formula {
	f := s.of.FormulaOf(c)
	if len(f.Windows) > 0 {
		return f.Windows[0].Of
	}
	return f
}

// measuresCompared are what [Sheet.compared] needs.
func (s *Sheet) measuresCompared(c *report.Column) []table.Measure {
	switch {
	case c.Percent != nil:
		return s.measuresCompared(s.of.Set.Column(c.Percent.Of))
	case c.Difference != nil:
		return append(s.measuresCompared(s.of.Set.Column(c.Difference.Of)),
			s.measuresCompared(s.of.Set.Column(c.Difference.From))...)
	case !c.AtGroups:
		return []table.Measure{s.of.TotalOf(c)}
	}
	return s.of.MeasuresIn(s.inner(c))
}

// attribute is something that rows can be grouped by, at a place in the table.
type attribute struct {
	Attribute
	place int
	days  bool // whose months are meant
}

// attributes are what opened rows might be grouped by: columns of texts and flags and
// the months of days.
func (s *Sheet) attributes() (out []attribute) {
	for _, c := range s.of.Set.Columns {
		at := s.of.Scope.Columns.Index(c.ID)
		if at < 0 || !s.of.HasCells(c.ID) {
			continue
		}
		switch field := s.of.Scope.Columns[at]; {
		case field.Kind == frame.Date || field.Kind == frame.Timestamp:
			out = append(out,
				attribute{Attribute{"month(" + c.ID + ")", "Month of " + shown.Uncapitalised(c.Label), 0}, at, true})
		case field.Kind == frame.Text || field.Kind == frame.Flag || field.Names != nil:
			out = append(out, attribute{Attribute{c.ID, c.Label, 0}, at, false})
		}
	}
	return out
}

// apart are the attributes of which rows have at least two different values, and not
// nearly one each.
func apart(attributes []attribute, alone *table.Groups) (out []Attribute) {
	rows := alone.Levels[0].Size(0)
	for _, a := range attributes {
		_, counts, _ := alone.Figures(table.Measure{Column: a.place, Op: frame.Distinct})
		n := int(counts[0].Ints[0])
		switch {
		case n < 2 || !a.days && n == rows && n > 20:
		case a.days:
			out = append(out, a.Attribute)
		default:
			a.Groups = n
			out = append(out, a.Attribute)
		}
	}
	return out
}
