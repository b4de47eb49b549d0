package files

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/ncruces/go-sqlite3"
	"golang.org/x/sync/errgroup"

	"mantilla/core/nearest"
	"mantilla/core/rescue"
	"mantilla/grid"
	"mantilla/source"
)

// writer writes the lines of a file into its table. Lines are read and made into cells by one
// goroutine while another writes those before.
type writer struct {
	db    *sqlite3.Conn
	table string
	of    source.FileTable

	file   *grid.File
	insert *sqlite3.Stmt
	told   Told
}

// mostRows is how many lines a file may have.
const mostRows = 5_000_000

// write writes a file, which is given as a whole.
func (w *writer) write(ctx context.Context, data []byte) (err error) {
	if w.file, err = grid.Open(data, formOf(w.of)); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, w.file.Close()) }()
	marks := strings.Repeat(", ?", len(w.of.Columns))[2:]
	if w.insert, _, err = w.db.Prepare("insert into " + quoted(w.table) + " values (" + marks + ")"); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, w.insert.Close()) }()
	batches := make(chan []line, 4)
	work, within := errgroup.WithContext(ctx)
	work.Go(func() error {
		defer close(batches)
		return rescue.Call(func() error {
			r := reader{ctx: within, of: w.of, file: w.file, to: batches}
			return r.read()
		})
	})
	work.Go(func() error {
		return rescue.Call(func() error {
			for batch := range batches {
				for i := range batch {
					if err := w.line(&batch[i]); err != nil {
						return err
					}
				}
			}
			return nil
		})
	})
	return work.Wait()
}

// line writes a line, or tells what does not fit.
func (w *writer) line(l *line) error {
	if w.told.Rows == mostRows {
		return fmt.Errorf("it has more than %d lines", mostRows)
	}
	if len(l.faults) > 0 {
		for _, f := range l.faults {
			w.fault(f)
		}
		w.told.Left++
		return nil
	}
	for i, c := range l.cells {
		if err := c.bind(w.insert, i+1); err != nil {
			return err
		}
	}
	w.insert.Step()
	err := w.insert.Reset()
	if errors.Is(err, sqlite3.CONSTRAINT) {
		w.fault(Fault{Place: l.place.String(), Column: nearest.And(w.keys()), Says: "another line has the same"})
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

func (w *writer) fault(f Fault) {
	if len(w.told.Faults) == mostFaults {
		w.told.More++
		return
	}
	w.told.Faults = append(w.told.Faults, f)
}
