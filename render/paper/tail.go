package paper

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"strconv"
)

// follow writes a file through and its structure after it.
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
	t, err := readTail(file)
	if err == nil {
		err = f.structure.write(t)
	}
	if err == nil {
		err = t.end()
	}
	if err == nil {
		_, err = t.out.WriteTo(f.to)
	}
	return n, err
}

// tail is what is added to a PDF: objects in compressed streams (ISO 32000-1,
// 7.5.7), and a cross-reference stream (7.5.8) for them and those before, which
// takes the place of the file's own table.
type tail struct {
	file    []byte
	out     bytes.Buffer
	entries []entry // by the number of the object
	catalog int

	held          []int        // objects of the stream under way
	packer        *zlib.Writer // used again for each stream
	heads, bodies bytes.Buffer // of the stream under way
}

// entry tells where an object is: at an offset, or at a place of a stream.
type entry struct {
	kind  byte // 0 none, 1 at, 2 in the stream at
	at    uint64
	place uint16
}

// inStream is how many objects a stream holds.
const inStream = 2000

// readTail reads where the objects of a file are.
func readTail(file []byte) (*tail, error) {
	t := &tail{file: file}
	t.packer, _ = zlib.NewWriterLevel(io.Discard, zlib.BestSpeed) // a level that there is
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
	const wide = 20 // bytes of an entry
	from := table + len(fmt.Sprintf("xref\n0 %d\n", size))
	if from+size*wide > len(file) {
		return nil, errors.New("the cross-reference table is cut off")
	}
	t.entries, t.catalog = make([]entry, size), size-1
	for n := 1; n < size; n++ {
		at := 0
		for _, digit := range file[from+n*wide : from+n*wide+10] {
			at = at*10 + int(digit-'0')
		}
		t.entries[n] = entry{kind: 1, at: uint64(at)}
	}
	return t, nil
}

func (t *tail) number() int { return t.numbers(1) }

// numbers returns the first of so many new numbers of objects.
func (t *tail) numbers(n int) int {
	t.entries = append(t.entries, make([]entry, n)...)
	return len(t.entries) - n
}

// add adds an object, in the place of one of the same number.
func (t *tail) add(n int, text []byte) {
	head := strconv.AppendInt(t.heads.AvailableBuffer(), int64(n), 10)
	head = strconv.AppendInt(append(head, ' '), int64(t.bodies.Len()), 10)
	t.heads.Write(append(head, ' '))
	t.bodies.Write(text)
	t.bodies.WriteByte('\n')
	if t.held = append(t.held, n); len(t.held) == inStream {
		t.flush()
	}
}

// again adds an object of the file anew, with more in it.
func (t *tail) again(n int, more string) error {
	return t.change(n, func(body string) string { return body + "\n" + more })
}

// change adds a dictionary of the file anew, as it is changed.
func (t *tail) change(n int, to func(body string) string) error {
	head := fmt.Sprintf("%d 0 obj\n", n)
	at := int(t.entries[n].at)
	if t.entries[n].kind != 1 || at >= len(t.file) || !bytes.HasPrefix(t.file[at:], []byte(head)) {
		return fmt.Errorf("object %d is not where the cross-reference table says", n)
	}
	body, _, ok := bytes.Cut(t.file[at+len(head):], []byte(">>\nendobj"))
	if !ok {
		return fmt.Errorf("object %d has no end", n)
	}
	t.add(n, []byte(to(string(body))+">>"))
	return nil
}

// flush ends the stream under way.
func (t *tail) flush() {
	if len(t.held) == 0 {
		return
	}
	stream := t.number()
	for place, n := range t.held {
		t.entries[n] = entry{kind: 2, at: uint64(stream), place: uint16(place)}
	}
	says := fmt.Sprintf("/Type/ObjStm/N %d/First %d", len(t.held), t.heads.Len())
	t.stream(stream, says, append(t.heads.Bytes(), t.bodies.Bytes()...))
	t.held = t.held[:0]
	t.heads.Reset()
	t.bodies.Reset()
}

// stream writes a compressed stream as an object.
func (t *tail) stream(n int, says string, data []byte) {
	t.entries[n] = entry{kind: 1, at: uint64(len(t.file) + t.out.Len())}
	var packed bytes.Buffer
	t.packer.Reset(&packed)
	_, _ = t.packer.Write(data) // a buffer does not fail
	_ = t.packer.Close()
	fmt.Fprintf(&t.out, "%d 0 obj\n<<%s/Filter/FlateDecode/Length %d>>stream\n", n, says, packed.Len())
	t.out.Write(packed.Bytes())
	t.out.WriteString("\nendstream\nendobj\n")
}

// end writes the cross-reference stream.
func (t *tail) end() error {
	t.flush()
	n := t.number()
	at := len(t.file) + t.out.Len()
	t.entries[n] = entry{kind: 1, at: uint64(at)}
	const wide = 1 + 5 + 2 // bytes of kind, offset or stream, and place
	table := make([]byte, 0, wide*len(t.entries))
	for i, e := range t.entries {
		if i > 0 && e.kind == 0 {
			return fmt.Errorf("object %d was promised and not written", i)
		}
		if i == 0 {
			e.place = 65535 // the first of the free ones, by convention
		}
		offset := binary.BigEndian.AppendUint64(nil, e.at)
		table = append(append(table, e.kind), offset[3:]...)
		table = binary.BigEndian.AppendUint16(table, e.place)
	}
	t.stream(n, fmt.Sprintf("/Type/XRef/Size %d/W[1 5 2]/Root %d 0 R/Info %d 0 R", len(t.entries), t.catalog, t.catalog-1),
		table)
	fmt.Fprintf(&t.out, "startxref\n%d\n%%%%EOF\n", at)
	return nil
}
