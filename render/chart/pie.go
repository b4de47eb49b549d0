package chart

import (
	"fmt"
	"math"

	"mantilla/core/drawn"

	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"
)

// pie draws the shares of the first series, the first at the top and on with
// the clock, and names them with their percentages at the right.
func pie(c *drawn.Chart, on draw.Canvas) {
	if len(c.Series) == 0 {
		return
	}
	size := on.Size()
	radius := min(size.X*0.3, size.Y/2-6)
	middle := vg.Point{X: on.Min.X + radius + 8, Y: on.Min.Y + size.Y/2}
	sum := 0.0
	for _, v := range c.Series[0].Figures {
		if x := number(v); x > 0 {
			sum += x
		}
	}
	label := sans(8.5, false)
	start := math.Pi / 2
	step := min(vg.Length(16), (size.Y-8)/vg.Length(max(len(c.Places), 1)))
	y := middle.Y + step*vg.Length(len(c.Places)-1)/2
	for i, place := range c.Places {
		x := number(c.Series[0].Figures[i])
		share := 0.0
		if x > 0 && sum > 0 {
			share = x / sum
		}
		var wedge vg.Path
		wedge.Move(middle)
		wedge.Arc(middle, radius, start, -share*2*math.Pi)
		wedge.Close()
		if share > 0 {
			on.SetColor(colorOf(i))
			on.Fill(wedge)
			on.SetColor(hex(0xffffff))
			on.SetLineWidth(0.8)
			on.Stroke(wedge)
		}
		start -= share * 2 * math.Pi
		at := vg.Point{X: middle.X + radius + 24, Y: y}
		on.SetColor(colorOf(i))
		on.Fill(square(at, 8))
		on.FillText(label, vg.Point{X: at.X + 14, Y: at.Y + 0.5},
			fmt.Sprintf("%s  %.1f %%", place.Name, math.Round(share*1000)/10))
		y -= step
	}
}
