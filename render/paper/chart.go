package paper

import (
	"image"
	"image/color"
	"math"

	"gonum.org/v1/plot/font"
	"gonum.org/v1/plot/vg"

	"mantilla/core/sheet"
	"mantilla/render/chart"
)

const chartHeight = 250.0

// chart prints a chart as lines and areas, not as a picture.
func (p *press) chart(x *sheet.Sheet) error {
	landscape := p.setting.Orientation == "landscape"
	height := min(chart.Height(x.Chart, chartHeight), p.setting.area(landscape).bottom-p.setting.area(landscape).top-60)
	if err := p.section(x, landscape, height); err != nil {
		return err
	}
	across := p.frame.across()
	c := &canvas{page: p.page, state: state{x: p.frame.left, y: p.y + height, scaleX: 1, scaleY: 1, pen: 1}}
	p.page.read(Tag{Role: Figure, Alt: x.View.Title + ": " + x.Chart.Says(p.document.Form, 2000)})
	if err := chart.Draw(x.Chart, p.document.Form, c, across, height); err != nil {
		return err
	}
	p.page.decor()
	p.y += height + 8
	return nil
}

// canvas draws what a plotting library draws onto a page. Its zero is at the
// lower left corner of the drawing and its heights go up.
type canvas struct {
	page  *Page
	state state
	stack []state
}

type state struct {
	x, y           float64 // where zero is on the page
	scaleX, scaleY float64
	angle          float64 // radians
	pen            float64
	dash           []float64
	color          Color
}

func (c *canvas) SetLineWidth(w vg.Length) { c.state.pen = float64(w) }

func (c *canvas) SetLineDash(pattern []vg.Length, _ vg.Length) {
	c.state.dash = nil
	for _, l := range pattern {
		c.state.dash = append(c.state.dash, float64(l))
	}
}

// SetColor sets a colour; one that lets the ground through is mixed with white.
func (c *canvas) SetColor(of color.Color) {
	if of == nil {
		of = color.Black
	}
	n := color.NRGBAModel.Convert(of).(color.NRGBA)
	mixed := func(v uint8) Color { return Color((int(v)*int(n.A) + 255*(255-int(n.A))) / 255) }
	c.state.color = mixed(n.R)<<16 | mixed(n.G)<<8 | mixed(n.B)
}

func (c *canvas) Rotate(rad float64) { c.state.angle += rad }

func (c *canvas) Translate(by vg.Point) { c.state.x, c.state.y = c.at(by) }

func (c *canvas) Scale(x, y float64) {
	c.state.scaleX, c.state.scaleY = c.state.scaleX*x, c.state.scaleY*y
}

func (c *canvas) Push() { c.stack = append(c.stack, c.state) }

func (c *canvas) Pop() {
	c.state = c.stack[len(c.stack)-1]
	c.stack = c.stack[:len(c.stack)-1]
}

// at places a point of the drawing on the page.
func (c *canvas) at(p vg.Point) (x, y float64) {
	px, py := float64(p.X)*c.state.scaleX, float64(p.Y)*c.state.scaleY
	sin, cos := math.Sincos(c.state.angle)
	return c.state.x + px*cos - py*sin, c.state.y - (px*sin + py*cos)
}

func (c *canvas) Stroke(p vg.Path) {
	if c.state.pen > 0 {
		c.page.Items = append(c.page.Items,
			Item{
				Kind:  Path,
				Color: c.state.color,
				Fill:  None,
				Pen:   c.state.pen,
				Dash:  c.state.dash,
				Steps: c.steps(p),
				Tag:   c.page.now,
			})
	}
}

func (c *canvas) Fill(p vg.Path) {
	c.page.Items = append(c.page.Items,
		Item{Kind: Path, Color: None, Fill: c.state.color, Steps: c.steps(p), Tag: c.page.now})
}

func (c *canvas) steps(p vg.Path) (out []Step) {
	for _, part := range p {
		x, y := c.at(part.Pos)
		switch part.Type {
		case vg.MoveComp:
			out = append(out, Step{Op: 'm', X: x, Y: y})
		case vg.LineComp:
			out = append(out, Step{Op: 'l', X: x, Y: y})
		case vg.CloseComp:
			out = append(out, Step{Op: 'z'})
		case vg.CurveComp:
			out = append(out, c.curve(part, x, y))
		case vg.ArcComp:
			out = append(out, c.arc(part, len(out) == 0)...)
		}
	}
	return out
}

// curve is a Bézier curve; one of a single control point is made one of two.
func (c *canvas) curve(part vg.PathComp, x, y float64) Step {
	s := Step{Op: 'c', X: x, Y: y}
	s.X1, s.Y1 = c.at(part.Control[0])
	s.X2, s.Y2 = s.X1, s.Y1
	if len(part.Control) > 1 {
		s.X2, s.Y2 = c.at(part.Control[1])
	}
	return s
}

// arc is drawn as short lines, of a degree and a half each.
func (c *canvas) arc(part vg.PathComp, begins bool) (out []Step) {
	n := max(int(math.Abs(part.Angle)/(math.Pi/120)), 2)
	for i := range n + 1 {
		angle := part.Start + part.Angle*float64(i)/float64(n)
		x, y := c.at(vg.Point{
			X: part.Pos.X + part.Radius*vg.Length(math.Cos(angle)),
			Y: part.Pos.Y + part.Radius*vg.Length(math.Sin(angle)),
		})
		op := byte('l')
		if i == 0 && begins {
			op = 'm'
		}
		out = append(out, Step{Op: op, X: x, Y: y})
	}
	return out
}

func (c *canvas) FillString(f font.Face, at vg.Point, text string) {
	if text == "" || f.Font.Size == 0 {
		return
	}
	x, y := c.at(at)
	c.page.Items = append(c.page.Items,
		Item{Kind: Text, X: x, Y: y, Size: float64(f.Font.Size), Bold: f.Font.Weight > 0, Color: c.state.color,
			Angle: c.state.angle * 180 / math.Pi, Text: text, Tag: c.page.now})
}

// DrawImage draws nothing: charts have no pictures.
func (c *canvas) DrawImage(vg.Rectangle, image.Image) {}
