package reading

import (
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/mattn/go-runewidth"

	"mantilla/api"
	"mantilla/cli/talk"
)

// defaultWidth is how wide drawings are where there is no terminal.
const defaultWidth = 100

// drawChart draws a chart as text: bars for all figures, one line each, and a
// grid of characters for points.
func drawChart(w io.Writer, chart *api.Chart, width int) error {
	if width == 0 {
		width = defaultWidth
	}
	var b strings.Builder
	if chart.Form == api.ChartFormScatter {
		drawPoints(&b, chart, width)
	} else {
		drawBars(&b, chart, width)
	}
	for _, m := range chart.Marks {
		fmt.Fprintf(&b, "┊ %s: %s\n", m.Label, m.Text)
	}
	_, err := io.WriteString(w, b.String())
	return err
}

func drawBars(b *strings.Builder, chart *api.Chart, width int) {
	low, high := 0.0, 0.0
	names, texts := 0, 0
	for _, s := range chart.Series {
		for i, v := range s.Values {
			if v != nil {
				low, high = min(low, *v), max(high, *v)
				texts = max(texts, runewidth.StringWidth(*s.Texts[i]))
			}
		}
		if len(chart.Series) > 1 {
			names = max(names, runewidth.StringWidth(talk.Clean(s.Label))+2)
		}
	}
	for _, p := range chart.Places {
		names = max(names, runewidth.StringWidth(talk.Clean(p.Name)))
	}
	names = min(names, width/3)
	room := float64(max(width-names-texts-4, 10))
	if high == low {
		high = low + 1
	}
	zero := -low / (high - low) * room
	write := func(name string, v *float64, text *string) {
		b.WriteString(runewidth.FillRight(runewidth.Truncate(talk.Clean(name), names, "…"), names) + "  ")
		if v == nil {
			b.WriteString("\n")
			return
		}
		b.WriteString(runewidth.FillLeft(*text, texts) + "  " + talk.Bar(zero, *v/(high-low)*room) + "\n")
	}
	for i, p := range chart.Places {
		if len(chart.Series) == 1 {
			write(p.Name, chart.Series[0].Values[i], chart.Series[0].Texts[i])
			continue
		}
		b.WriteString(talk.Clean(p.Name) + "\n")
		for _, s := range chart.Series {
			write("  "+s.Label, s.Values[i], s.Texts[i])
		}
	}
	if chart.Y.Label != "" {
		fmt.Fprintf(b, "· %s\n", chart.Y.Label)
	}
}

// drawPoints draws points into a grid: how many lie in each cell.
func drawPoints(b *strings.Builder, chart *api.Chart, width int) {
	const height = 16
	columns := max(min(width-14, 100), 20)
	grid := [height][]int{}
	for i := range grid {
		grid[i] = make([]int, columns)
	}
	if len(chart.Points) == 0 {
		return
	}
	first := chart.Points[0]
	x, y := [2]api.Point{first, first}, [2]api.Point{first, first}
	for _, p := range chart.Points {
		if p.X < x[0].X {
			x[0] = p
		}
		if p.X > x[1].X {
			x[1] = p
		}
		if p.Y < y[0].Y {
			y[0] = p
		}
		if p.Y > y[1].Y {
			y[1] = p
		}
	}
	place := func(v, low, high float64, cells int) int {
		if high == low {
			return 0
		}
		return int((v - low) / (high - low) * float64(cells-1))
	}
	for _, p := range chart.Points {
		grid[height-1-place(p.Y, y[0].Y, y[1].Y, height)][place(p.X, x[0].X, x[1].X, columns)]++
	}
	for i, cells := range grid {
		label := ""
		switch i {
		case 0:
			label = y[1].YText
		case height - 1:
			label = y[0].YText
		}
		b.WriteString(runewidth.FillLeft(label, 12) + " │")
		for _, n := range cells {
			b.WriteString([]string{" ", "·", "•", "●"}[min(n, 3)])
		}
		b.WriteString("\n")
	}
	b.WriteString(strings.Repeat(" ", 13) + "└" + strings.Repeat("─", columns) + "\n")
	between := columns - runewidth.StringWidth(x[0].XText) - runewidth.StringWidth(x[1].XText)
	b.WriteString(strings.Repeat(" ", 14) + x[0].XText + strings.Repeat(" ", max(between, 1)) + x[1].XText + "\n")
	fmt.Fprintf(b, "· %s by %s\n", chart.Y.Label, chart.X.Label)
	if len(chart.Points) < chart.Of {
		fmt.Fprintf(b, "· the first %d of %d points\n", len(chart.Points), chart.Of)
	}
}

// drawTimeline draws a bar for each line on a scale of days.
func drawTimeline(w io.Writer, s api.Sheet, width int) error {
	if width == 0 {
		width = defaultWidth
	}
	from, _ := time.Parse(time.DateOnly, s.Timeline.From)
	to, _ := time.Parse(time.DateOnly, s.Timeline.To)
	label := 0
	for i, c := range s.Columns {
		if s.Timeline.Label != nil && c.Id == *s.Timeline.Label {
			label = i
		}
	}
	names := width / 3
	room := width - names - 1
	at := func(day string) int {
		t, _ := time.Parse(time.DateOnly, day)
		return int(t.Sub(from).Hours() / max(to.Sub(from).Hours()+24, 1) * float64(room))
	}
	var b strings.Builder
	ends := from.Format("2 Jan 2006") + strings.Repeat(" ", max(room-22, 1)) + to.Format("2 Jan 2006")
	b.WriteString(strings.Repeat(" ", names+1) + ends + "\n")
	for i, cells := range s.Cells {
		name := ""
		if cells[label] != nil {
			name = *cells[label]
		}
		b.WriteString(runewidth.FillRight(runewidth.Truncate(talk.Clean(name), names, "…"), names) + " ")
		span := *s.Marks[i].Span
		start, end := at(span[0]), at(span[1])
		line := []rune(strings.Repeat(" ", start) + strings.Repeat("█", max(end-start, 1)))
		if s.Timeline.Today != nil {
			if today := at(*s.Timeline.Today); today >= 0 && today < room {
				for len(line) <= today {
					line = append(line, ' ')
				}
				line[today] = map[bool]rune{true: '▓', false: '┊'}[line[today] == '█']
			}
		}
		b.WriteString(strings.TrimRight(string(line), " ") + "\n")
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// drawForm writes the fields of each row below one another.
func drawForm(w io.Writer, s api.Sheet) error {
	names := 0
	for _, c := range s.Columns {
		names = max(names, runewidth.StringWidth(c.Heading))
	}
	var b strings.Builder
	for i, cells := range s.Cells {
		if i > 0 {
			b.WriteString("\n")
		}
		under := ""
		for at, c := range s.Columns {
			if c.Under != nil && *c.Under != under {
				under = *c.Under
				b.WriteString(under + "\n")
			}
			text := "–"
			if cells[at] != nil {
				text = talk.Clean(*cells[at])
			}
			b.WriteString("  " + runewidth.FillRight(c.Heading, names) + "  " + text + "\n")
		}
		for _, blank := range s.Blanks {
			b.WriteString("  " + runewidth.FillRight(blank, names) + "  ______________________________\n")
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}
