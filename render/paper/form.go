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
	top       float64 // of the frame around the form under way
}

// group is fields that stand under one heading.
type group struct {
	title  string
	fields []int
}

// row is what stands side by side in a form: a heading alone, or one or two fields.
type row struct {
	height float64
	title  string
	fields []int
	texts  [][]string // of each field, broken into lines
	blank  bool       // the fields are filled in by hand
}

const fieldHeight, blankHeight, fieldLeading = 24.0, 30.0, 11.0

// form prints one row of the sheet, on one page where it fits.
func (f *filing) form(l document.Line) error {
	rows := f.rows(l)
	height := 12.0
	for _, r := range rows {
		height += r.height
	}
	if f.room() < height && f.y > f.frame.top+1 {
		if err := f.turn(f.landscape); err != nil {
			return err
		}
	}
	f.top = f.y
	for i, r := range rows {
		least := r.height
		if r.title != "" && i+1 < len(rows) {
			least += rows[i+1].height // a heading keeps with what it is of
		}
		if f.room() < least+12 && f.y > f.top {
			f.frameIn()
			if err := f.turn(f.landscape); err != nil {
				return err
			}
			f.top = f.y
		}
		f.write(l, r)
	}
	f.frameIn()
	f.y += 8
	return nil
}

// rows are those of the form that a line of the sheet fills in.
func (f *filing) rows(l document.Line) (rows []row) {
	for _, g := range f.groups {
		if g.title != "" {
			rows = append(rows, row{height: 16, title: g.title})
		}
		for pair := range slices.Chunk(g.fields, 2) {
			rows = append(rows, f.fields(l, pair)...)
		}
	}
	for pair := range slices.Chunk(f.blanks, 2) {
		rows = append(rows, row{height: blankHeight, fields: pair, blank: true})
	}
	return rows
}

// fields are the rows of one or two fields: several where a text is longer than a page.
func (f *filing) fields(l document.Line, pair []int) (rows []row) {
	most := int((f.frame.bottom - f.frame.top - fieldHeight - 32) / fieldLeading)
	rest := make([][]string, len(pair))
	for n, i := range pair {
		rest[n] = wrap(mark(l, i), f.width(), textSize, false, whole)
	}
	more := func(lines []string) bool { return len(lines) > 0 }
	for len(rows) == 0 || slices.ContainsFunc(rest, more) {
		r := row{fields: pair, height: fieldHeight}
		for n, lines := range rest {
			part := min(len(lines), most)
			r.texts = append(r.texts, lines[:part])
			r.height = max(r.height, fieldHeight+float64(part-1)*fieldLeading)
			rest[n] = lines[part:]
		}
		rows = append(rows, r)
	}
	return rows
}

// width is how wide a field is.
func (f *filing) width() float64 { return f.frame.across()/2 - 16 }

func (f *filing) write(l document.Line, r row) {
	if r.title != "" {
		f.page.read(Tag{Role: Paragraph})
		f.page.text(f.frame.left+8, f.y+13, textSize, true, Plum, r.title)
	}
	for n, i := range r.fields {
		x := f.frame.left + 8 + float64(n)*f.frame.across()/2
		label := f.heads[i].Text
		if r.blank {
			f.page.read(Tag{Role: Paragraph})
			f.page.text(x, f.y+10, smallSize, false, Faint, label)
			f.page.line(x, f.y+blankHeight-4, f.width(), 0, 0.6, Ink)
			continue
		}
		f.page.newRow()
		f.page.readCell(RowHead)
		f.page.text(x, f.y+9, smallSize, false, Faint, cut(label, f.width(), smallSize, false))
		f.page.readCell(Cell)
		for at, line := range r.texts[n] {
			f.page.text(x, f.y+20+float64(at)*fieldLeading, textSize, false, toneColor(toneOf(l, i)), line)
		}
	}
	f.y += r.height
}

// frameIn draws the frame around what has been written of a form on this page.
func (f *filing) frameIn() {
	f.y += 4
	f.page.decor()
	f.page.Items = append(f.page.Items, Item{Kind: Path, Color: Hair, Fill: None, Pen: 0.6,
		Steps: rectangle(f.frame.left, f.top, f.frame.across(), f.y-f.top)})
}

func toneOf(l document.Line, i int) string {
	if l.Tones != nil && l.Tones[i] != "" {
		return l.Tones[i]
	}
	return l.Tone
}

// mark is a field's text, with the sign of its tone: tones are not told by colour alone.
func mark(l document.Line, i int) string {
	text := l.Cells[i]
	if text == "" {
		return "–"
	}
	if l.Tones != nil && l.Tones[i] == "alert" {
		return "▲ " + text
	}
	return text
}

func rectangle(x, y, w, h float64) []Step {
	return []Step{{Op: 'm', X: x, Y: y}, {Op: 'l', X: x + w, Y: y}, {Op: 'l', X: x + w, Y: y + h},
		{Op: 'l', X: x, Y: y + h}, {Op: 'z'}}
}
