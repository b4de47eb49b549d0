package paper

import (
	"slices"
	"strings"

	"mantilla/core/sheet"
	"mantilla/render/document"
)

// mostWrapped is how many lines of text a cell may have.
const mostWrapped = 4

// printing is a table on its way to paper. A table whose columns are split has
// several pages side by side, which are filled together.
type printing struct {
	*press
	table *document.Table
	columns
	heads  headings
	pages  []*Page
	open   []document.Line // the groups that the next line is in
	held   []set           // the last lines, which a total may not leave
	fresh  bool            // nothing but headings is on the page yet
	breaks bool            // each outermost group begins a page
}

// set is a line with its texts broken to the widths of its columns.
type set struct {
	document.Line
	texts  [][]string
	height float64
}

// table prints a table or a crosstab.
func (p *press) table(x *sheet.Sheet) error {
	t := p.document.Read(x)
	c, err := p.fit(t)
	if err != nil {
		return err
	}
	g := &printing{press: p, table: t, columns: c, breaks: x.View.Break}
	g.heads = g.layHeads()
	if err := p.section(x, c.landscape, g.heads.height+4*g.least()); err != nil {
		return err
	}
	g.sides()
	err = t.Each(p.ctx, func(lines []document.Line) error {
		for _, l := range lines {
			if err := g.take(l); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return g.end()
}

// least is the height of a line of one row of text.
func (g *printing) least() float64 {
	if len(g.table.Heads) > 0 && g.table.Heads[len(g.table.Heads)-1].Blank {
		return 24
	}
	return g.size + 5.5
}

// sides begins the pages beside the one under way, and writes the headings.
func (g *printing) sides() {
	g.pages = []*Page{g.page}
	y := g.y
	for range g.parts[1:] {
		g.begin()
		g.pages = append(g.pages, g.page)
	}
	g.y = y
	for i, part := range g.parts {
		g.writeHeads(g.pages[i], part)
	}
	g.y += g.heads.height
	g.fresh = true
}

// next ends the pages side by side and begins the next, with the groups that
// go on named again.
func (g *printing) next() error {
	for _, page := range g.pages[:len(g.pages)-1] {
		g.page = page
		if err := g.finish(); err != nil {
			return err
		}
	}
	g.page = g.pages[len(g.pages)-1]
	if err := g.turn(g.landscape); err != nil {
		return err
	}
	g.sides()
	for _, l := range g.open {
		l.Cells = append([]string{l.Cells[0] + " (continued)"}, make([]string, len(l.Cells)-1)...)
		g.write(g.set(l))
	}
	return nil
}

// take prints a line once it is known that it does not stand alone: a group
// keeps with what is below it, and the last lines with the total.
func (g *printing) take(l document.Line) error {
	line := g.set(l)
	if g.breaks && l.Kind == sheet.GroupLine && l.Level == 1 && (len(g.held) > 0 || !g.fresh) {
		if err := g.flush(); err != nil {
			return err
		}
		g.leave(l)
		if err := g.next(); err != nil {
			return err
		}
	}
	if n := len(g.held); n > 0 && !(heads(g.held[n-1]) && n < 6) {
		if err := g.flush(); err != nil {
			return err
		}
	}
	g.held = append(g.held, line)
	return nil
}

func heads(l set) bool { return l.Kind == sheet.GroupLine && l.Below > 0 }

// flush prints the lines held, all on one page.
func (g *printing) flush() error {
	height := 0.0
	for _, l := range g.held {
		height += l.height
	}
	if !g.fresh && g.room() < height {
		g.leave(g.held[0].Line)
		if err := g.next(); err != nil {
			return err
		}
	}
	for _, l := range g.held {
		g.leave(l.Line)
		g.write(l)
		if heads(l) {
			g.open = append(g.open, l.Line)
		}
	}
	g.held = g.held[:0]
	return nil
}

// leave forgets the groups that end before a line.
func (g *printing) leave(l document.Line) {
	if l.Kind == sheet.RowLine {
		return
	}
	for len(g.open) > 0 && g.open[len(g.open)-1].Level >= l.Level {
		g.open = g.open[:len(g.open)-1]
	}
}

// end prints what is held together with the total and the pages' last parts.
func (g *printing) end() error {
	if g.table.Total != nil {
		g.held = append(g.held, g.set(document.Line{Kind: sheet.GroupLine, Cells: g.table.Total}))
	}
	if len(g.held) == 0 {
		g.page = g.pages[0]
		g.page.read(Tag{Role: Paragraph})
		g.page.text(g.frame.left+g.pad, g.y+g.size+3, g.size, false, Faint, "No rows meet the values.")
		g.page.decor()
		g.y += g.size + 6
	} else if err := g.flush(); err != nil {
		return err
	}
	for _, page := range g.pages[:len(g.pages)-1] {
		g.page = page
		if err := g.finish(); err != nil {
			return err
		}
	}
	g.page = g.pages[len(g.pages)-1]
	g.y += 8
	return nil
}

// set breaks the texts of a line.
func (g *printing) set(l document.Line) set {
	out := set{Line: l, texts: make([][]string, len(l.Cells)), height: g.least()}
	bold := l.Kind != sheet.RowLine
	for i, text := range l.Cells {
		if text == "" {
			continue
		}
		room := g.widths[i] - 2*g.pad
		if i == 0 && g.table.Named && bold {
			room = g.nameRoom(l)
		}
		text = g.marked(l, i, text)
		if g.table.Heads[i].Right || fits(text, room, g.size, bold) && !strings.Contains(text, "\n") {
			out.texts[i] = []string{text}
			continue
		}
		out.texts[i] = wrap(text, room, g.size, bold, mostWrapped)
		out.height = max(out.height, float64(len(out.texts[i]))*(g.size*1.18)+5)
	}
	return out
}

// nameRoom is how far the name of a group may run: over the empty cells beside
// it.
func (g *printing) nameRoom(l document.Line) float64 {
	room := g.widths[0] - 2*g.pad - g.indent(l)
	for i := 1; i < len(l.Cells) && l.Cells[i] == "" && slices.Contains(g.parts[0], i); i++ {
		room += g.widths[i]
	}
	return room
}

func (g *printing) indent(l document.Line) float64 { return float64(max(l.Level-1, 0)) * g.size }

// marked puts the sign of a tone before a cell: tones are not told by colour
// alone.
func (g *printing) marked(l document.Line, i int, text string) string {
	if l.Tones != nil {
		switch l.Tones[i] {
		case "alert":
			return "▲ " + text
		case "attention":
			return "◊ " + text
		}
	}
	return text
}

// write prints a line on the pages side by side.
func (g *printing) write(l set) {
	for n, part := range g.parts {
		page, x := g.pages[n], g.frame.left
		width := 0.0
		for _, i := range part {
			width += g.widths[i]
		}
		g.ground(page, l, x, width)
		page.newRow()
		for _, i := range part {
			page.readCell(Cell)
			g.cell(page, l, i, x)
			x += g.widths[i]
		}
		page.decor()
	}
	if l.Kind == sheet.GroupLine && l.Level == 1 && l.Below > 0 && g.groups < 2000 &&
		!strings.HasSuffix(l.Cells[0], " (continued)") {
		g.groups++
		g.pages[0].Marks = append(g.pages[0].Marks, Bookmark{1, l.Cells[0], g.y})
	}
	g.y += l.height
	g.fresh = false
}

// ground draws what lies under a line's texts.
func (g *printing) ground(page *Page, l set, x, width float64) {
	switch {
	case l.Kind != sheet.RowLine && l.Level == 0:
		page.box(x, g.y, width, l.height, Band)
		page.line(x, g.y, width, 0, 0.7, Ink)
	case l.Level == 1 && l.Below > 0:
		page.box(x, g.y, width, l.height, Band)
	}
	page.line(x, g.y+l.height, width, 0, 0.3, Hair)
	switch l.Tone {
	case "alert":
		page.box(x, g.y+1, 2, l.height-2, Brick)
	case "attention":
		page.box(x, g.y+1, 2, l.height-2, Amber)
	}
}

func (g *printing) cell(page *Page, l set, i int, x float64) {
	if g.table.Heads[i].Blank {
		page.line(x+g.pad, g.y+l.height-4, g.widths[i]-2*g.pad, 0, 0.5, Faint)
		return
	}
	if len(l.texts[i]) == 0 {
		return
	}
	bold := l.Kind != sheet.RowLine && (l.Level <= 1 || l.Below > 0)
	tone := l.Tone
	if l.Tones != nil && l.Tones[i] != "" {
		tone = l.Tones[i]
	}
	bold = bold || tone == "total"
	color := toneColor(tone)
	baseline := g.y + (g.least()+g.size*0.7)/2
	if g.least() == 24 {
		baseline = g.y + 15
	}
	if g.table.Heads[i].Right {
		size := g.size
		if w := Width(l.texts[i][0], size, bold); w > g.widths[i]-4 { // a number is never cut
			size *= (g.widths[i] - 4) / w
		}
		page.textTo(x+g.widths[i]-g.pad, baseline, size, bold, color, l.texts[i][0])
	} else {
		if i == 0 && g.table.Named {
			x += g.indent(l.Line)
		}
		for _, text := range l.texts[i] {
			page.text(x+g.pad, baseline, g.size, bold, color, text)
			baseline += g.size * 1.18
		}
	}
	if l.Addresses != nil && l.Addresses[i] != "" {
		page.link(x, g.y, g.widths[i], l.height, l.Addresses[i])
	}
}

func toneColor(tone string) Color {
	switch tone {
	case "alert":
		return Brick
	case "attention":
		return Amber
	case "good":
		return Sea
	case "muted":
		return Faint
	}
	return Ink
}
