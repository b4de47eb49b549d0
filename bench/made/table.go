// Package made writes the tables that are measured, and has the reports on them.
package made

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/period"
)

// Query reads all ten columns of the made table.
const Query = `select id, region, item, day, status, quantity, pieces, amount, weight, price from rows`

// Report is the report on the made table.
const Report = `report: made
title: Made rows
category: Bench
depth: lines
about: Rows made for measuring.
source: made
datasets:
  rows:
    from: rows
    key: id
    columns:
      - {id: id, is: id, type: integer}
      - {id: region, is: region, type: text}
      - {id: item, is: item, type: text}
      - {id: day, is: day, type: date}
      - {id: status, is: status, type: text}
      - {id: quantity, is: quantity, type: integer}
      - {id: pieces, is: pieces, type: integer, total: sum}
      - {id: amount, is: amount, type: decimal, scale: 3, total: sum}
      - {id: weight, is: weight, type: decimal, scale: 3, total: sum}
      - {id: price, is: price, type: money}
views: {rows: {of: rows}}
`

// definitionOfThirty is the report on three times the table of ten million rows, by
// six columns.
const definitionOfThirty = `report: made
title: Made rows
category: Bench
depth: lines
about: Rows made for measuring.
source: made
datasets:
  rows:
    from: thrice
    key: id
    columns:
      - {id: id, is: id, type: integer}
      - {id: region, is: region, type: text}
      - {id: day, is: day, type: date}
      - {id: pieces, is: pieces, type: integer, total: sum}
      - {id: amount, is: amount, type: decimal, scale: 3, total: sum}
      - {id: weight, is: weight, type: decimal, scale: 3, total: sum}
views: {rows: {of: rows}}
`

// thrice10 makes a view of the rows of a table three times over.
const thrice10 = `create view thrice as select id, region, day, pieces, amount, weight from rows
	union all select id + 10000000, region, day, pieces, amount, weight from rows
	union all select id + 20000000, region, day, pieces, amount, weight from rows`

// TableOf is the table, in millions of rows, from which so many are captured.
func TableOf(millions int) int { return min(millions, 10) }

// Definition is the report on so many millions of rows.
func Definition(millions int) string {
	if millions > 10 {
		return definitionOfThirty
	}
	return Report
}

// Path is the file, in a directory, of the table of so many millions of rows.
func Path(dir string, millions int) string {
	return filepath.Join(dir, fmt.Sprintf("rows-%dm.db", millions))
}

// Table writes a table of the same rows every time, unless it is there.
func Table(ctx context.Context, dir string, millions int) error {
	path := Path(dir, millions)
	if _, err := os.Stat(path); err == nil {
		return nil
	}
	fmt.Printf("Making a table of %d,000,000 rows\n", millions)
	part := path + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	c, err := sqlite3.OpenContext(ctx, part)
	if err != nil {
		return err
	}
	if err := errors.Join(fill(c, millions*1_000_000), c.Close()); err != nil {
		return err
	}
	return os.Rename(part, path)
}

func fill(c *sqlite3.Conn, rows int) error {
	err := c.Exec(`pragma journal_mode = off; pragma synchronous = off; begin;
		create table rows (id integer primary key, region text, item text, day text, status text, quantity integer,
		pieces integer, amount integer, weight integer, price integer)`)
	if err != nil {
		return err
	}
	stmt, _, err := c.Prepare(`insert into rows values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`)
	if err != nil {
		return err
	}
	defer stmt.Close()
	r := rand.New(rand.NewPCG(7, 7))
	first := period.Date(2023, 1, 1)
	for i := range rows {
		texts := map[int]string{2: fmt.Sprintf("region-%d", r.IntN(4)), 3: fmt.Sprintf("item-%04d", r.IntN(4000)),
			4: (first + period.Day(r.IntN(1300))).String(),
			5: []string{"open", "sent", "paid"}[r.IntN(3)]}
		numbers := map[int]int64{1: int64(i), 6: r.Int64N(1000), 7: r.Int64N(100), 8: r.Int64N(1e9), 9: r.Int64N(1e6),
			10: r.Int64N(1e5)}
		for at, v := range texts {
			err = errors.Join(err, stmt.BindText(at, v))
		}
		for at, v := range numbers {
			err = errors.Join(err, stmt.BindInt64(at, v))
		}
		if r.IntN(50) == 0 {
			err = errors.Join(err, stmt.BindNull(8))
		}
		if err = errors.Join(err, stmt.Exec()); err != nil {
			return err
		}
	}
	return c.Exec("commit;" + thrice10)
}
