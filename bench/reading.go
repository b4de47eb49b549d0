package main

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"sync"

	"mantilla/bench/made"
	"mantilla/bench/measure"

	"github.com/ncruces/go-sqlite3"
	"github.com/ncruces/go-sqlite3/driver"
)

// compareReading times the ways to read the rows and throw them away, and
// returns the fastest that reads one state of the source on one connection:
// the bare reading that a capture is held beside.
func compareReading(ctx context.Context) (bare func() error, err error) {
	db, err := driver.Open("file:" + made.Path(*dataDir, 1) + "?mode=ro")
	if err != nil {
		return nil, err
	}
	fmt.Println("Reading 1,000,000 rows by 10 columns and throwing them away")
	bare = func() error { return raw(ctx, db, made.Query, cells) }
	for _, way := range []struct {
		name string
		read func() error
	}{
		{"database/sql Scan", func() error { return scan(ctx, db) }},
		{"Conn.Raw, values of a row at once", func() error { return raw(ctx, db, made.Query, values) }},
		{"Conn.Raw, cell by cell", bare},
		{"Conn.Raw, cell by cell, two key ranges at once", func() error { return twoRanges(ctx, db) }},
	} {
		var all []float64
		for range measure.Times {
			t, err := measure.Took(way.read)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", way.name, err)
			}
			all = append(all, t)
		}
		measure.Row(way.name, measure.Median(all))
	}
	return bare, nil
}

func scan(ctx context.Context, db *sql.DB) error {
	rows, err := db.QueryContext(ctx, made.Query)
	if err != nil {
		return err
	}
	defer rows.Close()
	into := make([]any, 10)
	for i := range into {
		into[i] = new(any)
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return err
		}
	}
	return rows.Err()
}

// raw steps through a query on the driver's own statement.
func raw(ctx context.Context, db *sql.DB, query string, read func(*sqlite3.Stmt) error) error {
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(c any) error {
		stmt, _, err := c.(driver.Conn).Raw().Prepare(query)
		if err != nil {
			return err
		}
		defer stmt.Close()
		for stmt.Step() {
			if err := read(stmt); err != nil {
				return err
			}
		}
		return stmt.Err()
	})
}

// cells reads each cell by its type, as a capture does.
func cells(stmt *sqlite3.Stmt) error {
	for i := range 10 {
		switch stmt.ColumnType(i) {
		case sqlite3.TEXT:
			Sink += len(stmt.ColumnRawText(i))
		case sqlite3.INTEGER:
			Sink += int(stmt.ColumnInt64(i))
		}
	}
	return nil
}

// Sink keeps the reading from being left out.
var Sink int

func values(stmt *sqlite3.Stmt) error {
	var row [10]any
	return stmt.ColumnsRaw(&row[0], &row[1], &row[2], &row[3], &row[4], &row[5], &row[6], &row[7], &row[8], &row[9])
}

func twoRanges(ctx context.Context, db *sql.DB) error {
	var both sync.WaitGroup
	errs := make([]error, 2)
	for i, where := range []string{" where id < 500000", " where id >= 500000"} {
		both.Go(func() {
			n := 0
			errs[i] = raw(ctx, db, made.Query+where, func(stmt *sqlite3.Stmt) error {
				for c := range 10 {
					if stmt.ColumnType(c) == sqlite3.TEXT {
						n += len(stmt.ColumnRawText(c))
					} else {
						n += int(stmt.ColumnInt64(c))
					}
				}
				return nil
			})
		})
	}
	both.Wait()
	return errors.Join(errs...)
}

// memory captures tables of growing size, each in a process of its own.
func memory(ctx context.Context) error {
	fmt.Println("\nPeak memory of a capture")
	for _, millions := range []int{1, 2, 4} {
		c := exec.CommandContext(ctx, os.Args[0], "-data", *dataDir, "-capture", fmt.Sprint(millions))
		c.Stderr = os.Stderr
		out, err := c.Output()
		if err != nil {
			return fmt.Errorf("capturing %d,000,000 rows: %w", millions, err)
		}
		fmt.Printf("  %d,000,000 rows %37s\n", millions, strings.TrimSpace(string(out)))
	}
	return nil
}

func captureAlone(ctx context.Context, millions int) error {
	b, err := open(ctx, millions)
	if err != nil {
		return err
	}
	defer b.close()
	t, err := measure.Took(func() error { return b.captureOnce(ctx) })
	if err != nil {
		return err
	}
	fmt.Printf("%.1f s ", t/1000)
	return printPeak()
}

// printPeak prints the most memory that this process has had.
func printPeak() error {
	status, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return err
	}
	for line := range strings.Lines(string(status)) {
		if peak, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			fmt.Println(strings.TrimSpace(peak))
		}
	}
	return nil
}
