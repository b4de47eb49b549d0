package paper

import (
	"context"
	"fmt"
	"strconv"

	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/render/document"
)

// Pages stands on each page for the number of pages, which is known at the end.
const Pages = "{pages}"

// MostPages bounds a document: nobody reads more on paper.
const MostPages = 20_000

// ErrTooManyPages says that a document would be longer than [MostPages].
var ErrTooManyPages = fmt.Errorf("the document would have more than %d pages; filter the rows, fold the groups, or "+
	"take it as a spreadsheet", MostPages)

// The sizes of letters.
const (
	titleSize   = 16
	headingSize = 11.5
	textSize    = 9
	cellSize    = 8.5
	smallSize   = 7.5
)

// press prints a document page by page.
type press struct {
	ctx      context.Context
	document *document.Document
	setting  Setting
	emit     func(*Page) error

	frame  area
	page   *Page
	y      float64 // where the next thing goes
	number int     // of the page
	shown  *sheet.Sheet
	groups int // groups that stand in the outline
}

// Lay lays a document out and hands its pages on, in order. The setting has
// been checked. It fails with [ErrTooManyPages], and when the context ends.
func Lay(ctx context.Context, d *document.Document, s Setting, emit func(*Page) error) error {
	p := &press{ctx: ctx, document: d, setting: s, emit: emit}
	if s.Cover {
		if err := p.cover(); err != nil {
			return err
		}
		if err := p.finish(); err != nil {
			return err
		}
	}
	for _, x := range d.Sheets {
		p.shown = x
		if err := p.sheet(x); err != nil {
			return err
		}
	}
	if err := p.meanings(); err != nil {
		return err
	}
	if err := p.proof(); err != nil {
		return err
	}
	return p.finish()
}

// turn ends the page and begins the next, upright or across.
func (p *press) turn(landscape bool) error {
	if err := p.finish(); err != nil {
		return err
	}
	p.frame = p.setting.area(landscape)
	p.begin()
	return nil
}

// begin begins a page with its running head and foot.
func (p *press) begin() {
	p.number++
	f := p.frame
	p.page = &Page{Width: f.width, Height: f.height, Items: make([]Item, 0, 512)}
	if p.shown != nil {
		p.page.text(f.left, f.top-10, smallSize, true, Faint, cut(p.document.Title, f.across()*0.6, smallSize, true))
		p.page.textTo(f.right, f.top-10, smallSize, false, Faint, cut(p.shown.View.Title, f.across()*0.35, smallSize, false))
		p.page.line(f.left, f.top-6, f.across(), 0, 0.4, Hair)
	}
	foot := p.document.Number
	if len(p.document.Seal) > 12 {
		foot += "  ·  seal " + p.document.Seal[:12]
		if p.document.SealSays() != p.document.Seal {
			foot += " of the whole, this is an extract"
		}
	}
	if p.document.Organisation != "" {
		foot = p.document.Organisation + "  ·  " + foot
	}
	p.page.text(f.left, f.bottom+14, smallSize, false, Faint, cut(foot, f.across()*0.75, smallSize, false))
	of := "Page " + strconv.Itoa(p.number) + " of "
	p.page.text(f.right-Width(of+"0000", smallSize, false), f.bottom+14, smallSize, false, Faint, of+Pages)
	p.y = f.top
}

func (p *press) finish() error {
	if p.page == nil {
		return nil
	}
	if err := p.ctx.Err(); err != nil {
		return context.Cause(p.ctx)
	}
	if p.number > MostPages {
		return ErrTooManyPages
	}
	page := p.page
	p.page = nil
	return p.emit(page)
}

// room is what is left on the page.
func (p *press) room() float64 {
	if p.page == nil {
		return 0
	}
	return p.frame.bottom - p.y
}

// sheet prints one view.
func (p *press) sheet(x *sheet.Sheet) error {
	switch {
	case x.Chart != nil:
		return p.chart(x)
	case x.View.Show == report.Form:
		return p.forms(x)
	case x.View.Show == report.Timeline:
		return p.timeline(x)
	}
	return p.table(x)
}

// section makes room for a view and writes its heading; least is the height
// that has to fit below it.
func (p *press) section(x *sheet.Sheet, landscape bool, least float64) error {
	across := p.setting.area(landscape).across()
	says := []string{}
	if x.View.Says != "" {
		says = wrap(x.View.Says, across, textSize, false, whole)
	}
	height := 26 + float64(len(says))*12
	first := p.page == nil && p.number == 0
	if p.page == nil || p.frame != p.setting.area(landscape) || p.room() < height+least {
		if err := p.turn(landscape); err != nil {
			return err
		}
	}
	if first {
		if err := p.title(); err != nil {
			return err
		}
		if p.room() < height+min(least, p.frame.bottom-p.frame.top-height) {
			if err := p.turn(landscape); err != nil {
				return err
			}
		}
	}
	p.y += 14
	p.page.Marks = append(p.page.Marks, Bookmark{0, x.View.Title, p.y - 14})
	p.page.read(Tag{Role: Heading})
	p.page.text(p.frame.left, p.y, headingSize, true, Plum, cut(x.View.Title, across, headingSize, true))
	if err := p.lines(says, p.frame.left, textSize, 12, false, Ink); err != nil {
		return err
	}
	p.y += 8
	p.page.decor()
	return nil
}

// title stands on the first page where there is no cover. What was done to the figures is
// never cut, however long it is.
func (p *press) title() error {
	across, left := p.frame.across(), p.frame.left
	p.page.read(Tag{Role: Title})
	for _, line := range wrap(p.document.Title, across, titleSize, true, 2) {
		p.y += 19
		p.page.text(left, p.y, titleSize, true, Ink, line)
	}
	p.y += 4
	say := func(text string, c Color) error {
		return p.lines(wrap(text, across, textSize, false, whole), left, textSize, 12.5, false, c)
	}
	if err := say(p.document.Says(), Ink); err != nil {
		return err
	}
	if err := say(p.byline(), Faint); err != nil {
		return err
	}
	for _, n := range p.document.Notes {
		if err := say(n, Amber); err != nil {
			return err
		}
	}
	p.y += 4
	p.page.decor()
	return nil
}

// lines prints the lines of a paragraph, each so far below the one before, on the next pages
// where one has no more room.
func (p *press) lines(lines []string, x, size, leading float64, bold bool, c Color) error {
	if len(lines) == 0 || lines[0] == "" {
		return nil
	}
	p.page.read(Tag{Role: Paragraph})
	for _, line := range lines {
		if p.room() < leading {
			if err := p.turn(p.frame.width > p.frame.height); err != nil {
				return err
			}
			p.page.read(Tag{Role: Paragraph})
		}
		p.y += leading
		p.page.text(x, p.y, size, bold, c, line)
	}
	return nil
}

func (p *press) byline() string {
	d := p.document
	return fmt.Sprintf("Run by %s on %s  ·  %s", d.AskedBy, d.RanAt.Format("2 January 2006 at 15:04 MST"), d.Number)
}

// cover writes the first page, and more where what is to be told does not fit.
func (p *press) cover() error {
	d := p.document
	p.frame = p.setting.area(p.setting.Orientation == "landscape")
	p.begin()
	f, across := p.frame, p.frame.across()
	p.y = f.top + (f.bottom-f.top)*0.14
	p.lace(f.left, p.y-34, 74)
	p.page.read(Tag{Role: Paragraph})
	p.page.text(f.left, p.y-8, textSize, true, Faint, d.Organisation)
	p.page.read(Tag{Role: Title})
	for _, line := range wrap(d.Title, across, 26, true, 3) {
		p.y += 31
		p.page.text(f.left, p.y, 26, true, Plum, line)
	}
	p.y += 8
	p.page.Marks = append(p.page.Marks, Bookmark{0, "Cover", f.top})
	if err := p.lines(wrap(d.About, across*0.8, 10.5, false, whole), f.left, 10.5, 15, false, Ink); err != nil {
		return err
	}
	p.y += 12
	if err := p.lines(wrap(d.Says(), across*0.8, 10.5, true, whole), f.left, 10.5, 15, true, Ink); err != nil {
		return err
	}
	p.y += 26
	pairs := [][2]string{}
	for _, v := range d.Values {
		if v.Says != "" {
			pairs = append(pairs, [2]string{v.Label, v.Says})
		}
	}
	for _, n := range d.Notes {
		pairs = append(pairs, [2]string{"Note", n})
	}
	pairs = append(pairs, [2]string{"Run", "by " + d.AskedBy + " on " + d.RanAt.Format("2 January 2006 at 15:04 MST")},
		[2]string{"Result", d.Number})
	if d.Seal != "" {
		pairs = append(pairs, [2]string{"Seal", d.SealSays()})
	}
	for i, title := range d.Views() {
		name := "Views"
		if i > 0 {
			name = ""
		}
		pairs = append(pairs, [2]string{name, title})
	}
	for _, pair := range pairs {
		if err := p.pair(pair[0], pair[1], 130); err != nil {
			return err
		}
	}
	p.page.decor()
	return nil
}

// pair prints a name and beside it, so far from the left, what it is.
func (p *press) pair(name, says string, from float64) error {
	lines := wrap(says, p.frame.across()-from, textSize, false, whole)
	for at, line := range lines {
		if p.room() < 12.5 {
			if err := p.turn(p.frame.width > p.frame.height); err != nil {
				return err
			}
			if at > 0 {
				name, at = name+" (goes on)", 0
			}
		}
		if at == 0 {
			p.page.newRow()
			p.page.readCell(RowHead)
			p.page.text(p.frame.left, p.y+12.5, textSize, false, Faint, cut(name, from-10, textSize, false))
			p.page.readCell(Cell)
		}
		p.y += 12.5
		p.page.text(p.frame.left+from, p.y, textSize, false, Ink, line)
	}
	p.y += 3
	return nil
}

// lace draws the mark's edge: a row of small arches.
func (p *press) lace(x, y, width float64) {
	const r = 4.0
	for at := x; at+2*r <= x+width; at += 2 * r {
		k := r * 0.5523 // of a quarter circle (Riškus, Approximation of a cubic Bézier curve, 2006)
		p.page.Items = append(p.page.Items, Item{Kind: Path, Color: Plum, Fill: None, Pen: 0.9, Steps: []Step{
			{Op: 'm', X: at, Y: y}, {Op: 'c', X1: at, Y1: y + k, X2: at + r - k, Y2: y + r, X: at + r, Y: y + r},
			{Op: 'c', X1: at + r + k, Y1: y + r, X2: at + 2*r, Y2: y + k, X: at + 2*r, Y: y}}})
	}
}
