package servers

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/ncruces/go-sqlite3"
)

// types are what columns of the records are called by an engine, with what ends a moment in UTC,
// and a table.
type types struct{ text, whole, day, moment, zone, end string }

// units is the tree of units, in words that both engines know.
const units = `create view unit as
	select id, 'COOP' as parent_id, 'region' as kind, name, 1 as current from region
	union all select 'COOP', null, 'cooperative', 'Brackenfell Honey Cooperative', 1
	union all select id, region_id, 'district', name, 1 from district
	union all select id, district_id, 'site', name, case when closed_on is null then 1 else 0 end from site;`

// carry makes the tables anew and fills them.
func carry(ctx context.Context, s engine, from string) error {
	conn, err := sqlite3.OpenFlags(from, sqlite3.OPEN_READONLY)
	if err != nil {
		return err
	}
	defer conn.Close()
	if err := s.Exec(ctx, "coop", "drop view if exists unit; drop view if exists rent_month"); err != nil {
		return err
	}
	tables, err := texts(conn, `select name from sqlite_schema where type = 'table' and name not like 'sqlite_%'`)
	if err != nil {
		return err
	}
	for _, table := range tables {
		if err := carryTable(ctx, s, conn, table); err != nil {
			return fmt.Errorf("table %s: %w", table, err)
		}
	}
	indexes, err := texts(conn, `select sql from sqlite_schema where type = 'index' and sql is not null`)
	if err != nil {
		return err
	}
	for _, index := range append(indexes, units, s.rents) {
		if err := s.Exec(ctx, "coop", index); err != nil {
			return fmt.Errorf("%s: %w", index, err)
		}
	}
	return nil
}

// texts are the cells of a query with one column.
func texts(conn *sqlite3.Conn, query string) (out []string, err error) {
	stmt, _, err := conn.Prepare(query)
	if err != nil {
		return nil, err
	}
	for stmt.Step() {
		out = append(out, stmt.ColumnText(0))
	}
	return out, errors.Join(stmt.Err(), stmt.Close())
}

// column is one of a table of the records.
type column struct {
	name, kind string // text, whole, day or moment
	given      bool
	key        int // its place in the primary key; 0 for none
}

func columnsOf(conn *sqlite3.Conn, table string) (out []column, err error) {
	stmt, _, err := conn.Prepare(`select name, type, "notnull", pk from pragma_table_info(?)`)
	if err != nil {
		return nil, err
	}
	if err := stmt.BindText(1, table); err != nil {
		return nil, errors.Join(err, stmt.Close())
	}
	for stmt.Step() {
		c := column{name: stmt.ColumnText(0), kind: "text", given: stmt.ColumnBool(2), key: stmt.ColumnInt(3)}
		switch {
		case stmt.ColumnText(1) == "INTEGER":
			c.kind = "whole"
		case strings.HasSuffix(c.name, "_on") || c.name == "best_before":
			c.kind = "day"
		case c.name == "at" || strings.HasSuffix(c.name, "_at"):
			c.kind = "moment"
		}
		out = append(out, c)
	}
	return out, errors.Join(stmt.Err(), stmt.Close())
}

// most is how many rows are written at once.
const most = 2000

func carryTable(ctx context.Context, s engine, conn *sqlite3.Conn, table string) error {
	columns, err := columnsOf(conn, table)
	if err != nil {
		return err
	}
	if err := s.Exec(ctx, "coop", made(table, columns, s.types)); err != nil {
		return err
	}
	stmt, _, err := conn.Prepare(`select * from "` + table + `"`)
	if err != nil {
		return err
	}
	defer stmt.Close()
	var rows []string
	flush := func() error {
		if len(rows) == 0 {
			return nil
		}
		err := s.Exec(ctx, "coop", `insert into "`+table+`" values `+strings.Join(rows, ", "))
		rows = rows[:0]
		return err
	}
	for stmt.Step() {
		cells := make([]string, len(columns))
		for i, c := range columns {
			cells[i] = literal(stmt, i, c, s.types.zone)
		}
		if rows = append(rows, "("+strings.Join(cells, ", ")+")"); len(rows) == most {
			if err := flush(); err != nil {
				return err
			}
		}
	}
	return errors.Join(stmt.Err(), flush())
}

// made is the statement that makes a table.
func made(table string, columns []column, t types) string {
	names := map[string]string{"text": t.text, "whole": t.whole, "day": t.day, "moment": t.moment}
	var lines, key []string
	for _, c := range columns {
		line := `"` + c.name + `" ` + names[c.kind]
		if c.given || c.key > 0 {
			line += " not null"
		}
		lines = append(lines, line)
	}
	inKey := slices.DeleteFunc(slices.Clone(columns), func(c column) bool { return c.key == 0 })
	slices.SortFunc(inKey, func(a, b column) int { return a.key - b.key })
	for _, c := range inKey {
		key = append(key, `"`+c.name+`"`)
	}
	lines = append(lines, "primary key ("+strings.Join(key, ", ")+")")
	return `drop table if exists "` + table + `"; create table "` + table + `" (` + strings.Join(lines, ", ") + ")" + t.end
}

// literal is a cell as both engines read it.
func literal(stmt *sqlite3.Stmt, at int, c column, zone string) string {
	switch {
	case stmt.ColumnType(at) == sqlite3.NULL:
		return "null"
	case c.kind == "whole":
		return strconv.FormatInt(stmt.ColumnInt64(at), 10)
	}
	text := stmt.ColumnText(at)
	if c.kind == "moment" {
		text = strings.TrimSuffix(strings.Replace(text, "T", " ", 1), "Z")
	}
	return "'" + strings.ReplaceAll(text, "'", "''") + "'"
}
