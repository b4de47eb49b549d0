package db

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"

	"github.com/ncruces/go-sqlite3"

	"mantilla/model"
)

// How a part of a thing is thrown away.
const (
	Removed = "removed" // its rows leave their table
	Emptied = "emptied" // a column of its rows is emptied, the rows stay
	Aside   = "aside"   // its rows, which may be large, stay under a key that nothing has
)

// Part is rows that belong to a thing: those of a table for which a condition holds, in which
// ?1 is the thing's id.
type Part struct {
	Table, Where string
	How          string
	Column       string // that is emptied, or that is the key; "" of rows that are removed
}

// Throw deletes a thing with all that belongs to it, and keeps that so that [DB.PutBack] can undo it. Of the
// first part there must be a row. Parts that lean on others come after these.
func (s *DB) Throw(ctx context.Context, t model.Thrown, parts ...Part) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		var thing int64
		err := tx.QueryRowContext(ctx, `insert into thrown_thing (kind, id, name, report, by, at) values (?, ?, ?, ?, ?, ?)
			returning number`, t.Kind, t.ID, t.Name, t.Report, t.Owner, Stamp(t.At)).Scan(&thing)
		if err != nil {
			return err
		}
		for i, p := range parts {
			n, err := p.note(ctx, tx, thing, t.ID)
			if err == nil && n == 0 && i == 0 {
				err = model.ErrNotFound
			}
			if err != nil {
				return fmt.Errorf("noting %s: %w", p.Table, err)
			}
		}
		for i := len(parts) - 1; i >= 0; i-- {
			if err := parts[i].leave(ctx, tx, thing, t.ID); err != nil {
				return fmt.Errorf("deleting of %s: %w", parts[i].Table, err)
			}
		}
		return nil
	})
}

// note writes down what leave is about to take, and of how many rows.
func (p Part) note(ctx context.Context, tx *sql.Tx, thing int64, id string) (n int, err error) {
	note := func() (row int64, err error) {
		n++
		return row, tx.QueryRowContext(ctx, `insert into thrown_row (thing, tbl, how, col) values (?, ?, ?, ?)
			returning number`, thing, p.Table, p.How, p.Column).Scan(&row)
	}
	if p.How == Aside {
		_, err = note()
		return n, err
	}
	what := "*"
	if p.How == Emptied {
		keys, err := keysOf(ctx, tx, p.Table)
		if err != nil {
			return 0, err
		}
		what = strings.Join(append(keys, p.Column), ", ")
	}
	rows, err := tx.QueryContext(ctx, "select "+what+" from "+p.Table+" where "+p.Where, id)
	found, err := Collect(rows, err, cells)
	if err != nil {
		return 0, err
	}
	for _, cells := range found {
		row, err := note()
		if err != nil {
			return n, err
		}
		for _, c := range cells {
			if _, err := tx.ExecContext(ctx, `insert into thrown_cell (row, col, value) values (?, ?, ?)`, row, c.column,
				c.value); err != nil {
				return n, err
			}
		}
	}
	return n, nil
}

// cell is a value of a row that was thrown away.
type cell struct {
	column string
	value  any
}

// cells reads a row with its columns by their names.
func cells(r *sql.Rows) ([]cell, error) {
	columns, err := r.Columns()
	if err != nil {
		return nil, err
	}
	out := make([]cell, len(columns))
	into := make([]any, len(columns))
	for i, c := range columns {
		out[i].column, into[i] = c, &out[i].value
	}
	return out, r.Scan(into...)
}

// keysOf are the columns of a table's primary key.
func keysOf(ctx context.Context, tx *sql.Tx, table string) ([]string, error) {
	rows, err := tx.QueryContext(ctx, `select name from pragma_table_info(?) where pk > 0 order by pk`, table)
	return Collect(rows, err, func(r *sql.Rows) (name string, err error) { return name, r.Scan(&name) })
}

// aside is the key of what was put aside with a thing. Nothing else is called so.
func aside(thing int64) string { return fmt.Sprintf("~%d", thing) }

func (p Part) leave(ctx context.Context, tx *sql.Tx, thing int64, id string) (err error) {
	switch p.How {
	case Emptied:
		_, err = tx.ExecContext(ctx, "update "+p.Table+" set "+p.Column+" = '' where "+p.Where, id)
	case Aside:
		_, err = tx.ExecContext(ctx, "update "+p.Table+" set "+p.Column+" = ?2 where "+p.Where, id, aside(thing))
	default:
		_, err = tx.ExecContext(ctx, "delete from "+p.Table+" where "+p.Where, id)
	}
	return err
}

// PutBack undoes what was deleted last of a kind with an id. It fails with [model.ErrTaken] where there is
// another by now. What belonged to it and to something else that is gone by now stays away.
func (s *DB) PutBack(ctx context.Context, kind, id string) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		var thing int64
		err := tx.QueryRowContext(ctx, `select number from thrown_thing where kind = ? and id = ?
			order by number desc limit 1`, kind, id).Scan(&thing)
		if err != nil {
			return err
		}
		rows, err := tx.QueryContext(ctx, `select number, tbl, how, col from thrown_row where thing = ?
			order by number`, thing)
		parts, err := Collect(rows, err, func(r *sql.Rows) (p thrownRow, err error) {
			return p, r.Scan(&p.number, &p.Table, &p.How, &p.Column)
		})
		if err != nil {
			return err
		}
		for i, p := range parts {
			err := p.back(ctx, tx, thing, id)
			gone := errors.Is(err, sqlite3.CONSTRAINT_FOREIGNKEY)
			there := errors.Is(err, sqlite3.CONSTRAINT_PRIMARYKEY) || errors.Is(err, sqlite3.CONSTRAINT_UNIQUE)
			switch {
			case there && i == 0:
				return model.ErrTaken
			case err != nil && !gone && !there:
				return fmt.Errorf("putting back into %s: %w", p.Table, err)
			}
		}
		_, err = tx.ExecContext(ctx, `delete from thrown_thing where number = ?`, thing)
		return err
	})
}

// thrownRow is a row that was thrown away, by the number under which it was noted.
type thrownRow struct {
	Part
	number int64
}

func (p thrownRow) back(ctx context.Context, tx *sql.Tx, thing int64, id string) error {
	if p.How == Aside {
		_, err := tx.ExecContext(ctx, "update "+p.Table+" set "+p.Column+" = ? where "+p.Column+" = ?", id, aside(thing))
		return err
	}
	rows, err := tx.QueryContext(ctx, `select col, value from thrown_cell where row = ? order by rowid`, p.number)
	kept, err := Collect(rows, err, func(r *sql.Rows) (c cell, err error) { return c, r.Scan(&c.column, &c.value) })
	if err != nil {
		return err
	}
	var columns, marks, keys []string
	var values, key []any
	for _, c := range kept {
		columns, marks, values = append(columns, c.column), append(marks, "?"), append(values, c.value)
		if c.column != p.Column {
			keys, key = append(keys, c.column+" = ?"), append(key, c.value)
		}
	}
	if p.How == Removed {
		_, err = tx.ExecContext(ctx, "insert into "+p.Table+" ("+strings.Join(columns, ", ")+") values ("+
			strings.Join(marks, ", ")+")", values...)
		return err
	}
	// Who kept it may have given it something else meanwhile.
	_, err = tx.ExecContext(ctx, "update "+p.Table+" set "+p.Column+
		" = (select value from thrown_cell where row = ? and col = ?) where "+p.Column+" = '' and "+
		strings.Join(keys, " and "), append([]any{p.number, p.Column}, key...)...)
	return err
}

// EmptyThrown forgets what was thrown away before a moment, for good, and tells how many things those were.
func EmptyThrown(ctx context.Context, tx *sql.Tx, before string) (int64, error) {
	rows, err := tx.QueryContext(ctx, `select r.thing, r.tbl, r.col from thrown_row r join thrown_thing t
		on t.number = r.thing where r.how = 'aside' and t.at <= ?`, before)
	parts, err := Collect(rows, err, func(r *sql.Rows) (p thrownRow, err error) {
		return p, r.Scan(&p.number, &p.Table, &p.Column)
	})
	if err != nil {
		return 0, err
	}
	for _, p := range parts {
		if _, err := tx.ExecContext(ctx, "delete from "+p.Table+" where "+p.Column+" = ?", aside(p.number)); err != nil {
			return 0, err
		}
	}
	done, err := tx.ExecContext(ctx, `delete from thrown_thing where at <= ?`, before)
	if err != nil {
		return 0, err
	}
	return done.RowsAffected()
}
