package paper

// Role is what a thing on a page is to somebody who has it read aloud, after the
// standard structure types of ISO 32000-1, 14.8.4.
type Role uint8

// The roles. Decor is read to nobody: rules, grounds, running heads and feet.
const (
	Decor Role = iota
	Title
	Heading
	Paragraph
	HeadCell // over a column
	RowHead  // before a row
	Cell
	Figure
)

var structureTypes = [...]string{
	Title:     "H1",
	Heading:   "H2",
	Paragraph: "P",
	HeadCell:  "TH",
	RowHead:   "TH",
	Cell:      "TD",
	Figure:    "Figure",
}

// Tag is one thing that is read as a whole; items of a page name it.
type Tag struct {
	Role Role
	Row  int    // of a cell: those of one row of a page are read as one line
	Over int    // how many columns a cell of headings stands over, 0 for one
	Alt  string // says what a figure shows
}

// read makes what is drawn from now on part of a new tag, until [Page.decor].
func (p *Page) read(t Tag) {
	p.Tags = append(p.Tags, t)
	p.now = len(p.Tags)
}

// decor makes what is drawn from now on part of nothing that is read.
func (p *Page) decor() { p.now = 0 }

// newRow begins a row of a table; its cells follow.
func (p *Page) newRow() { p.row++ }

func (p *Page) readCell(role Role) { p.read(Tag{Role: role, Row: p.row}) }
