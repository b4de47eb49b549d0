package chart

import (
	"image/color"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"

	"mantilla/core/drawn"
	"mantilla/core/frame"
	"mantilla/core/shown"
)

// drawing is a chart with axes on its way.
type drawing struct {
	chart *drawn.Chart
	plot  *plot.Plot
	form  shown.Form
	width float64
}

func (d *drawing) series() error {
	c, p := d.chart, d.plot
	p.X.Label.Text, p.Y.Label.Text = c.X.Label, c.Y.Label
	p.Y.Tick.Marker = figures{d.form}
	switch {
	case c.Form == "scatter":
		return d.points()
	case Lies(c):
		p.X.Label.Text, p.Y.Label.Text = c.Y.Label, ""
		p.X.Tick.Marker = figures{d.form}
		return d.bars(true)
	case c.Form == "bar", c.Form == "histogram":
		return d.bars(false)
	}
	return d.lines()
}

// bars draws a bar for every series at every place, beside one another.
func (d *drawing) bars(lying bool) error {
	c, p := d.chart, d.plot
	room := (d.width - 90) / float64(max(len(c.Places), 1))
	if lying {
		room = 8 + 10*float64(min(len(c.Series), 4))
	}
	share := 0.8
	if c.Form == "histogram" {
		share = 0.98
	}
	each := vg.Length(max(room*share/float64(max(len(c.Series), 1)), 0.6))
	var names []string
	for _, place := range c.Places {
		names = append(names, place.Name)
	}
	for n, s := range c.Series {
		values := make(plotter.Values, len(s.Figures))
		for i, v := range s.Figures {
			if lying { // the first place is at the top
				i = len(values) - 1 - i
			}
			if x := number(v); !math.IsNaN(x) {
				values[i] = x
			}
		}
		b, err := plotter.NewBarChart(values, each)
		if err != nil {
			return err
		}
		b.Color, b.LineStyle.Width = colorOf(n), 0
		b.Horizontal = lying
		b.Offset = each * vg.Length(float64(n)-float64(len(c.Series)-1)/2)
		if lying {
			b.Offset = -b.Offset
		}
		p.Add(b)
	}
	if lying {
		slices.Reverse(names)
		p.Y.Tick.Marker = plot.ConstantTicks(places(names, 1, 34))
		p.Y.Min, p.Y.Max = -0.6, float64(len(names))-0.4
		return nil
	}
	d.placesAcross(names)
	if span := p.Y.Max - p.Y.Min; span > 0 { // bars do not touch the frame
		p.Y.Max += span * 0.04
	}
	return nil
}

// placesAcross names the places along the foot, as many as there is room for.
func (d *drawing) placesAcross(names []string) {
	longest := 0
	for _, n := range names {
		longest = max(longest, utf8.RuneCountInString(n))
	}
	room := max(int((d.width-90)/(float64(min(longest, 16))*4.6+6)), 1)
	d.plot.X.Tick.Marker = plot.ConstantTicks(places(names, (len(names)+room-1)/room, 16))
	d.plot.X.Min, d.plot.X.Max = -0.6, float64(len(names))-0.4
}

func places(names []string, step, longest int) (ticks []plot.Tick) {
	for i, name := range names {
		if i%max(step, 1) != 0 {
			name = ""
		}
		if letters := []rune(name); len(letters) > longest {
			name = string(letters[:longest-1]) + "…"
		}
		ticks = append(ticks, plot.Tick{Value: float64(i), Label: name})
	}
	return ticks
}

// lines draws lines or areas; where a figure is missing, a line has a gap.
func (d *drawing) lines() error {
	c, p := d.chart, d.plot
	for n, s := range c.Series {
		var run plotter.XYs
		end := func() error {
			if len(run) == 0 {
				return nil
			}
			line, dots, err := plotter.NewLinePoints(run)
			if err != nil {
				return err
			}
			line.Color, line.Width = colorOf(n), 1.4
			dots.Color, dots.Shape, dots.Radius = colorOf(n), draw.CircleGlyph{}, 1.6
			if c.Form == "area" {
				r, g, b, _ := colorOf(n).RGBA()
				line.FillColor = color.NRGBA{uint8(r >> 8), uint8(g >> 8), uint8(b >> 8), 70}
			}
			p.Add(line)
			if len(c.Places) <= 60 {
				p.Add(dots)
			}
			run = nil
			return nil
		}
		for i, v := range s.Figures {
			if y := number(v); !math.IsNaN(y) {
				run = append(run, plotter.XY{X: float64(i), Y: y})
			} else if err := end(); err != nil {
				return err
			}
		}
		if err := end(); err != nil {
			return err
		}
	}
	var names []string
	for _, place := range c.Places {
		names = append(names, place.Name)
	}
	d.placesAcross(names)
	return nil
}

func (d *drawing) points() error {
	c, p := d.chart, d.plot
	at := make(plotter.XYs, len(c.Points))
	for i, point := range c.Points {
		at[i] = plotter.XY{X: d.place(point.X), Y: number(point.Y)}
	}
	p.X.Tick.Marker = figures{d.form}
	if k := c.X.Field.Kind; k == frame.Date || k == frame.Timestamp {
		p.X.Tick.Marker = plot.TimeTicks{
			Format: "2 Jan 06",
			Time:   func(x float64) time.Time { return time.Unix(int64(x), 0).In(d.form.Zone) },
		}
	}
	dots, err := plotter.NewScatter(at)
	if err != nil {
		return err
	}
	dots.Color, dots.Shape, dots.Radius = colorOf(0), draw.CircleGlyph{}, 1.7
	p.Add(dots)
	return nil
}

// place is where a value lies across: moments by their seconds.
func (d *drawing) place(v frame.Value) float64 {
	switch v.Kind {
	case frame.Date:
		return float64(frame.DayTime(v.Int()).Unix())
	case frame.Timestamp:
		return float64(v.Int()) / 1e6
	}
	return number(v)
}

// marks draws limit lines with their names.
func (d *drawing) marks() error {
	for _, m := range d.chart.Marks {
		y := number(m.Value)
		if math.IsNaN(y) || math.IsInf(d.plot.X.Min, 0) {
			continue
		}
		line, err := plotter.NewLine(plotter.XYs{{X: d.plot.X.Min, Y: y}, {X: d.plot.X.Max, Y: y}})
		if err != nil {
			return err
		}
		line.Color, line.Width, line.Dashes = hex(0x9c3321), 0.9, []vg.Length{4, 3}
		name, err := plotter.NewLabels(plotter.XYLabels{
			XYs:    plotter.XYs{{X: d.plot.X.Min, Y: y}},
			Labels: []string{" " + m.Label + " " + d.form.Text(m.Value)},
		})
		if err != nil {
			return err
		}
		for i := range name.TextStyle {
			name.TextStyle[i] = sans(7.5, false)
			name.TextStyle[i].Color = hex(0x9c3321)
		}
		name.Offset = vg.Point{Y: 2}
		d.plot.Add(line, name)
	}
	return nil
}

// figures writes the ticks of an axis with digits in groups of three.
type figures struct{ form shown.Form }

// Ticks returns the ticks between two figures.
func (f figures) Ticks(low, high float64) []plot.Tick {
	ticks := plot.DefaultTicks{}.Ticks(low, high)
	for i, t := range ticks {
		if t.Label != "" {
			ticks[i].Label = f.form.Grouped(rounded(t.Value))
		}
	}
	return ticks
}

// rounded writes a figure in full, without what computing in binary left at its end.
func rounded(v float64) string {
	plain := strconv.FormatFloat(v, 'f', -1, 64)
	if short := strconv.FormatFloat(v, 'f', 6, 64); len(short) < len(plain) {
		plain = strings.TrimRight(strings.TrimRight(short, "0"), ".")
	}
	return plain
}
