package sheet

import (
	"context"
	"fmt"
	"math"
	"slices"

	"mantilla/core/ask"
	"mantilla/core/drawn"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/core/table"
)

// mostPoints bounds the points of a scatter chart.
const mostPoints = 5000

// A chart of more places or figures cannot be read.
const (
	mostPlaces = 2_000
	mostCells  = 20_000
)

// mostSeries bounds the series of a chart: more cannot be told apart.
const mostSeries = 24

func (s *Sheet) layChart(ctx context.Context) error {
	s.Chart = &drawn.Chart{Form: s.of.As.Drawn}
	if err := s.marks(ctx); err != nil {
		return err
	}
	if s.of.As.Drawn == "scatter" {
		return s.scatter(ctx)
	}
	levels := s.of.Levels
	s.Chart.Form = s.of.As.Drawn
	if s.of.As.Drawn == "histogram" {
		s.of.As.Cells = nil
	}
	if len(levels) == 0 {
		return ask.Faultf("group", "a chart needs a column to be drawn by")
	}
	if len(s.of.As.Cells) == 0 && s.of.As.Drawn != "histogram" {
		return ask.Faultf("cells", "a chart needs a measure: choose one of %s", s.measureNames())
	}
	s.of.Shown = s.of.As.Cells
	s.of.Levels = levels
	f, err := s.of.Figures(ctx, levels[:1], s.of.Shown)
	if err != nil {
		return err
	}
	s.chartSort()
	if s.outline, err = s.arrange(ctx, f); err != nil {
		return err
	}
	if shown := len(s.outline.blocks); shown > mostPlaces {
		return ask.Faultf("group", "a chart of %d places cannot be read; group by something with fewer values than "+
			"%s, show the largest only, or filter it", shown, levels[0].Label)
	}
	s.places()
	s.Chart.X = drawn.Axis{Label: levels[0].Label, Field: levels[0].Field}
	if len(levels) > 1 {
		return s.seriesAcross(ctx, levels[1])
	}
	return s.seriesOf(f)
}

// chartSort puts the largest first where a chart is limited or a pie and
// nobody says otherwise; periods keep their order.
func (s *Sheet) chartSort() {
	if len(s.Sort) == 0 && len(s.of.As.Cells) > 0 && s.of.Levels[0].Field.Kind == frame.Text &&
		s.of.Levels[0].Field.Names == nil {
		s.Sort = []frame.Key{{Column: s.of.As.Cells[0], Descending: true}}
	}
}

// places are the groups of the first level as the outline shows them.
func (s *Sheet) places() {
	for _, b := range s.outline.blocks {
		switch {
		case b.level == 0:
			s.Chart.Places = append(s.Chart.Places, drawn.Place{Name: s.of.As.Rest, Path: ready.Rest})
		case b.level == 1 && !b.rows:
			l := &s.outline.Groups.Levels[1]
			v := l.Keys.Value(l.Field, int(b.group))
			s.Chart.Places = append(s.Chart.Places, drawn.Place{Name: s.KeyText(v), Key: v, Path: ready.Segment(v)})
		}
	}
	if !s.of.As.Fill || s.outline.rest != nil {
		return
	}
	known := map[string]bool{}
	for _, p := range s.Chart.Places {
		known[p.Path] = true
	}
	for _, v := range s.periods(s.of.Levels[0], &s.outline.Groups.Levels[1].Keys) {
		if !known[ready.Segment(v)] {
			s.Chart.Places = append(s.Chart.Places, drawn.Place{Name: s.KeyText(v), Key: v, Path: ready.Segment(v)})
		}
	}
	slices.SortStableFunc(s.Chart.Places, func(a, b drawn.Place) int {
		if c := nullsLast(a.Key.Null, b.Key.Null); c != 0 || a.Key.Null {
			return c
		}
		return a.Key.Number.Compare(b.Key.Number)
	})
}

// seriesOf makes a series of each measure.
func (s *Sheet) seriesOf(f *ready.Figures) error {
	if s.of.As.Drawn == "histogram" {
		counts := drawn.Series{Label: "Rows"}
		known := f.ChildrenOf(0, 0)
		for _, p := range s.Chart.Places {
			n := 0
			if g, ok := known[p.Path]; ok {
				n = f.Groups.Levels[1].Size(g)
			}
			counts.Figures = append(counts.Figures, frame.Value{Kind: frame.Integer, Number: frame.Exact(int64(n), 0)})
		}
		s.Chart.Series = []drawn.Series{counts}
		s.Chart.Y = drawn.Axis{Label: "Rows", Field: frame.Field{Kind: frame.Integer}}
		return nil
	}
	if n := len(s.Chart.Places) * len(s.of.As.Cells); n > mostCells {
		return ask.Faultf("cells", "a chart of %d figures cannot be read; choose fewer measures", n)
	}
	known := f.ChildrenOf(0, 0)
	for _, id := range s.of.As.Cells {
		c := s.of.Set.Column(id)
		x := f.Of[id]
		series := drawn.Series{ID: id, Label: shown.Heading(*c)}
		for _, p := range s.Chart.Places {
			v := frame.Value{Kind: x.Field.Kind, Null: true}
			switch g, ok := known[p.Path]; {
			case p.Path == ready.Rest:
				own := s.outline.restOf.Of[id]
				v = own.Levels[0].Value(own.Field, 0)
			case ok:
				v = x.Levels[1].Value(x.Field, g)
			}
			series.Figures = append(series.Figures, v)
		}
		s.Chart.Series = append(s.Chart.Series, series)
		s.Chart.Y = drawn.Axis{Label: shown.Heading(*c), Field: x.Field}
	}
	if len(s.of.As.Cells) > 1 {
		s.Chart.Y.Label = ""
	}
	return nil
}

// seriesAcross makes a series of each group of a second level, the largest
// first unless the level has an order of its own.
func (s *Sheet) seriesAcross(ctx context.Context, by ready.Level) error {
	id := s.of.As.Cells[0]
	both, err := s.of.Figures(ctx, []ready.Level{s.of.Levels[0], by}, []string{id})
	if err != nil {
		return err
	}
	second, err := s.of.Figures(ctx, []ready.Level{by}, []string{id})
	if err != nil {
		return err
	}
	x := both.Of[id]
	s.Chart.Y = drawn.Axis{Label: shown.Heading(*s.of.Set.Column(id)), Field: x.Field}
	l := &second.Groups.Levels[1]
	if l.Len() > mostSeries {
		return ask.Faultf("group", "a chart of %d series cannot be read; draw it by a column with fewer values than "+
			"%s, or filter it", l.Len(), by.Label)
	}
	first := both.ChildrenOf(0, 0)
	within := make([]map[string]int, len(s.Chart.Places))
	for i, p := range s.Chart.Places {
		if g, ok := first[p.Path]; ok {
			within[i] = both.ChildrenOf(1, g)
		}
	}
	for g := range l.Len() {
		key := l.Keys.Value(l.Field, g)
		series := drawn.Series{ID: id, Label: s.KeyText(key), Path: ready.Segment(key)}
		for i, p := range s.Chart.Places {
			v := frame.Value{Kind: x.Field.Kind, Null: true}
			if p.Path == ready.Rest {
				if v, err = s.restAcross(ctx, by, id, series.Path); err != nil {
					return err
				}
			} else if at, ok := within[i][series.Path]; ok {
				v = x.Levels[2].Value(x.Field, at)
			}
			series.Figures = append(series.Figures, v)
		}
		s.Chart.Series = append(s.Chart.Series, series)
	}
	return nil
}

func (s *Sheet) restAcross(ctx context.Context, by ready.Level, id, path string) (frame.Value, error) {
	f, err := s.of.FiguresOf(ctx, *s.outline.rest, []ready.Level{by}, s.outline.IDs, s.outline.Groups)
	if err != nil {
		return frame.Value{}, err
	}
	x := f.Of[id]
	if _, g, err := f.Find(path); err == nil {
		return x.Levels[1].Value(x.Field, g), nil
	}
	return frame.Value{Kind: x.Field.Kind, Null: true}, nil
}

// scatter reads the points of a scatter chart.
func (s *Sheet) scatter(ctx context.Context) error {
	v := s.of.As
	x, y := s.of.Set.Column(v.X), s.of.Set.Column(v.Y)
	s.Chart.X = drawn.Axis{Label: shown.Heading(*x), Field: s.of.FieldOf(x)}
	s.Chart.Y = drawn.Axis{Label: shown.Heading(*y), Field: s.of.FieldOf(y)}
	s.order, s.Lines = s.sorted(), s.Rows
	s.Chart.Of = s.Rows
	ids := []string{v.X, v.Y}
	if v.Label != "" {
		ids = append(ids, v.Label)
	}
	if s.Rows <= mostPoints {
		defer func() { s.Chart.Of = len(s.Chart.Points) }() // those without a value are no points
	}
	b, numbers, err := s.of.Rows.Page(ctx, s.order, 0, mostPoints, s.indexes(ids))
	if err != nil {
		return err
	}
	for r, number := range numbers {
		p := drawn.Point{Row: number, X: b.Value(0, r), Y: b.Value(1, r)}
		if v.Label != "" {
			p.Name = s.KeyText(b.Value(2, r))
		}
		if !p.X.Null && !p.Y.Null {
			s.Chart.Points = append(s.Chart.Points, p)
		}
	}
	return nil
}

func (s *Sheet) indexes(ids []string) (out []int) {
	for _, id := range ids {
		out = append(out, s.of.Scope.Columns.Index(id))
	}
	return out
}

// bins writes the bands of a histogram: of equal width, with limits that are
// round numbers (Wilkinson, The Grammar of Graphics, section 6.2.1: 1, 2 or 5
// times a power of ten).
func bins(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c ask.Changes,
	setting ready.Setting) (string, error) {
	c.Group, c.Cells = []string{"none"}, nil
	p, err := ready.Of(ctx, rows, d, v, c, setting)
	if err != nil {
		return "", err
	}
	at := p.Scope.Columns.Index(v.X)
	if at < 0 {
		return "", fmt.Errorf("a histogram is of a column that rows have, and %s is computed of groups", v.X)
	}
	least, greatest := table.Measure{Column: at, Op: frame.Min}, table.Measure{Column: at, Op: frame.Max}
	groups, err := p.Rows.Groups(ctx, p.Where(), nil, []table.Measure{least, greatest})
	if err != nil {
		return "", err
	}
	var ends [2]float64
	for i, m := range groups.Measures {
		field, cells, _ := groups.Figures(m)
		if cells[0].Null(0) {
			return fmt.Sprintf("band(%s, 0)", v.X), nil // no row has a value, and none will be drawn
		}
		ends[i] = float64(cells[0].Value(field, 0).Int()) / math.Pow10(int(field.Scale))
	}
	return fmt.Sprintf("band(%s%s)", v.X, limits(ends[0], ends[1], v.Bins)), nil
}

// limits writes the limits between bins.
func limits(low, high float64, bins int) (list string) {
	step := 1.0
	if high > low {
		step = math.Pow10(int(math.Floor(math.Log10((high - low) / float64(bins)))))
		for _, times := range []float64{1, 2, 5, 10} {
			if (high-low)/(step*times) <= float64(bins) {
				step *= times
				break
			}
		}
	}
	places := max(0, int(math.Ceil(-math.Log10(step)-1e-9)))
	for n := math.Floor(low/step) + 1; n*step <= high || list == ""; n++ {
		list += fmt.Sprintf(", %.*f", places, n*step)
	}
	return list
}

// marks computes the limit lines.
func (s *Sheet) marks(ctx context.Context) error {
	for _, m := range s.of.As.Marks {
		v, err := s.figure(ctx, m.At)
		if err != nil {
			return fmt.Errorf("the mark %s: %w", m.Label, err)
		}
		s.Chart.Marks = append(s.Chart.Marks, drawn.Mark{Label: m.Label, Value: v})
	}
	return nil
}
