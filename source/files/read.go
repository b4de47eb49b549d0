package files

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/nearest"
	"mantilla/grid"
	"mantilla/source"
)

// line is a line of a file as its table takes it: cells, or what does not fit.
type line struct {
	place  grid.Place
	cells  []cell
	faults []Fault
}

// cell is a value as SQLite holds it; one of kind none is null.
type cell struct {
	kind  kind
	whole int64
	real  float64
	text  string
}

type kind uint8

const (
	none kind = iota
	whole
	real
	text
)

func (c *cell) bind(to *sqlite3.Stmt, at int) error {
	switch c.kind {
	case whole:
		return to.BindInt64(at, c.whole)
	case real:
		return to.BindFloat(at, c.real)
	case text:
		return to.BindText(at, c.text)
	}
	return to.BindNull(at)
}

// reader makes lines of the rows of a file, and hands them on in batches.
type reader struct {
	ctx  context.Context
	of   source.FileTable
	file *grid.File
	to   chan<- []line

	at    []int // where the columns stand in a row of the file
	batch []line
	cells []cell // of the lines of the batch that are still to come
}

// batchLines is how many lines are handed on at once.
const batchLines = 512

// mostBefore is how many rows may stand before the headings.
const mostBefore = 40

func (r *reader) read() error {
	sheets := r.file.Sheets
	if r.of.Sheet != "" && r.file.Workbook() {
		if !slices.Contains(sheets, r.of.Sheet) {
			return fmt.Errorf("it has no sheet %q; it has %s", r.of.Sheet, nearest.And(sheets))
		}
		sheets = []string{r.of.Sheet}
	}
	for _, sheet := range sheets {
		if err := r.sheet(sheet); err != nil {
			return err
		}
		if r.at != nil {
			return r.flush()
		}
	}
	return fmt.Errorf("no row has the headings %s", nearest.And(r.heads()))
}

func (r *reader) heads() (heads []string) {
	for _, c := range r.of.Columns {
		heads = append(heads, c.Head())
	}
	return heads
}

// sheet reads the rows below the headings, where there are such.
func (r *reader) sheet(sheet string) error {
	before := 0
	return r.file.Each(sheet, func(place grid.Place, row []string) error {
		if r.at != nil {
			return r.line(place, row)
		}
		if before++; before > mostBefore {
			return grid.ErrEnough
		}
		r.at = r.headings(row)
		return nil
	})
}

// headings finds the columns in a row; nil where it has not all of them.
func (r *reader) headings(row []string) (at []int) {
	for _, c := range r.of.Columns {
		i := slices.IndexFunc(row, func(cell string) bool { return strings.EqualFold(strings.TrimSpace(cell), c.Head()) })
		if i < 0 {
			return nil
		}
		at = append(at, i)
	}
	return at
}

func (r *reader) line(place grid.Place, row []string) error {
	if r.batch == nil {
		r.batch = make([]line, 0, batchLines)
		r.cells = make([]cell, batchLines*len(r.of.Columns))
	}
	l := line{place: place, cells: r.cells[:len(r.of.Columns):len(r.of.Columns)]}
	r.cells = r.cells[len(r.of.Columns):]
	for i, c := range r.of.Columns {
		written := ""
		if r.at[i] < len(row) {
			written = strings.TrimSpace(row[r.at[i]])
		}
		var err error
		if l.cells[i], err = r.cell(c, written); err != nil {
			l.faults = append(l.faults, Fault{Place: place.String(), Column: c.Head(), Says: err.Error()})
		}
	}
	if r.batch = append(r.batch, l); len(r.batch) == batchLines {
		return r.flush()
	}
	return nil
}

func (r *reader) flush() error {
	select {
	case r.to <- r.batch:
		r.batch = nil
		return nil
	case <-r.ctx.Done():
		return context.Cause(r.ctx)
	}
}

// mostDigits is how many digits a number has that is held as it is written; a number of more is
// too large.
const (
	mostDigits = 15
	tooLarge   = 1_000_000_000_000_000
)

// cell makes a value of what is written.
func (r *reader) cell(c source.FileColumn, written string) (cell, error) {
	if written == "" {
		if c.Required || c.Key {
			return cell{}, errors.New("it has no value")
		}
		return cell{}, nil
	}
	switch c.Type {
	case "text":
		return cell{kind: text, text: written}, nil
	case "date":
		day, err := r.file.Day(written)
		return cell{kind: text, text: day.String()}, err
	case "timestamp":
		moment, err := r.file.Moment(written)
		return cell{kind: text, text: moment.Format(time.RFC3339Nano)}, err
	case "flag":
		is, err := r.file.Flag(written)
		if is {
			return cell{kind: whole, whole: 1}, err
		}
		return cell{kind: whole}, err
	}
	digits, err := r.file.Number(written, c.Scale)
	switch {
	case err != nil:
		return cell{}, err
	case c.Type == "integer":
		return cell{kind: whole, whole: digits}, nil
	case digits >= tooLarge || digits <= -tooLarge:
		return cell{}, fmt.Errorf("%q has more than %d digits", written, mostDigits)
	}
	// Up to 15 digits the nearest binary fraction reads back as what was written.
	return cell{kind: real, real: float64(digits) / math.Pow10(int(c.Scale))}, nil
}
