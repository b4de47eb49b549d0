package paper

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strconv"
	"unicode/utf16"
)

// mostElements bounds the structure of a document; each takes about 100 bytes of
// the file. On the pages after, all that is read is one paragraph of each page.
const mostElements = 400_000

// element is one element of the structure tree. Elements are numbered from 0, the
// document itself.
type element struct {
	kind   string
	parent int
	page   int   // that holds its content
	marks  []int // of its content, within the page
	kids   []int
	alt    string
	over   int
}

// structure is the tree by which a tagged PDF is read aloud (ISO 32000-1, 14.7).
// The library that writes pages knows none, so that the tree follows the file as an
// incremental update (7.5.6): further objects, and the pages and the catalog anew.
type structure struct {
	elements []element
	pages    [][]int // by page and mark, the element
	section  int     // that is under way
}

func newStructure() *structure {
	return &structure{elements: []element{{kind: "Document", parent: -1}}}
}

func (s *structure) add(parent int, e element) int {
	e.parent = parent
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
	if len(s.elements)+2*len(tags) > mostElements {
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
	case HeadCell, Cell:
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
	r.elements[n].marks = append(r.elements[n].marks, mark)
	return "/" + r.elements[n].kind + " <</MCID " + strconv.Itoa(mark) + ">> BDC"
}

// follow writes a file through and the structure after it.
type follow struct {
	to        io.Writer
	structure *structure
	written   bool
}

var errPieces = errors.New("the file came in pieces")

// Write takes a whole file at once, as it is handed over from memory.
func (f *follow) Write(file []byte) (int, error) {
	if f.written {
		return 0, errPieces
	}
	f.written = true
	n, err := f.to.Write(file)
	if err != nil {
		return n, err
	}
	u, err := f.structure.update(file)
	if err == nil {
		_, err = u.WriteTo(f.to)
	}
	return n, err
}

// update is the incremental update that adds the structure to a file.
type update struct {
	bytes.Buffer
	file    []byte
	offsets map[int]int
	first   int // of the new objects
	next    int
}

func (s *structure) update(file []byte) (*update, error) {
	end := bytes.LastIndex(file, []byte("startxref\n"))
	if end < 0 {
		return nil, errors.New("the file has no cross-reference table")
	}
	var table, size int
	if _, err := fmt.Sscanf(string(file[end:]), "startxref\n%d", &table); err != nil {
		return nil, fmt.Errorf("reading where the cross-reference table is: %w", err)
	}
	if _, err := fmt.Sscanf(string(file[table:min(table+30, len(file))]), "xref\n0 %d\n", &size); err != nil {
		return nil, fmt.Errorf("reading the cross-reference table: %w", err)
	}
	entries := file[table+len(fmt.Sprintf("xref\n0 %d\n", size)):]
	u := &update{file: file, offsets: map[int]int{}, first: size, next: size}
	object := func(n int) ([]byte, error) { return objectAt(file, entries, n) }

	root := u.number()
	base := u.next // of the elements
	u.next += len(s.elements)
	parents := u.next
	u.next += len(s.pages)
	u.object(root, fmt.Sprintf("<</Type /StructTreeRoot /K [%d 0 R] /ParentTree %d 0 R /ParentTreeNextKey %d>>", base, u.next, len(s.pages)))
	for i := range s.elements {
		u.object(base+i, s.elements[i].says(base, root))
	}
	for i, marks := range s.pages {
		u.object(parents+i, references(marks, base))
	}
	u.begin(u.number())
	u.WriteString("<</Nums [")
	for i := range s.pages {
		fmt.Fprintf(u, "%d %d 0 R ", i, parents+i)
	}
	u.WriteString("]>>\nendobj\n")

	for i := range s.pages {
		if err := u.again(object, pageObject(i), fmt.Sprintf("/StructParents %d /Tabs /S", i)); err != nil {
			return nil, err
		}
	}
	catalog := size - 1
	if err := u.again(object, catalog, fmt.Sprintf("/Version /1.7 /MarkInfo <</Marked true>> /ViewerPreferences <</DisplayDocTitle true>> /StructTreeRoot %d 0 R", root)); err != nil {
		return nil, err
	}
	u.references(table, catalog)
	return u, nil
}

// pageObject is the number of a page's object in what the library writes: from 3
// on, each followed by its content.
func pageObject(page int) int { return 3 + 2*page }

// says is an element as an object.
func (e *element) says(base, root int) string {
	parent := root
	if e.parent >= 0 {
		parent = base + e.parent
	}
	out := fmt.Sprintf("<</Type /StructElem /S /%s /P %d 0 R", e.kind, parent)
	if len(e.marks) > 0 {
		out += fmt.Sprintf(" /Pg %d 0 R /K [", pageObject(e.page))
		for _, m := range e.marks {
			out += strconv.Itoa(m) + " "
		}
		out += "]"
	} else if len(e.kids) > 0 {
		out += " /K " + references(e.kids, base)
	}
	if e.kind == "TH" {
		over := ""
		if e.over > 1 {
			over = fmt.Sprintf(" /ColSpan %d", e.over)
		}
		out += " /A <</O /Table /Scope /Column" + over + ">>"
	}
	if e.alt != "" {
		out += " /Alt " + textString(e.alt)
	}
	return out + ">>"
}

func references(elements []int, base int) string {
	b := make([]byte, 0, 10*len(elements)+2)
	b = append(b, '[')
	for _, n := range elements {
		b = strconv.AppendInt(b, int64(base+n), 10)
		b = append(b, " 0 R "...)
	}
	return string(append(b, ']'))
}

// textString writes a text in UTF-16 (ISO 32000-1, 7.9.2.2), in hexadecimal.
func textString(text string) string {
	out := "<FEFF"
	for _, unit := range utf16.Encode([]rune(text)) {
		out += fmt.Sprintf("%04X", unit)
	}
	return out + ">"
}

// objectAt is the text of an object between its number and its end.
func objectAt(file, entries []byte, n int) ([]byte, error) {
	const entry = 20 // bytes of an entry of the table
	from := 0
	if len(entries) < (n+1)*entry {
		return nil, fmt.Errorf("object %d is not in the cross-reference table", n)
	}
	if _, err := fmt.Sscanf(string(entries[n*entry:(n+1)*entry]), "%d", &from); err != nil {
		return nil, fmt.Errorf("reading where object %d is: %w", n, err)
	}
	head := fmt.Sprintf("%d 0 obj\n", n)
	if from >= len(file) || !bytes.HasPrefix(file[from:], []byte(head)) {
		return nil, fmt.Errorf("object %d is not where the cross-reference table says", n)
	}
	body := file[from+len(head):]
	to := bytes.Index(body, []byte(">>\nendobj"))
	if to < 0 {
		return nil, fmt.Errorf("object %d has no end", n)
	}
	return body[:to], nil
}

func (u *update) number() int {
	u.next++
	return u.next - 1
}

func (u *update) begin(n int) {
	u.offsets[n] = len(u.file) + u.Len()
	fmt.Fprintf(u, "%d 0 obj\n", n)
}

func (u *update) object(n int, text string) {
	u.begin(n)
	u.WriteString(text)
	u.WriteString("\nendobj\n")
}

// again writes an object of the file anew, with more in it.
func (u *update) again(object func(int) ([]byte, error), n int, more string) error {
	text, err := object(n)
	if err != nil {
		return err
	}
	u.object(n, string(text)+"\n"+more+">>")
	return nil
}

// references ends the update with its cross-reference table, which leads to the
// one before.
func (u *update) references(before, catalog int) {
	table := len(u.file) + u.Len()
	u.WriteString("xref\n")
	for n := range catalog + 1 {
		if at, ok := u.offsets[n]; ok {
			fmt.Fprintf(u, "%d 1\n%010d 00000 n \n", n, at)
		}
	}
	fmt.Fprintf(u, "%d %d\n", u.first, u.next-u.first)
	for n := u.first; n < u.next; n++ {
		fmt.Fprintf(u, "%010d 00000 n \n", u.offsets[n])
	}
	fmt.Fprintf(u, "trailer\n<</Size %d /Root %d 0 R /Info %d 0 R /Prev %d>>\nstartxref\n%d\n%%%%EOF\n", u.next, catalog, catalog-1, before, table)
}
