// Package drawn is what a chart draws: its places and series with their figures, and what
// these say in words.
package drawn

import (
	"fmt"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/shown"
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
	Marks  []Mark
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

// Mark is a limit line with its figure.
type Mark struct {
	Label string
	Value frame.Value
}

// Says tells a chart's figures in words, for people who do not see it: each series
// with its places, of at most so many bytes. The view's own table has them all.
func (c *Chart) Says(form shown.Form, most int) string {
	var said []string
	for _, x := range c.Series {
		var figures []string
		for i, v := range x.Figures {
			if i < len(c.Places) && !v.Null {
				figures = append(figures, c.Places[i].Name+" "+form.Text(v))
			}
		}
		said = append(said, x.Label+": "+strings.Join(figures, ", "))
	}
	if c.Form == "scatter" {
		said = append(said, fmt.Sprintf("%d points of %s by %s", c.Of, c.Y.Label, c.X.Label))
	}
	for _, m := range c.Marks {
		said = append(said, "limit "+m.Label+" "+form.Text(m.Value))
	}
	out := strings.Join(said, "; ")
	if len(out) > most {
		at := strings.LastIndexAny(out[:most], ",;")
		out = out[:max(at, 0)] + " and more"
	}
	return out
}
