package grid

import (
	"bytes"
	"errors"
	"fmt"

	"mantilla/core/rescue"
)

// Column is a column of a file that says itself what it holds.
type Column struct {
	Heading string
	Type    string // text, integer, decimal, date, timestamp or flag; "" where that is to be seen from the cells
	Scale   int32  // places of a decimal
}

// columnar is a file whose columns are named: its cells are handed on as they are written in
// ISO 8601, with a decimal point.
type columnar interface {
	columns() []Column
	// each hands on the rows, with where each stands. The cells are not to be kept.
	each(visit func(place Place, row []string) error) error
}

// openers are the kinds of columnar files by how their first bytes tell them. Those that are
// packed say how large their parts are, so that a wrong byte can mean any amount of memory.
var openers = []struct {
	kind   string
	packed bool
	is     func(data []byte) bool
	open   func(data []byte) (columnar, error)
}{
	{"Parquet file", true, func(data []byte) bool { return bytes.HasPrefix(data, []byte("PAR1")) }, openParquet},
	{"Arrow file", true, func(data []byte) bool { return bytes.HasPrefix(data, []byte("ARROW1\x00\x00")) }, openArrow},
	{"file of JSON lines", false, func(data []byte) bool {
		return bytes.HasPrefix(bytes.TrimLeft(bytes.TrimPrefix(data, bom), " \t\r\n"), []byte("{"))
	}, openLines},
}

// IsColumnar tells whether a file names its columns itself: Parquet, Arrow, or lines of JSON.
func IsColumnar(data []byte) bool {
	for _, o := range openers {
		if o.is(data) {
			return true
		}
	}
	return false
}

// openColumnar opens a file that names its columns; nil where it is none.
func openColumnar(data []byte) (columnar, error) {
	for _, o := range openers {
		if !o.is(data) {
			continue
		}
		open := o.open
		if o.packed && len(Apart) > 0 {
			open = openApart
		}
		c, err := opened(open, data)
		if err != nil {
			return nil, fmt.Errorf("it is no %s that can be read: %w", o.kind, err)
		}
		return c, nil
	}
	return nil, nil
}

// openHere opens a file that is not read line by line, in this process.
func openHere(data []byte) (columnar, error) {
	for _, o := range openers {
		if o.packed && o.is(data) {
			return opened(o.open, data)
		}
	}
	return nil, errors.New("it is neither a Parquet nor an Arrow file")
}

func opened(open func(data []byte) (columnar, error), data []byte) (c columnar, err error) {
	err = soundly(func() (err error) { c, err = open(data); return err })
	return c, err
}

// eachOfColumns hands on the headings and the rows.
func (f *File) eachOfColumns(visit func(place Place, row []string) error) error {
	var heads []string
	for _, c := range f.named.columns() {
		heads = append(heads, c.Heading)
	}
	if err := visit(Place{}, heads); err != nil {
		return err
	}
	return soundly(func() error { return f.named.each(visit) })
}

// Columns are those of a file that says itself what it holds; none of others.
func (f *File) Columns() []Column {
	if f.named == nil {
		return nil
	}
	return f.named.columns()
}

// errDamaged says that a file is not as its kind wants it.
var errDamaged = errors.New("it is damaged")

// soundly reads, where a reader may stumble over a file that is damaged.
func soundly(read func() error) error {
	err := rescue.Call(read)
	if _, stumbled := errors.AsType[*rescue.Panic](err); stumbled {
		return errDamaged
	}
	return err
}
