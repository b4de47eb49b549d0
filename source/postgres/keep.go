package postgres

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgtype"

	"mantilla/core/frame"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/model"
	"mantilla/source"
)

var _ source.Keeper = (*session)(nil)

// Keep makes a table of the rows of a query, as another account that sees what this session
// sees. Rows are numbered as the query gives them.
func (v *session) Keep(ctx context.Context, q query.Query, k source.Keeping) (stay model.Stay, rows int64, err error) {
	on := v.server.keeps
	if on == nil {
		return stay, 0, fmt.Errorf("source %s %w", v.server.config.ID, source.ErrKeepsNothing)
	}
	of := source.Write(q, dialect{})
	p, cells, err := v.staying(ctx, of)
	if err != nil {
		return stay, 0, fmt.Errorf("dataset %s: %w", of.Dataset.ID, v.server.explain(ctx, err))
	}
	stay = model.Stay{Source: v.server.config.ID, Table: k.Table}
	err = on.changing(ctx, v.snapshot, func(conn *pgconn.PgConn) error {
		rows, err = on.fill(ctx, conn, of, p, cells, k)
		if err != nil || rows > k.Most {
			return errors.Join(err, moreThan(rows, k.Most))
		}
		return on.seal(ctx, conn, of, rows, k, &stay)
	})
	if err != nil {
		return stay, rows, fmt.Errorf("dataset %s: %w", of.Dataset.ID, err)
	}
	return stay, rows, nil
}

func moreThan(rows, most int64) error {
	if rows <= most {
		return nil
	}
	return source.ErrMore
}

// staying prepares a query, and writes how each of its cells is kept.
func (v *session) staying(ctx context.Context, of source.Statement) (p prepared, cells []string, err error) {
	err = v.guarded(ctx, func() error {
		p, err = prepare(ctx, v.conn.Conn().PgConn(), of)
		return err
	})
	if err != nil {
		return p, nil, err
	}
	cells, err = stayingCells(of.Dataset.Read(), p.description.Fields)
	return p, cells, err
}

// stayingCells write how the columns of a dataset are kept of what the query gives.
func stayingCells(columns []report.Column, fields []pgconn.FieldDescription) (cells []string, err error) {
	for i := range columns {
		cell, err := stayingCell(&columns[i], fields[i].DataTypeOID, fmt.Sprintf("q.r%d", i))
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", columns[i].ID, err)
		}
		cells = append(cells, cell)
	}
	return cells, nil
}

// fill makes the table and pours the rows of the query into it.
func (k *keeps) fill(ctx context.Context, conn *pgconn.PgConn, of source.Statement, p prepared, cells []string,
	as source.Keeping) (int64, error) {
	columns := []string{"n bigint not null"}
	var names []string
	for i, c := range of.Dataset.Read() {
		kind := "bigint"
		if c.Kind == frame.Text {
			kind = `text collate "C"`
		}
		columns, names = append(columns, fmt.Sprintf("c%d %s", i, kind)), append(names, fmt.Sprintf("r%d", i))
	}
	name := k.name(as.Table)
	if _, err := conn.Exec(ctx, "drop table if exists "+name+"; create table "+name+" ("+strings.Join(columns,
		", ")+")").ReadAll(); err != nil {
		return 0, err
	}
	text := fmt.Sprintf("insert into %s select row_number() over () - 1, %s from (%s) q(%s) limit %d", name,
		strings.Join(cells, ", "), of.Text, strings.Join(names, ", "), as.Most+1)
	said := conn.ExecParams(ctx, text, p.values, p.description.ParamOIDs, nil, nil).Read()
	return said.CommandTag.RowsAffected(), said.Err
}

// seal numbers the rows for good, marks the table as the service's, and tells what is sealed of it.
func (k *keeps) seal(ctx context.Context, conn *pgconn.PgConn, of source.Statement, rows int64, as source.Keeping,
	stay *model.Stay) error {
	name := k.name(as.Table)
	if _, err := conn.Exec(ctx,
		"alter table "+name+" add primary key (n); analyze "+name+"; comment on table "+name+" is "+
			literal(markOf(as.Service))).ReadAll(); err != nil {
		return err
	}
	columns := of.Dataset.Read()
	var texts []int
	for i, c := range columns {
		if c.Kind == frame.Text {
			texts = append(texts, i)
		}
	}
	letters, err := lettersOf(ctx, conn, name, texts)
	if err != nil {
		return err
	}
	text := func(column int) bool { return columns[column].Kind == frame.Text }
	counted, known, err := sealed(ctx, conn, name, text, len(columns))
	if err == nil && counted != rows {
		err = fmt.Errorf("%d rows were kept, and %d are there", rows, counted)
	}
	if err != nil {
		return err
	}
	for i := range known {
		known[i].Letters = string(letters[i])
	}
	stay.Columns = known
	size := conn.ExecParams(ctx, "select pg_total_relation_size($1::regclass)::text", [][]byte{[]byte(name)}, nil, nil,
		nil).
		Read()
	if size.Err == nil && len(size.Rows) == 1 {
		_, size.Err = fmt.Sscan(string(size.Rows[0][0]), &stay.Bytes)
	}
	return size.Err
}

// stayingCell writes how a cell is kept: a text as it is, all else as a whole number of 64 bits,
// exactly what reading it would come to. What the engine cannot turn exactly is refused.
func stayingCell(c *report.Column, oid uint32, cell string) (string, error) {
	switch c.Kind {
	case frame.Text:
		if oid == pgtype.BoolOID {
			return "case when " + cell + " then 't' when not " + cell + " then 'f' end", nil
		}
		return cell + "::text", nil
	case frame.Flag:
		if oid == pgtype.BoolOID {
			return cell + "::int::bigint", nil
		}
		if oid == pgtype.Int2OID || oid == pgtype.Int4OID || oid == pgtype.Int8OID {
			return "case when " + cell + " in (0, 1) then " + cell + "::bigint when " + cell + " is not null then " +
				wrong("it is neither 0 nor 1", cell) + " end", nil
		}
		return "", unfit(c, "boolean")
	case frame.Date:
		switch oid {
		case pgtype.DateOID:
			return "(" + cell + " - date '1970-01-01')::bigint", nil
		case pgtype.TimestampOID, pgtype.TimestamptzOID:
			return "case when " + cell + " = date_trunc('day', " + cell + ") then " + cell + "::date - date '1970-01-01' when " +
				cell + " is not null then " + wrong("it has a time of day", cell) + " end", nil
		case pgtype.TextOID, pgtype.VarcharOID, pgtype.BPCharOID:
			return "case when " + cell + ` ~ '^\d{4}-\d\d-\d\d$' then ` + cell + "::date - date '1970-01-01' when " + cell +
				" is not null then " + wrong("it is no day such as 2026-09-30", cell) + " end", nil
		}
		return "", unfit(c, "date")
	case frame.Timestamp:
		switch oid {
		case pgtype.DateOID:
			return "(" + cell + " - date '1970-01-01')::bigint * 86400000000", nil
		case pgtype.TimestampOID, pgtype.TimestamptzOID:
			return "(extract(epoch from " + cell + ") * 1000000)::bigint", nil
		}
		return "", unfit(c, "timestamptz")
	}
	return stayingNumber(c, oid, cell)
}

// stayingNumber writes how a number is kept: the digits that it has with the places of its column.
func stayingNumber(c *report.Column, oid uint32, cell string) (string, error) {
	whole := wholeReader(oid) != nil
	if !whole && oid != pgtype.NumericOID {
		return "", unfit(c, "numeric")
	}
	stored := c.Stored == "decimal"
	if whole && !stored && (c.Kind == frame.Integer || oid != pgtype.Int8OID) { // they fit as they are
		return cell + "::bigint", nil
	}
	digits, says, fits := cell+"::numeric", "it has decimal places", "::numeric(18, 0)::bigint"
	if c.Kind == frame.Integer {
		fits = "::bigint"
	}
	if stored {
		digits = "(" + cell + "::numeric * 1" + strings.Repeat("0", int(c.Scale)) + ")"
		says = fmt.Sprintf("it has more than %d decimal places", c.Scale)
	}
	if whole {
		return digits + fits, nil
	}
	return "case when " + digits + " <> trunc(" + digits + ") then " + wrong(says, cell) + " else " + digits + fits +
		" end", nil
}

// unfit says that a query gives what cannot stay as it is.
func unfit(c *report.Column, cast string) error {
	return fmt.Errorf("the engine keeps no %s of what the query gives for it; write cast(... as %s)", c.Kind, cast)
}

// wrong writes what fails with what is wrong about a cell.
func wrong(says, cell string) string { return "('" + says + ": ' || " + cell + "::text)::bigint" }
