package paper

import (
	"slices"

	"mantilla/core/sheet"
	"mantilla/render/document"
)

// forms prints each row as a filed form: its fields in two columns under their
// headings, and lines for what is filled in by hand.
func (p *press) forms(x *sheet.Sheet) error {
	t := p.document.Read(x)
	landscape := p.setting.Orientation == "landscape"
	if err := p.section(x, landscape, 60); err != nil {
		return err
	}
	f := &filing{press: p, heads: t.Heads, landscape: landscape}
	for i, h := range t.Heads {
		over := ""
		if len(h.Over) > 0 {
			over = h.Over[0]
		}
		if h.Blank {
			f.blanks = append(f.blanks, i)
			continue
		}
		if at := slices.IndexFunc(f.groups, func(g group) bool { return g.title == over }); at >= 0 {
			f.groups[at].fields = append(f.groups[at].fields, i)
		} else {
			f.groups = append(f.groups, group{over, []int{i}})
		}
	}
	return t.Each(p.ctx, func(lines []document.Line) error {
		for _, l := range lines {
			if err := f.form(l); err != nil {
				return err
			}
		}
		return nil
	})
}

// filing prints forms of the same fields.
type filing struct {
	*press
	heads     []document.Head
	groups    []group
	blanks    []int
	landscape bool
}

// group is fields that stand under one heading.
type group struct {
	title  string
	fields []int
}

const fieldHeight, blankHeight = 24.0, 30.0

func (f *filing) form(l document.Line) error {
	height := 12.0
	for _, g := range f.groups {
		height += float64((len(g.fields)+1)/2) * fieldHeight
		if g.title != "" {
			height += 16
		}
	}
	height += float64((len(f.blanks)+1)/2) * blankHeight
	if f.room() < height && f.y > f.frame.top+1 {
		if err := f.turn(f.landscape); err != nil {
			return err
		}
	}
	half := f.frame.across() / 2
	top := f.y
	for _, g := range f.groups {
		if g.title != "" {
			f.y += 16
			f.page.read(Tag{Role: Paragraph})
			f.page.text(f.frame.left+8, f.y-3, textSize, true, Plum, g.title)
		}
		for n, i := range g.fields {
			f.field(f.frame.left+8+float64(n%2)*half, half-16, f.heads[i].Text, f.mark(l, i), toneOf(l, i))
			if n%2 == 1 || n == len(g.fields)-1 {
				f.y += fieldHeight
			}
		}
	}
	for n, i := range f.blanks {
		x := f.frame.left + 8 + float64(n%2)*half
		f.page.read(Tag{Role: Paragraph})
		f.page.text(x, f.y+10, smallSize, false, Faint, f.heads[i].Text)
		f.page.line(x, f.y+blankHeight-4, half-16, 0, 0.6, Ink)
		if n%2 == 1 || n == len(f.blanks)-1 {
			f.y += blankHeight
		}
	}
	f.y += 4
	f.page.decor()
	f.page.Items = append(f.page.Items,
		Item{Kind: Path, Color: Hair, Fill: None, Pen: 0.6, Steps: rectangle(f.frame.left, top, f.frame.across(), f.y-top)})
	f.y += 8
	return nil
}

func toneOf(l document.Line, i int) string {
	if l.Tones != nil && l.Tones[i] != "" {
		return l.Tones[i]
	}
	return l.Tone
}

func (f *filing) mark(l document.Line, i int) string {
	text := l.Cells[i]
	if text == "" {
		return "–"
	}
	if l.Tones != nil && l.Tones[i] == "alert" {
		return "▲ " + text
	}
	return text
}

func (f *filing) field(x, width float64, label, text, tone string) {
	f.page.newRow()
	f.page.readCell(RowHead)
	f.page.text(x, f.y+9, smallSize, false, Faint, cut(label, width, smallSize, false))
	f.page.readCell(Cell)
	f.page.text(x, f.y+20, textSize, false, toneColor(tone), cut(text, width, textSize, false))
}

func rectangle(x, y, w, h float64) []Step {
	return []Step{{Op: 'm', X: x, Y: y}, {Op: 'l', X: x + w, Y: y}, {Op: 'l', X: x + w, Y: y + h},
		{Op: 'l', X: x, Y: y + h}, {Op: 'z'}}
}
