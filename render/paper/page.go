// Package paper lays sheets out on pages: tables with heads that are repeated,
// charts, timelines, and forms to be filled in by hand. A page is a list of
// things drawn, so that the file and its preview are drawn from the same
// layout. Lengths are in points of 1/72 inch, from the upper left corner.
package paper

// Color is red, green and blue, a byte each. None draws nothing.
type Color int32

// The colours of a page.
const (
	None  Color = -1
	Ink   Color = 0x2a2523
	Faint Color = 0x6b615a
	Hair  Color = 0xcfc6b9
	Band  Color = 0xf3eee5
	Plum  Color = 0x6d2a5b
	Sea   Color = 0x166a65
	Amber Color = 0x855705
	Brick Color = 0x9c3321
	White Color = 0xffffff
)

// Page is one page as it is drawn.
type Page struct {
	Width, Height float64
	Items         []Item
	Marks         []Bookmark
	Tags          []Tag

	now int // number of the tag under way, from 1; 0 for none
	row int
}

// Bookmark is an entry of the document's outline, at a height of its page.
type Bookmark struct {
	Level int
	Title string
	Y     float64
}

// Kind tells what an item draws.
type Kind uint8

// The kinds of items.
const (
	Text Kind = iota // at X, the baseline at Y
	Box              // filled with Color
	Line             // from X, Y over W, H
	Path             // filled with Fill, its edge drawn with Color
	Link             // leads from a box to Text
)

// Item is one thing drawn.
type Item struct {
	Kind       Kind
	X, Y, W, H float64
	Text       string
	Size       float64 // of text
	Bold       bool
	Angle      float64 // of text, degrees against the clock
	Color      Color
	Fill       Color   // of a path
	Pen        float64 // width of lines
	Dash       []float64
	Steps      []Step // of a path
	Tag        int    // number of the tag that it belongs to, from 1; 0 for none
}

// Step is one step of a path: to X, Y; curved steps have two control points.
type Step struct {
	Op                   byte // m move, l line, c curve, z close
	X, Y, X1, Y1, X2, Y2 float64
}

// text adds a text that begins at x.
func (p *Page) text(x, y, size float64, bold bool, c Color, text string) {
	if text != "" {
		p.Items = append(p.Items, Item{Kind: Text, X: x, Y: y, Size: size, Bold: bold, Color: c, Text: text, Tag: p.now})
	}
}

// textTo adds a text that ends at x.
func (p *Page) textTo(x, y, size float64, bold bool, c Color, text string) {
	p.text(x-Width(text, size, bold), y, size, bold, c, text)
}

func (p *Page) box(x, y, w, h float64, c Color) {
	p.Items = append(p.Items, Item{Kind: Box, X: x, Y: y, W: w, H: h, Color: c, Tag: p.now})
}

func (p *Page) line(x, y, w, h, pen float64, c Color) {
	p.Items = append(p.Items, Item{Kind: Line, X: x, Y: y, W: w, H: h, Pen: pen, Color: c, Tag: p.now})
}

func (p *Page) link(x, y, w, h float64, address string) {
	p.Items = append(p.Items, Item{Kind: Link, X: x, Y: y, W: w, H: h, Text: address})
}
