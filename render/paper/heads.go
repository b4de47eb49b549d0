package paper

import "slices"

// headings are the rows of headings of a table: those that stand over several
// columns, and the lowest ones.
type headings struct {
	lowest [][]string // by column, broken into lines
	over   int        // rows above them
	height float64
}

func (g *printing) layHeads() headings {
	h := headings{over: g.table.Over()}
	deepest := 1
	for i, head := range g.table.Heads {
		lines := wrap(head.Text, g.widths[i]-2*g.pad, g.size, true, 3)
		h.lowest = append(h.lowest, lines)
		deepest = max(deepest, len(lines))
	}
	h.height = float64(h.over)*(g.size+6) + float64(deepest)*g.size*1.16 + 8
	return h
}

// writeHeads writes the headings of some columns.
func (g *printing) writeHeads(page *Page, part []int) {
	x, width := g.frame.left, 0.0
	for _, i := range part {
		width += g.widths[i]
	}
	bottom := g.y + g.heads.height
	for row := range g.heads.over {
		g.writeOver(page, part, row)
	}
	at := x
	page.newRow()
	for _, i := range part {
		lines := g.heads.lowest[i]
		page.readCell(HeadCell)
		for n, text := range lines {
			y := bottom - 5 - float64(len(lines)-1-n)*g.size*1.16
			if g.table.Heads[i].Right {
				page.textTo(at+g.widths[i]-g.pad, y, g.size, true, Ink, text)
			} else {
				page.text(at+g.pad, y, g.size, true, Ink, text)
			}
		}
		at += g.widths[i]
	}
	page.decor()
	page.line(x, bottom, width, 0, 0.9, Ink)
}

// writeOver writes one row of the headings that stand over several columns.
func (g *printing) writeOver(page *Page, part []int, row int) {
	y := g.y + float64(row+1)*(g.size+6) - 4
	at := g.frame.left
	page.newRow()
	for n := 0; n < len(part); {
		over := g.table.Heads[part[n]].Over
		from := at
		end := n
		for end < len(part) && same(g.table.Heads[part[end]].Over, over, row) {
			at += g.widths[part[end]]
			end++
		}
		page.read(Tag{Role: HeadCell, Row: page.row, Over: end - n})
		if len(over) > row {
			page.text(from+g.pad, y, g.size, true, Faint, cut(over[row], at-from-2*g.pad, g.size, true))
			page.line(from+g.pad, y+3, at-from-2*g.pad, 0, 0.5, Hair)
		}
		n = max(end, n+1)
	}
	page.decor()
}

// same tells whether two headings go on alike down to a row.
func same(a, b []string, row int) bool {
	return min(len(a), row+1) == min(len(b), row+1) && slices.Equal(a[:min(len(a), row+1)], b[:min(len(b), row+1)])
}
