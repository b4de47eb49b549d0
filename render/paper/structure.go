package paper

import (
	"fmt"
	"regexp"
	"strconv"
	"unicode/utf16"
)

// mostElements bounds the structure of a document, which is held in memory. On the
// pages after, all that is read is one paragraph of each page.
const mostElements = 400_000

// element is one element of the structure tree. Elements are numbered from 0, the
// document itself.
type element struct {
	kind   string
	parent int
	page   int   // that holds its content
	mark   int   // of its content, within the page; -1 for none
	more   []int // of further content
	kids   []int
	alt    string
	scope  string // of a heading of a table
	over   int
}

// structure is the tree by which a tagged PDF is read aloud (ISO 32000-1, 14.7).
// The library that writes pages knows none, so that the tree follows the file: further
// objects, and the pages and the catalog anew.
type structure struct {
	elements []element
	pages    [][]int // by page and mark, the element
	section  int     // that is under way
	most     int     // elements, beyond which a page is one paragraph
	offset   string  // of the file's dates from UTC, such as +02'00
}

func newStructure() *structure {
	return &structure{most: mostElements, elements: []element{{kind: "Document", parent: -1, mark: -1}}}
}

func (s *structure) add(parent int, e element) int {
	e.parent, e.mark = parent, -1
	s.elements = append(s.elements, e)
	n := len(s.elements) - 1
	s.elements[parent].kids = append(s.elements[parent].kids, n)
	return n
}

// reading is a page on its way into the structure.
type reading struct {
	*structure
	page  int
	tags  []Tag
	of    []int // by tag, its element or -1
	table int   // that is under way, or -1
	row   int
	line  int // element of the row under way
}

// begin takes up the tags of the next page.
func (s *structure) begin(tags []Tag) *reading {
	r := &reading{structure: s, page: len(s.pages), tags: tags, of: make([]int, len(tags)), table: -1}
	s.pages = append(s.pages, nil)
	if len(s.elements)+2*len(tags) > s.most {
		whole := s.add(s.section, element{kind: "P", page: r.page})
		for i := range r.of {
			r.of[i] = whole
		}
		return r
	}
	for i, t := range tags {
		r.of[i] = r.place(t)
	}
	return r
}

// place finds the place of a tag in the tree: a heading begins a section, and cells
// that follow one another are a table.
func (r *reading) place(t Tag) int {
	e := element{kind: structureTypes[t.Role], page: r.page, alt: t.Alt, over: t.Over}
	switch t.Role {
	case HeadCell, RowHead, Cell:
		switch t.Role {
		case HeadCell:
			e.scope = "Column"
		case RowHead:
			e.scope = "Row"
		}
		if r.table < 0 {
			r.table, r.row = r.add(r.section, element{kind: "Table"}), -1
		}
		if t.Row != r.row {
			r.row, r.line = t.Row, r.add(r.table, element{kind: "TR"})
		}
		return r.add(r.line, e)
	case Heading:
		r.section = r.add(0, element{kind: "Sect"})
	}
	r.table = -1
	return r.add(r.section, e)
}

// mark begins content of a tag and returns the operands that say so.
func (r *reading) mark(tag int) string {
	n := r.of[tag]
	mark := len(r.pages[r.page])
	r.pages[r.page] = append(r.pages[r.page], n)
	if e := &r.elements[n]; e.mark < 0 {
		e.mark = mark
	} else {
		e.more = append(e.more, mark)
	}
	return "/" + r.elements[n].kind + " <</MCID " + strconv.Itoa(mark) + ">> BDC"
}

// write adds the tree to a file.
func (s *structure) write(t *tail) error {
	root := t.number()
	base := t.numbers(len(s.elements))
	parents := t.numbers(len(s.pages))
	tree := t.number()
	t.add(root, fmt.Appendf(nil, "<</Type/StructTreeRoot/K[%d 0 R]/ParentTree %d 0 R/ParentTreeNextKey %d>>", base, tree,
		len(s.pages)))
	var text []byte
	for i := range s.elements {
		text = s.elements[i].says(text[:0], base, root)
		t.add(base+i, text)
	}
	nums := []byte("<</Nums[")
	for i, marks := range s.pages {
		t.add(parents+i, references(nil, marks, base))
		nums = fmt.Appendf(nums, "%d %d 0 R ", i, parents+i)
	}
	t.add(tree, append(nums, "]>>"...))
	for i := range s.pages {
		if err := t.again(pageObject(i), fmt.Sprintf("/StructParents %d/Tabs/S", i)); err != nil {
			return err
		}
	}
	if err := t.change(t.catalog-1, s.dated); err != nil {
		return err
	}
	return t.again(t.catalog, fmt.Sprintf("/Version/1.7/MarkInfo<</Marked true>>/ViewerPreferences<</DisplayDocTitle "+
		"true>>/StructTreeRoot %d 0 R", root))
}

// dated adds to dates how far they are from UTC, which the library leaves out
// (ISO 32000-1, 7.9.4).
func (s *structure) dated(info string) string {
	return dates.ReplaceAllString(info, "${1}"+s.offset+")")
}

var dates = regexp.MustCompile(`(\(D:\d{14})\)`)

// pageObject is the number of a page's object in what the library writes: from 3
// on, each followed by its content.
func pageObject(page int) int { return 3 + 2*page }

// says appends an element as an object.
func (e *element) says(out []byte, base, root int) []byte {
	parent := root
	if e.parent >= 0 {
		parent = base + e.parent
	}
	out = append(append(out, "<</S/"...), e.kind...)
	out = reference(append(out, "/P "...), parent)
	switch {
	case e.mark >= 0:
		out = append(reference(append(out, "/Pg "...), pageObject(e.page)), "/K["...)
		out = strconv.AppendInt(out, int64(e.mark), 10)
		for _, m := range e.more {
			out = strconv.AppendInt(append(out, ' '), int64(m), 10)
		}
		out = append(out, ']')
	case len(e.kids) > 0:
		out = references(append(out, "/K"...), e.kids, base)
	}
	if e.scope != "" {
		out = append(append(out, "/A<</O/Table/Scope/"...), e.scope...)
		if e.over > 1 {
			out = strconv.AppendInt(append(out, "/ColSpan "...), int64(e.over), 10)
		}
		out = append(out, ">>"...)
	}
	if e.alt != "" {
		out = append(append(out, "/Alt "...), textString(e.alt)...)
	}
	return append(out, ">>"...)
}

// reference appends a reference to an object.
func reference(out []byte, n int) []byte {
	return append(strconv.AppendInt(out, int64(n), 10), " 0 R"...)
}

// references appends a list of references to elements.
func references(out []byte, elements []int, base int) []byte {
	out = append(out, '[')
	for _, n := range elements {
		out = append(reference(out, base+n), ' ')
	}
	return append(out, ']')
}

// textString writes a text in UTF-16 (ISO 32000-1, 7.9.2.2), in hexadecimal.
func textString(text string) string {
	out := "<FEFF"
	for _, unit := range utf16.Encode([]rune(text)) {
		out += fmt.Sprintf("%04X", unit)
	}
	return out + ">"
}
