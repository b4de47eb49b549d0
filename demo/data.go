// Package demo is the made-up scenario: the Brackenfell Honey Cooperative, its
// records of three and a half seasons, and the catalog of reports on them.
// Nothing in it is a real person, place or organisation.
package demo

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/period"
)

//go:embed schema.sql
var schema string

// Today is the business date of the demo.
var Today = period.Date(2026, time.October, 15)

// firstDay is where the records begin.
var firstDay = period.Date(2023, time.April, 1)

// SourceFile is the name of the cooperative's database in the data directory.
const SourceFile = "coop.db"

// WriteData writes the cooperative's records and the bank's statements into a
// directory, unless they are there already. The data is the same every time.
// Files appear whole or not at all.
func WriteData(ctx context.Context, dir string) error {
	path := filepath.Join(dir, SourceFile)
	if current(path) {
		return nil
	}
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return fmt.Errorf("making the data directory: %w", err)
	}
	part := path + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("clearing the remains of an earlier attempt: %w", err)
	}
	lines, err := generate(ctx, part)
	if err != nil {
		return fmt.Errorf("writing the demo data: %w", err)
	}
	if err := writeStatements(dir, lines); err != nil {
		return fmt.Errorf("writing the bank's statements: %w", err)
	}
	return os.Rename(part, path)
}

// DataVersion is counted up when the data that is made changes, so that what an
// earlier program wrote is written anew.
const DataVersion = 6

// current tells whether the records are there as this program makes them.
func current(path string) bool {
	if _, err := os.Stat(path); err != nil {
		return false
	}
	conn, err := sqlite3.OpenFlags(path, sqlite3.OPEN_READONLY)
	if err != nil {
		return false
	}
	defer conn.Close()
	stmt, _, err := conn.Prepare("pragma user_version")
	if err != nil {
		return false
	}
	defer stmt.Close()
	return stmt.Step() && stmt.ColumnInt(0) == DataVersion
}

// generator holds what the parts of the scenario share.
type generator struct {
	conn   *sqlite3.Conn
	rand   *rand.Rand
	tables map[string]*sqlite3.Stmt

	sites   []site
	keepers []keeper
	lots    []lot
	stated  []stated
}

func generate(ctx context.Context, path string) (lines []stated, err error) {
	conn, err := sqlite3.OpenContext(ctx, path)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, conn.Close()) }()
	if err := conn.Exec(
		fmt.Sprintf("pragma journal_mode = off; pragma synchronous = off; pragma user_version = %d; begin;", DataVersion) +
			schema); err != nil {
		return nil, err
	}
	g := &generator{conn: conn, rand: rand.New(rand.NewPCG(2026, 10)), tables: map[string]*sqlite3.Stmt{}}
	for _, part := range []func() error{g.units, g.people, g.deliveries, g.laboratory, g.payouts, g.stores, g.orders,
		g.returns, g.rents, g.accounts, g.projects, g.seasonal, g.scales, g.portal, g.adjustments, g.limits} {
		if err := part(); err != nil {
			return nil, err
		}
	}
	for _, stmt := range g.tables {
		if err := stmt.Close(); err != nil {
			return nil, err
		}
	}
	return g.stated, conn.Exec("commit; analyze;")
}

// add inserts one row; the values stand in the order of the table's columns.
func (g *generator) add(table string, values ...any) error {
	stmt := g.tables[table]
	if stmt == nil {
		marks := strings.Repeat(", ?", len(values))[2:]
		var err error
		if stmt, _, err = g.conn.Prepare("insert into " + table + " values (" + marks + ")"); err != nil {
			return fmt.Errorf("table %s: %w", table, err)
		}
		g.tables[table] = stmt
	}
	for i, v := range values {
		if err := bind(stmt, i+1, v); err != nil {
			return fmt.Errorf("table %s: %w", table, err)
		}
	}
	if err := stmt.Exec(); err != nil {
		return fmt.Errorf("table %s: %w", table, err)
	}
	return nil
}

func bind(stmt *sqlite3.Stmt, at int, value any) error {
	switch v := value.(type) {
	case nil:
		return stmt.BindNull(at)
	case string:
		return stmt.BindText(at, v)
	case int:
		return stmt.BindInt(at, v)
	case bool:
		return stmt.BindBool(at, v)
	case period.Day:
		return stmt.BindText(at, v.String())
	case time.Time:
		return stmt.BindText(at, v.Format("2006-01-02T15:04:05Z"))
	}
	return fmt.Errorf("a %T cannot be written", value)
}

// chance is true in about one of n cases.
func (g *generator) chance(n int) bool { return g.rand.IntN(n) == 0 }

// between returns a number from low to high, both included.
func (g *generator) between(low, high int) int { return low + g.rand.IntN(high-low+1) }

func pick[T any](g *generator, from ...T) T { return from[g.rand.IntN(len(from))] }

// maybe returns the value, or nothing in about one of n cases.
func maybe[T any](g *generator, n int, value T) any {
	if g.chance(n) {
		return nil
	}
	return value
}

// at is a moment of a day.
func at(d period.Day, hour, minute int) time.Time {
	return d.Time().Add(time.Duration(hour)*time.Hour + time.Duration(minute)*time.Minute)
}

// months returns the first days of the months from firstDay to Today.
func months() (out []period.Day) {
	for d := firstDay; d <= Today; d = (period.Calendar{}).Shift(period.Months, d, 1).First {
		out = append(out, d)
	}
	return out
}

// halfAway divides and rounds half away from zero, as money is rounded.
func halfAway(n, d int) int {
	if n < 0 {
		return -((-n + d/2) / d)
	}
	return (n + d/2) / d
}

// afterWorkingDays is so many working days later.
func afterWorkingDays(day period.Day, n int) period.Day {
	for n > 0 {
		day++
		if w := day.Time().Weekday(); w != time.Saturday && w != time.Sunday {
			n--
		}
	}
	return day
}

func monthText(d period.Day) string { return d.String()[:7] }
