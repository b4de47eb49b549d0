package postgres

import (
	"cmp"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"

	"mantilla/core/frame"
	"mantilla/core/table"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/engine"
)

// keeps is where a server keeps results: a schema to which an account writes that may write
// nothing else.
type keeps struct {
	server *Server
	schema string
	pool   *pgxpool.Pool
}

var (
	_ source.Engine = (*keeps)(nil)
	_ engine.Conn   = (*keeps)(nil)
)

// openKeeps makes the pool of connections of the account that keeps results.
func (s *Server) openKeeps(secrets source.Secrets) (*keeps, error) {
	on := s.config.Keeps
	elsewhere := "n.nspname <> " + literal(on.Schema)
	asks := []string{powers[0], powers[1], strings.Replace(powers[2], "where c.relkind",
		"where "+elsewhere+" and c.relkind", 1),
		`select coalesce((select 'it may create in the schema ' || n.nspname from pg_namespace n where ` + elsewhere +
			` and n.nspname not like 'pg\_temp\_%' and has_schema_privilege(n.oid, 'create') order by 1 limit 1), '')`}
	mend := fmt.Sprintf("Let the owner of the database make one that keeps results and nothing else: "+
		"create role %[1]s login password '...'; create schema %[2]s authorization %[1]s; grant select on all tables "+
		"in schema public to %[1]s", on.User, on.Schema)
	pool, err := connect(s.config, on.User, on.Password, secrets, func(ctx context.Context, conn *pgx.Conn) error {
		return without(ctx, conn, asks, mend)
	})
	return &keeps{server: s, schema: on.Schema, pool: pool}, err
}

// Engine keeps results where they lie; nil where no place is declared for them.
func (s *Server) Engine() source.Engine {
	if s.keeps == nil {
		return nil
	}
	return s.keeps
}

// name writes that of a table.
func (k *keeps) name(of string) string { return dialect{}.Name(k.schema) + "." + dialect{}.Name(of) }

// Table asks the rows of a result that stay.
func (k *keeps) Table(stay model.Stay, rows int64, schema frame.Schema, cache table.Cache) table.Table {
	of := engine.Rows{Name: k.name(stay.Table), Count: int(rows), Schema: schema}
	for _, c := range stay.Columns {
		of.Letters = append(of.Letters, engine.Letters(c.Letters))
		of.Known = append(of.Known, engine.Known{Count: c.Count, Sum: c.Sum, Least: c.Least, Greatest: c.Greatest})
	}
	return engine.Of(k, of, cache)
}

// Query hands on the rows of an answer.
func (k *keeps) Query(ctx context.Context, text string, args []string, words []bool,
	visit func(row []engine.Cell) error) error {
	conn, err := k.pool.Acquire(ctx)
	if err != nil {
		return k.server.explain(ctx, err)
	}
	defer conn.Release()
	return k.explain(ctx, ask(ctx, conn.Conn().PgConn(), text, args, words, visit))
}

func ask(ctx context.Context, conn *pgconn.PgConn, text string, args []string, words []bool,
	visit func(row []engine.Cell) error) error {
	values, formats := make([][]byte, len(args)), make([]int16, len(words))
	for i, arg := range args {
		values[i] = []byte(arg)
	}
	for i, word := range words {
		formats[i] = asBinary
		if word {
			formats[i] = asText
		}
	}
	within, leave := context.WithCancel(ctx)
	defer leave()
	rows := conn.ExecParams(within, text, values, nil, nil, formats)
	row := make([]engine.Cell, len(words))
	var err error
	for err == nil && rows.NextRow() {
		for i, value := range rows.Values() {
			switch {
			case value == nil:
				row[i] = engine.Cell{Null: true}
			case words[i]:
				row[i] = engine.Cell{Text: string(value)}
			default:
				row[i] = engine.Cell{Int: int64(binary.BigEndian.Uint64(value))}
			}
		}
		err = visit(row)
	}
	if err != nil {
		leave() // else all rows that are left would come first
	}
	if _, closing := rows.Close(); err == nil {
		err = closing
	}
	return err
}

// explain tells what is wrong with rows that stay.
func (k *keeps) explain(ctx context.Context, err error) error {
	var said *pgconn.PgError
	if errors.As(err, &said) {
		switch said.Code {
		case "22003":
			return errors.New("a number gets more than 18 digits")
		case "42P01":
			return fmt.Errorf("source %s: the table that holds these rows is gone: %s", k.server.config.ID, said.Message)
		case "53100":
			return fmt.Errorf("source %s has no space left for the rows: %s", k.server.config.ID, said.Message)
		}
	}
	var network *pgconn.ConnectError
	if said == nil && !errors.As(err, &network) && ctx.Err() == nil && !pgconn.SafeToRetry(err) && !pgconn.Timeout(err) {
		if _, ours := err.(interface{ Unwrap() error }); !ours { // of whoever asked
			return err
		}
	}
	return k.server.explain(ctx, err)
}

// examined looks whether a table can be kept, and is gone then.
func (k *keeps) examined(ctx context.Context) (says string, err error) {
	seen := int64(0)
	err = k.changing(ctx, "", func(conn *pgconn.PgConn) error {
		if _, err := conn.Exec(ctx, "create table "+k.name("looked_at")+" (n bigint); drop table "+k.name("looked_at")).
			ReadAll(); err != nil {
			return err
		}
		return ask(ctx, conn, "select count(*) from pg_tables where schemaname = $1", []string{k.schema}, []bool{false},
			func(row []engine.Cell) error { seen = row[0].Int; return nil })
	})
	return fmt.Sprintf("%s may write to the schema %s and nothing else; it holds %d tables", k.server.config.Keeps.User,
		k.schema, seen), err
}

// Again computes anew what is sealed of rows that stay.
func (k *keeps) Again(ctx context.Context, stay model.Stay) (rows int64, digests []string, err error) {
	conn, err := k.pool.Acquire(ctx)
	if err != nil {
		return 0, nil, k.server.explain(ctx, err)
	}
	defer conn.Release()
	text := func(column int) bool { return stay.Columns[column].Text }
	rows, columns, err := sealed(ctx, conn.Conn().PgConn(), k.name(stay.Table), text, len(stay.Columns))
	for _, c := range columns {
		digests = append(digests, c.Digest)
	}
	return rows, digests, k.explain(ctx, err)
}

// sealed are the number of rows of a table and what is sealed of each column. The digest is the sum,
// over the cells that have a value, of the engine's own hash of 64 bits of the cell, seeded with the
// number of its row (hashint8extended, hashtextextended: by which it finds rows of tables that are
// parted by hash, so that they stay the same from version to version). It is the same in whichever
// order the rows are read.
func sealed(ctx context.Context, conn *pgconn.PgConn, name string, text func(column int) bool, columns int) (rows int64,
	out []model.StayColumn, err error) {
	list, words := []string{"count(*)"}, []bool{false}
	for i := range columns {
		c := fmt.Sprintf("c%d", i)
		hash, more := "hashint8extended("+c+", n)", []string{"sum(" + c + ")::text", "coalesce(min(" + c + "), 0)",
			"coalesce(max(" + c + "), 0)"}
		if text(i) {
			hash, more = "hashtextextended("+c+", n)", []string{"null::text", "0::bigint", "0::bigint"}
		}
		list = append(append(list, "count("+c+")", "coalesce(sum("+hash+"), 0)::text"), more...)
		words = append(words, false, true, true, false, false)
	}
	err = ask(ctx, conn, "select "+strings.Join(list, ", ")+" from "+name, nil, words, func(row []engine.Cell) error {
		rows = row[0].Int
		for i := range columns {
			of := row[1+5*i:]
			c := model.StayColumn{Digest: fmt.Sprintf("hash-64 %s of %d", of[1].Text, of[0].Int), Text: text(i),
				Count: of[0].Int}
			if !c.Text {
				c.Sum, c.Least, c.Greatest = cmp.Or(of[2].Text, "0"), of[3].Int, of[4].Int
			}
			out = append(out, c)
		}
		return nil
	})
	return rows, out, err
}

// Kept are the tables that a service keeps.
func (k *keeps) Kept(ctx context.Context, service string) (names []string, err error) {
	err = k.Query(ctx, `select c.relname from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = $1
		and c.relkind = 'r' and obj_description(c.oid, 'pg_class') = $2 order by 1`, []string{k.schema, markOf(service)},
		[]bool{true}, func(row []engine.Cell) error {
			names = append(names, row[0].Text)
			return nil
		})
	return names, err
}

// markOf is the comment by which a table is known as a service's.
func markOf(service string) string { return "rows of results of the service " + service }

// Drop removes a table.
func (k *keeps) Drop(ctx context.Context, name string) error {
	return k.changing(ctx, "", func(conn *pgconn.PgConn) error {
		_, err := conn.Exec(ctx, "drop table if exists "+k.name(name)).ReadAll()
		return err
	})
}

// changing runs what changes the schema in a transaction, all or nothing; it sees what a snapshot
// sees, or the present where none is given.
func (k *keeps) changing(ctx context.Context, snapshot string, do func(conn *pgconn.PgConn) error) error {
	pooled, err := k.pool.Acquire(ctx)
	if err != nil {
		return k.server.explain(ctx, err)
	}
	defer pooled.Release()
	conn := pooled.Conn().PgConn()
	begin := "begin isolation level repeatable read read write"
	if snapshot != "" {
		begin += "; set transaction snapshot " + literal(snapshot)
	}
	_, err = conn.Exec(ctx, begin).ReadAll()
	if err == nil {
		err = do(conn)
	}
	if err == nil {
		_, err = conn.Exec(ctx, "commit").ReadAll()
	}
	if err == nil {
		return nil
	}
	after, cancel := context.WithTimeout(context.WithoutCancel(ctx), longestConnect)
	defer cancel()
	if !conn.IsClosed() {
		_, _ = conn.Exec(after, "rollback").ReadAll() // what is broken is rolled back by itself
	}
	return k.explain(ctx, err)
}

// literal writes a text within SQL.
func literal(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }

// lettersOf tells of columns of texts which letters they have.
func lettersOf(ctx context.Context, conn *pgconn.PgConn, name string, texts []int) (map[int]engine.Letters, error) {
	out := map[int]engine.Letters{}
	left := texts
	for _, step := range []struct {
		letters engine.Letters
		test    func(cell string) string
	}{{engine.ASCII, engine.IsASCII}, {engine.Foldable, engine.IsFoldable}} {
		if len(left) == 0 {
			break
		}
		var list []string
		for _, i := range left {
			list = append(list, fmt.Sprintf("coalesce(bool_and(%s), true)::int::bigint", step.test(fmt.Sprintf("c%d", i))))
		}
		text := "select " + strings.Join(list, ", ") + " from " + name
		err := ask(ctx, conn, text, nil, make([]bool, len(left)), func(row []engine.Cell) error {
			for at, i := range left {
				if row[at].Int == 1 {
					out[i] = step.letters
				}
			}
			return nil
		})
		if err != nil {
			return nil, err
		}
		left = slices.DeleteFunc(slices.Clone(left), func(i int) bool { return out[i] != engine.Other })
	}
	return out, nil
}
