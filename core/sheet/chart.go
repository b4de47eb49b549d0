package sheet

import (
	"context"
	"fmt"
	"math"
	"slices"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/table"
)

// Chart is what a chart draws. Bars, lines, areas and pies have a figure for
// every series at every place; histograms are bars of bands; scatter charts
// have points.
type Chart struct {
	Form   string // bar, line, area, pie, histogram or scatter
	Places []Place
	Series []Series
	Points []Point
	Of     int // how many points there are, of which Points may be the first
	X, Y   Axis
	Marks  []ChartMark
}

// Stacked tells whether the series are parts of one figure, which stand on one
// another, rather than several figures beside one another.
func (c *Chart) Stacked() bool {
	for _, s := range c.Series {
		if s.Path == "" {
			return false
		}
	}
	return len(c.Series) > 1
}

// Axis is what a direction of a chart means.
type Axis struct {
	Label string
	Field frame.Field
}

// Place is a category of a chart; Path leads to its group.
type Place struct {
	Name string
	Key  frame.Value
	Path string
}

// Series is one line, colour or stack: figures by place. Path is that of the
// group across; ID is the column of the figure.
type Series struct {
	ID      string
	Label   string
	Path    string
	Figures []frame.Value
}

// Point is one row of a scatter chart.
type Point struct {
	Row  uint32
	X, Y frame.Value
	Name string
}

// ChartMark is a limit line with its figure.
type ChartMark struct {
	Label string
	Value frame.Value
}

// mostPoints bounds the points of a scatter chart.
const mostPoints = 5000

// mostSeries bounds the series of a chart: more cannot be told apart.
const mostSeries = 24

func (s *Sheet) layChart(ctx context.Context) error {
	s.Chart = &Chart{Form: s.view.Drawn}
	if err := s.marks(ctx); err != nil {
		return err
	}
	if s.view.Drawn == "scatter" {
		return s.scatter(ctx)
	}
	levels := s.levels
	s.Chart.Form = s.view.Drawn
	if s.view.Drawn == "histogram" {
		s.view.Cells = nil
	}
	if len(levels) == 0 {
		return &Fault{"group", fmt.Errorf("a chart needs a column to be drawn by")}
	}
	if len(s.view.Cells) == 0 && s.view.Drawn != "histogram" {
		return &Fault{"cells", fmt.Errorf("a chart needs a measure: choose one of %s", s.measureNames())}
	}
	s.shown = s.view.Cells
	s.levels = levels
	f, err := s.figures(ctx, levels[:1], s.shown)
	if err != nil {
		return err
	}
	s.chartSort()
	if s.outline, err = s.arrange(ctx, f); err != nil {
		return err
	}
	if shown := len(s.outline.blocks); shown > mostPlaces {
		return &Fault{"group", fmt.Errorf("a chart of %d places cannot be read; group by something with fewer values than "+
			"%s, show the largest only, or filter it", shown, levels[0].label)}
	}
	s.places()
	s.Chart.X = Axis{levels[0].label, levels[0].field}
	if len(levels) > 1 {
		return s.seriesAcross(ctx, levels[1])
	}
	return s.seriesOf(f)
}

// chartSort puts the largest first where a chart is limited or a pie and
// nobody says otherwise; periods keep their order.
func (s *Sheet) chartSort() {
	if len(s.Sort) == 0 && len(s.view.Cells) > 0 && s.levels[0].field.Kind == frame.Text &&
		s.levels[0].field.Names == nil {
		s.Sort = []frame.Key{{Column: s.view.Cells[0], Descending: true}}
	}
}

// places are the groups of the first level as the outline shows them.
func (s *Sheet) places() {
	for _, b := range s.outline.blocks {
		switch {
		case b.level == 0:
			s.Chart.Places = append(s.Chart.Places, Place{Name: s.view.Rest, Path: rest})
		case b.level == 1 && !b.rows:
			l := &s.outline.groups.Levels[1]
			v := l.Keys.Value(l.Field, int(b.group))
			s.Chart.Places = append(s.Chart.Places, Place{s.KeyText(v), v, segment(v)})
		}
	}
	if !s.view.Fill || s.outline.rest != nil {
		return
	}
	known := map[string]bool{}
	for _, p := range s.Chart.Places {
		known[p.Path] = true
	}
	for _, v := range s.periods(s.levels[0], &s.outline.groups.Levels[1].Keys) {
		if !known[segment(v)] {
			s.Chart.Places = append(s.Chart.Places, Place{s.KeyText(v), v, segment(v)})
		}
	}
	slices.SortStableFunc(s.Chart.Places, func(a, b Place) int {
		if c := nullsLast(a.Key.Null, b.Key.Null); c != 0 || a.Key.Null {
			return c
		}
		return a.Key.Number.Compare(b.Key.Number)
	})
}

// seriesOf makes a series of each measure.
func (s *Sheet) seriesOf(f *figures) error {
	if s.view.Drawn == "histogram" {
		counts := Series{Label: "Rows"}
		known := f.childrenOf(0, 0)
		for _, p := range s.Chart.Places {
			n := 0
			if g, ok := known[p.Path]; ok {
				n = f.groups.Levels[1].Size(g)
			}
			counts.Figures = append(counts.Figures, frame.Value{Kind: frame.Integer, Number: frame.Exact(int64(n), 0)})
		}
		s.Chart.Series = []Series{counts}
		s.Chart.Y = Axis{"Rows", frame.Field{Kind: frame.Integer}}
		return nil
	}
	if n := len(s.Chart.Places) * len(s.view.Cells); n > mostCells {
		return &Fault{"cells", fmt.Errorf("a chart of %d figures cannot be read; choose fewer measures", n)}
	}
	known := f.childrenOf(0, 0)
	for _, id := range s.view.Cells {
		c := s.set.Column(id)
		x := f.of[id]
		series := Series{ID: id, Label: Heading(*c)}
		for _, p := range s.Chart.Places {
			v := frame.Value{Kind: x.field.Kind, Null: true}
			switch g, ok := known[p.Path]; {
			case p.Path == rest:
				own := s.outline.restOf.of[id]
				v = own.levels[0].Value(own.field, 0)
			case ok:
				v = x.levels[1].Value(x.field, g)
			}
			series.Figures = append(series.Figures, v)
		}
		s.Chart.Series = append(s.Chart.Series, series)
		s.Chart.Y = Axis{Heading(*c), x.field}
	}
	if len(s.view.Cells) > 1 {
		s.Chart.Y.Label = ""
	}
	return nil
}

// seriesAcross makes a series of each group of a second level, the largest
// first unless the level has an order of its own.
func (s *Sheet) seriesAcross(ctx context.Context, by level) error {
	id := s.view.Cells[0]
	both, err := s.figures(ctx, []level{s.levels[0], by}, []string{id})
	if err != nil {
		return err
	}
	second, err := s.figures(ctx, []level{by}, []string{id})
	if err != nil {
		return err
	}
	x := both.of[id]
	s.Chart.Y = Axis{Heading(*s.set.Column(id)), x.field}
	l := &second.groups.Levels[1]
	if l.Len() > mostSeries {
		return &Fault{"group", fmt.Errorf("a chart of %d series cannot be read; draw it by a column with fewer values than "+
			"%s, or filter it", l.Len(), by.label)}
	}
	first := both.childrenOf(0, 0)
	within := make([]map[string]int, len(s.Chart.Places))
	for i, p := range s.Chart.Places {
		if g, ok := first[p.Path]; ok {
			within[i] = both.childrenOf(1, g)
		}
	}
	for g := range l.Len() {
		key := l.Keys.Value(l.Field, g)
		series := Series{ID: id, Label: s.KeyText(key), Path: segment(key)}
		for i, p := range s.Chart.Places {
			v := frame.Value{Kind: x.field.Kind, Null: true}
			if p.Path == rest {
				if v, err = s.restAcross(ctx, by, id, series.Path); err != nil {
					return err
				}
			} else if at, ok := within[i][series.Path]; ok {
				v = x.levels[2].Value(x.field, at)
			}
			series.Figures = append(series.Figures, v)
		}
		s.Chart.Series = append(s.Chart.Series, series)
	}
	return nil
}

func (s *Sheet) restAcross(ctx context.Context, by level, id, path string) (frame.Value, error) {
	f, err := s.figuresOf(ctx, *s.outline.rest, []level{by}, s.outline.ids, s.outline.groups)
	if err != nil {
		return frame.Value{}, err
	}
	x := f.of[id]
	if _, g, err := f.find(path); err == nil {
		return x.levels[1].Value(x.field, g), nil
	}
	return frame.Value{Kind: x.field.Kind, Null: true}, nil
}

// scatter reads the points of a scatter chart.
func (s *Sheet) scatter(ctx context.Context) error {
	v := s.view
	x, y := s.set.Column(v.X), s.set.Column(v.Y)
	s.Chart.X, s.Chart.Y = Axis{Heading(*x), s.fieldOf(x)}, Axis{Heading(*y), s.fieldOf(y)}
	s.order, s.Lines = s.sorted(), s.Rows
	s.Chart.Of = s.Rows
	ids := []string{v.X, v.Y}
	if v.Label != "" {
		ids = append(ids, v.Label)
	}
	if s.Rows <= mostPoints {
		defer func() { s.Chart.Of = len(s.Chart.Points) }() // those without a value are no points
	}
	b, numbers, err := s.rows.Page(ctx, s.order, 0, mostPoints, s.indexes(ids))
	if err != nil {
		return err
	}
	for r, number := range numbers {
		p := Point{Row: number, X: b.Value(0, r), Y: b.Value(1, r)}
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
		out = append(out, s.scope.Columns.Index(id))
	}
	return out
}

// bins writes the bands of a histogram: of equal width, with limits that are
// round numbers (Wilkinson, The Grammar of Graphics, section 6.2.1: 1, 2 or 5
// times a power of ten).
func bins(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c Changes,
	setting Setting) (string, error) {
	c.Group, c.Cells = []string{"none"}, nil
	p, err := prepare(ctx, rows, d, v, c, setting)
	if err != nil {
		return "", err
	}
	at := p.scope.Columns.Index(v.X)
	if at < 0 {
		return "", fmt.Errorf("a histogram is of a column that rows have, and %s is computed of groups", v.X)
	}
	least, greatest := table.Measure{Column: at, Op: frame.Min}, table.Measure{Column: at, Op: frame.Max}
	groups, err := p.rows.Groups(ctx, p.where(), nil, []table.Measure{least, greatest})
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
	for _, m := range s.view.Marks {
		v, err := s.figure(ctx, m.At)
		if err != nil {
			return fmt.Errorf("the mark %s: %w", m.Label, err)
		}
		s.Chart.Marks = append(s.Chart.Marks, ChartMark{m.Label, v})
	}
	return nil
}
