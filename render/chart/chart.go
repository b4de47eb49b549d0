// Package chart draws the charts of sheets, on paper, as SVG and as PNG.
package chart

import (
	"fmt"
	"image/color"
	"io"
	"math"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/font"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/text"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"
	"gonum.org/v1/plot/vg/vgimg"
	"gonum.org/v1/plot/vg/vgsvg"

	"mantilla/core/drawn"
	"mantilla/core/frame"
	"mantilla/core/shown"
)

// palette are the colours of series, those of the console.
var palette = []color.Color{hex(0x7d3369), hex(0x1f807a), hex(0xc2860c), hex(0x4f6d9a), hex(0xb6402a), hex(0x71bab5),
	hex(0xc58bb2), hex(0x766d64)}

var (
	ink   = hex(0x2a2523)
	faint = hex(0x6b615a)
	hair  = hex(0xe2dbd0)
)

func hex(rgb uint32) color.Color {
	return color.NRGBA{uint8(rgb >> 16), uint8(rgb >> 8), uint8(rgb), 255}
}

// Hex is the colour of a series, such as 7D3369.
func Hex(series int) string {
	r, g, b, _ := colorOf(series).RGBA()
	return fmt.Sprintf("%02X%02X%02X", r>>8, g>>8, b>>8)
}

func colorOf(series int) color.Color { return palette[series%len(palette)] }

// Height is how high a chart should be: bars that lie have a line each.
func Height(c *drawn.Chart, usual float64) float64 {
	if Lies(c) {
		return max(usual*0.45, 60+float64(len(c.Places))*(8+10*float64(min(len(c.Series), 4))))
	}
	return usual
}

// Lies tells whether bars lie: names of things are read beside them, while
// periods and bands follow one another from left to right.
func Lies(c *drawn.Chart) bool {
	return c.Form == "bar" && c.X.Field.Kind == frame.Text && c.X.Field.Names == nil
}

// Draw draws a chart onto a canvas of a width and height in points.
func Draw(c *drawn.Chart, form shown.Form, on vg.Canvas, width, height float64) error {
	canvas := draw.NewCanvas(on, vg.Length(width), vg.Length(height))
	if c.Form == "pie" {
		pie(c, canvas)
		return nil
	}
	p := plot.New()
	style(p)
	d := drawing{chart: c, plot: p, form: form, width: width}
	if err := d.series(); err != nil {
		return fmt.Errorf("drawing the chart: %w", err)
	}
	if err := d.marks(); err != nil {
		return fmt.Errorf("drawing the chart: %w", err)
	}
	if len(c.Series) > 1 {
		canvas = legend(c, canvas)
	}
	p.Draw(canvas)
	return nil
}

// legend names the series above the drawing and returns what is left below.
func legend(c *drawn.Chart, on draw.Canvas) draw.Canvas {
	label := sans(8, false)
	x, y := on.Min.X+4, on.Max.Y-10
	for i, s := range c.Series {
		width := label.Width(s.Label) + 26
		if x+width > on.Max.X && x > on.Min.X+4 {
			x, y = on.Min.X+4, y-13
		}
		on.SetColor(colorOf(i))
		on.Fill(square(vg.Point{X: x, Y: y}, 7))
		on.FillText(label, vg.Point{X: x + 11, Y: y}, s.Label)
		x += width
	}
	return draw.Crop(on, 0, 0, 0, y-6-on.Max.Y)
}

func square(at vg.Point, side vg.Length) (p vg.Path) {
	p.Move(at)
	p.Line(vg.Point{X: at.X + side, Y: at.Y})
	p.Line(vg.Point{X: at.X + side, Y: at.Y + side})
	p.Line(vg.Point{X: at.X, Y: at.Y + side})
	p.Close()
	return p
}

// SVG writes a chart as a drawing of a width and height in points.
func SVG(w io.Writer, c *drawn.Chart, form shown.Form, width, height float64) error {
	canvas := vgsvg.New(vg.Length(width), vg.Length(height))
	if err := Draw(c, form, canvas, width, height); err != nil {
		return err
	}
	_, err := canvas.WriteTo(w)
	return err
}

// PNG writes a chart as a picture of two points to a point.
func PNG(w io.Writer, c *drawn.Chart, form shown.Form, width, height float64) error {
	canvas := vgimg.PngCanvas{Canvas: vgimg.NewWith(vgimg.UseWH(vg.Length(width), vg.Length(height)), vgimg.UseDPI(144),
		vgimg.UseBackgroundColor(color.White))}
	if err := Draw(c, form, canvas, width, height); err != nil {
		return err
	}
	_, err := canvas.WriteTo(w)
	return err
}

func sans(size float64, bold bool) text.Style {
	f := font.Font{Typeface: "Liberation", Variant: "Sans", Size: vg.Length(size)}
	if bold {
		f.Weight = 3 // x/image/font.WeightBold
	}
	return text.Style{Color: ink, Font: f, Handler: plot.DefaultTextHandler}
}

func style(p *plot.Plot) {
	p.BackgroundColor = nil
	for _, axis := range []*plot.Axis{&p.X, &p.Y} {
		label, tick := sans(8.5, false), sans(8, false)
		label.Color = faint
		label.XAlign, label.YAlign = axis.Label.TextStyle.XAlign, axis.Label.TextStyle.YAlign
		label.Rotation = axis.Label.TextStyle.Rotation
		tick.XAlign, tick.YAlign = axis.Tick.Label.XAlign, axis.Tick.Label.YAlign
		axis.Label.TextStyle, axis.Tick.Label = label, tick
		axis.LineStyle.Color, axis.LineStyle.Width = faint, 0.5
		axis.Tick.LineStyle.Color, axis.Tick.LineStyle.Width = faint, 0.5
		axis.Tick.Length = 3
	}
	grid := plotter.NewGrid()
	grid.Vertical.Color, grid.Horizontal.Color = hair, hair
	p.Add(grid)
}

// number is a figure as near as a drawing needs it; NaN where there is none.
func number(v frame.Value) float64 {
	if v.Null {
		return math.NaN()
	}
	return v.Number.Digits.ToFloat64(0) / math.Pow10(int(v.Number.Scale))
}
