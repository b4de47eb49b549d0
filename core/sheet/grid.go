package sheet

import (
	"context"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/shown"
)

// Grid is a sheet as plain columns, for files: what the lines are grouped by,
// a column for each level, and then the sheet's own columns. Each hands on the
// lines in order, and Lines tells of each what it is too; charts have no lines.
type Grid struct {
	Columns []GridColumn
	Each    func(ctx context.Context, visit func([]frame.Value) error) error
	Lines   func(ctx context.Context, visit func(Line, []frame.Value) error) error
}

// GridColumn is a column with its heading in one line.
type GridColumn struct {
	Heading string
	Field   frame.Field
	ID      string // of the column, or of the group across and its measure
}

// Grid returns the sheet as plain columns. The line of a group has the names of
// the groups above it too, so that every line stands for itself; in a crosstab
// of stacked measures a column names the measure.
func (s *Sheet) Grid() Grid {
	if s.Chart != nil {
		return s.chartGrid()
	}
	g := Grid{}
	for _, l := range s.Levels {
		g.Columns = append(g.Columns, GridColumn{l.Label, frame.Field{Kind: frame.Text}, l.Text})
	}
	stacked := s.cross != nil && s.cross.stacked
	if stacked {
		g.Columns = append(g.Columns, GridColumn{"Measure", frame.Field{Kind: frame.Text}, "measure"})
	}
	for _, c := range s.Columns {
		id := c.ID
		if len(s.of.Across) > 0 {
			id = strings.Trim(c.Path+"/"+c.ID, "/")
		}
		g.Columns = append(g.Columns, GridColumn{s.headOf(c), c.Field, id})
	}
	g.Each = func(ctx context.Context, visit func([]frame.Value) error) error {
		return g.Lines(ctx, func(_ Line, cells []frame.Value) error { return visit(cells) })
	}
	g.Lines = func(ctx context.Context, visit func(Line, []frame.Value) error) error {
		path := make([]frame.Value, len(s.Levels))
		return s.LinesInTurn(ctx, func(lines []Line) error {
			for _, l := range lines {
				if l.Kind != RowLine && len(path) > 0 {
					for i := max(l.Level-1, 0); i < len(path); i++ {
						path[i] = frame.Value{Kind: frame.Text, Null: true}
					}
					path[max(l.Level-1, 0)] = s.written(l.Key)
				}
				row := slices.Clone(path)
				if stacked {
					row = append(row,
						frame.Value{Kind: frame.Text, Text: shown.Heading(*s.of.Set.Column(s.cross.measures[l.Measure]))})
				}
				if err := visit(l, append(row, l.Cells...)); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return g
}

// headOf is the heading of a column in one line.
func (s *Sheet) headOf(c Column) string {
	if s.cross == nil || !s.cross.stacked {
		return strings.Join(append(slices.Clone(c.Heads), shown.Heading(c.Column)), " / ")
	}
	if len(c.Heads) == 0 {
		return "Total"
	}
	return strings.Join(c.Heads, " / ")
}

func (s *Sheet) written(v frame.Value) frame.Value {
	return frame.Value{Kind: frame.Text, Text: s.KeyText(v)}
}

// chartGrid has a line for each place or point of a chart.
func (s *Sheet) chartGrid() Grid {
	c := s.Chart
	g := Grid{Columns: []GridColumn{{c.X.Label, frame.Field{Kind: frame.Text}, "place"}}}
	if c.Form == "scatter" {
		g.Columns = []GridColumn{{"Point", frame.Field{Kind: frame.Text}, "point"}, {c.X.Label, c.X.Field, "x"},
			{c.Y.Label, c.Y.Field, "y"}}
		g.Each = func(_ context.Context, visit func([]frame.Value) error) error {
			for _, p := range c.Points {
				if err := visit([]frame.Value{{Kind: frame.Text, Text: p.Name}, p.X, p.Y}); err != nil {
					return err
				}
			}
			return nil
		}
		return g
	}
	for _, x := range c.Series {
		g.Columns = append(g.Columns, GridColumn{x.Label, c.Y.Field, strings.Trim(x.Path+"/"+x.ID, "/")})
	}
	g.Each = func(_ context.Context, visit func([]frame.Value) error) error {
		for i, p := range c.Places {
			row := []frame.Value{{Kind: frame.Text, Text: p.Name}}
			for _, x := range c.Series {
				row = append(row, x.Figures[i])
			}
			if err := visit(row); err != nil {
				return err
			}
		}
		return nil
	}
	return g
}
