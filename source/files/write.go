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

// writer writes the lines of a file into its table.
type writer struct {
	ctx   context.Context
	db    *sqlite3.Conn
	table string
	of    source.FileTable

	file   *grid.File
	at     []int // where the columns stand in a row of the file
	insert *sqlite3.Stmt
	told   Told
}

// mostBefore is how many rows may stand before the headings.
const mostBefore = 40

// mostRows is how many lines a file may have.
const mostRows = 5_000_000

func (w *writer) write(data []byte) (err error) {
	if w.file, err = grid.Open(data, formOf(w.of)); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, w.file.Close()) }()
	marks := strings.Repeat(", ?", len(w.of.Columns))[2:]
	if w.insert, _, err = w.db.Prepare("insert into " + quoted(w.table) + " values (" + marks + ")"); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, w.insert.Close()) }()
	sheets := w.file.Sheets
	if w.of.Sheet != "" && w.file.Workbook() {
		if !slices.Contains(sheets, w.of.Sheet) {
			return fmt.Errorf("it has no sheet %q; it has %s", w.of.Sheet, nearest.And(sheets))
		}
		sheets = []string{w.of.Sheet}
	}
	for _, sheet := range sheets {
		if err := w.sheet(sheet); err != nil || w.at != nil {
			return err
		}
	}
	return fmt.Errorf("no row has the headings %s", nearest.And(w.heads()))
}

func (w *writer) heads() (heads []string) {
	for _, c := range w.of.Columns {
		heads = append(heads, c.Head())
	}
	return heads
}

// sheet writes the rows below the headings, where there are such.
func (w *writer) sheet(sheet string) error {
	before := 0
	return w.file.Each(sheet, func(place string, row []string) error {
		if w.at != nil {
			return w.line(place, row)
		}
		if before++; before > mostBefore {
			return grid.ErrEnough
		}
		w.at = w.headings(row)
		return nil
	})
}

// headings finds the columns in a row; nil where it has not all of them.
func (w *writer) headings(row []string) (at []int) {
	for _, c := range w.of.Columns {
		i := slices.IndexFunc(row, func(cell string) bool { return strings.EqualFold(strings.TrimSpace(cell), c.Head()) })
		if i < 0 {
			return nil
		}
		at = append(at, i)
	}
	return at
}

// line writes a line, or tells what does not fit.
func (w *writer) line(place string, row []string) error {
	if w.ctx.Err() != nil {
		return context.Cause(w.ctx)
	}
	if w.told.Rows == mostRows {
		return fmt.Errorf("it has more than %d lines", mostRows)
	}
	fits := true
	for i, c := range w.of.Columns {
		text := ""
		if w.at[i] < len(row) {
			text = strings.TrimSpace(row[w.at[i]])
		}
		if err := w.bind(i+1, c, text); err != nil {
			w.fault(place, c.Head(), err)
			fits = false
		}
	}
	if !fits {
		w.told.Left++
		return w.insert.Reset()
	}
	w.insert.Step()
	err := w.insert.Reset()
	if errors.Is(err, sqlite3.CONSTRAINT) {
		w.fault(place, nearest.And(w.keys()), errors.New("another line has the same"))
		w.told.Left++
		return nil
	}
	w.told.Rows++
	return err
}

func (w *writer) keys() (keys []string) {
	for _, c := range w.of.Columns {
		if c.Key {
			keys = append(keys, c.Head())
		}
	}
	return keys
}

func (w *writer) fault(place, column string, err error) {
	if len(w.told.Faults) == mostFaults {
		w.told.More++
		return
	}
	w.told.Faults = append(w.told.Faults, Fault{Place: place, Column: column, Says: err.Error()})
}

// mostDigits is how many digits a number has that is held as it is written; a number of more is
// too large.
const (
	mostDigits = 15
	tooLarge   = 1_000_000_000_000_000
)

func (w *writer) bind(at int, c source.FileColumn, text string) error {
	if text == "" {
		if c.Required || c.Key {
			return errors.New("it has no value")
		}
		return w.insert.BindNull(at)
	}
	switch c.Type {
	case "text":
		return w.insert.BindText(at, text)
	case "date":
		day, err := w.file.Day(text)
		if err != nil {
			return err
		}
		return w.insert.BindText(at, day.String())
	case "timestamp":
		moment, err := w.file.Moment(text)
		if err != nil {
			return err
		}
		return w.insert.BindText(at, moment.Format(time.RFC3339Nano))
	case "flag":
		is, err := w.file.Flag(text)
		if err != nil {
			return err
		}
		return w.insert.BindBool(at, is)
	}
	digits, err := w.file.Number(text, c.Scale)
	if err != nil {
		return err
	}
	if c.Type == "integer" {
		return w.insert.BindInt64(at, digits)
	}
	if digits >= tooLarge || digits <= -tooLarge {
		return fmt.Errorf("%q has more than %d digits", text, mostDigits)
	}
	// Up to 15 digits the nearest binary fraction reads back as what was written.
	return w.insert.BindFloat(at, float64(digits)/math.Pow10(int(c.Scale)))
}
