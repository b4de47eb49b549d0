package postgres

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"mantilla/model"
	"mantilla/source"
	"mantilla/source/cells"
)

// How long looking at tables may take: to count the rows of all, and to read the
// first of one.
const (
	longestCount  = time.Second
	longestSample = 5 * time.Second
)

// relations are the tables and views that the account may read, of the schemas that are
// shown; a name has its schema before it where the search path does not find it. What the
// engine reckons a table to have comes with it, -1 where it does not know.
const relations = `select c.oid::regclass::text, c.relkind in ('v', 'm'), c.reltuples::bigint, c.oid
	from pg_class c join pg_namespace n on n.oid = c.relnamespace
	where c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition
		and n.nspname = any (current_schemas(false)) and has_table_privilege(c.oid, 'select')
	order by 1`

// columnsOf are the columns of a relation, with the table that each is a key of.
const columnsOf = `select a.attname, format_type(a.atttypid, a.atttypmod),
	coalesce((select a.attnum = any (i.indkey) from pg_index i where i.indrelid = a.attrelid and i.indisprimary), false),
	a.attnotnull,
	coalesce((select k.confrelid::regclass::text from pg_constraint k
		where k.conrelid = a.attrelid and k.contype = 'f' and k.conkey = array[a.attnum] limit 1), '')
	from pg_attribute a where a.attrelid = $1 and a.attnum > 0 and not a.attisdropped order by a.attnum`

// relation is a table with the number that the engine knows it by.
type relation struct {
	source.Table
	oid uint32
}

// Tables are the tables and views that the account may read, with their rows counted, or as
// the engine reckons them when counting takes longer than a second for all.
func (s *Server) Tables(ctx context.Context) (tables []source.Table, err error) {
	err = s.conn(ctx, func(conn *pgx.Conn) error {
		all, err := relationsOf(ctx, conn)
		if err != nil {
			return err
		}
		for _, r := range all {
			rows, err := conn.Query(ctx, columnsOf, r.oid)
			if err != nil {
				return err
			}
			r.Columns, err = pgx.CollectRows(rows, func(row pgx.CollectableRow) (c source.TableColumn, err error) {
				return c, row.Scan(&c.Name, &c.Type, &c.Key, &c.Required, &c.References)
			})
			if err != nil {
				return err
			}
			tables = append(tables, r.Table)
		}
		return nil
	})
	if err == nil {
		s.count(ctx, tables)
	}
	return tables, err
}

func relationsOf(ctx context.Context, conn *pgx.Conn) ([]relation, error) {
	rows, err := conn.Query(ctx, relations)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (r relation, err error) {
		if err = row.Scan(&r.Name, &r.View, &r.Rows, &r.oid); r.View || r.Rows < 0 {
			r.Rows = -1
		}
		return r, err
	})
}

// count counts the rows of tables as long as there is time.
func (s *Server) count(ctx context.Context, tables []source.Table) {
	counting, cancel := context.WithTimeout(ctx, longestCount)
	defer cancel()
	// What takes too long ends by an error, and what the engine reckons stands.
	_ = s.conn(counting, func(conn *pgx.Conn) error {
		for i := range tables {
			if tables[i].View {
				continue
			}
			var n int64
			if err := conn.QueryRow(counting, "select count(*) from "+tables[i].Name).Scan(&n); err != nil {
				return err
			}
			tables[i].Rows = n
		}
		return nil
	})
}

// Sample reads the first rows of a table or view.
func (s *Server) Sample(ctx context.Context, table string, most int) (out source.Sample, err error) {
	ctx, cancel := context.WithTimeoutCause(ctx, longestSample,
		fmt.Errorf("reading the first rows of %s took longer than %s", table, longestSample))
	defer cancel()
	err = s.conn(ctx, func(conn *pgx.Conn) error {
		all, err := relationsOf(ctx, conn)
		if err != nil {
			return err
		}
		var names []string
		for _, r := range all {
			names = append(names, r.Name)
		}
		if !slices.Contains(names, table) {
			return model.NoSuch("table", table, names)
		}
		// The name is as the engine writes it, quoted where it must be.
		return texts(ctx, conn, fmt.Sprintf("select * from %s limit %d", table, most), nil, nil,
			func(columns []pgconn.FieldDescription, row [][]byte) error {
				if out.Columns == nil {
					for _, c := range columns {
						out.Columns = append(out.Columns, c.Name)
					}
				}
				shown := make([]*string, len(row))
				for i, cell := range row {
					if cell != nil {
						shown[i] = cells.Cut(cell)
					}
				}
				out.Rows = append(out.Rows, shown)
				return nil
			})
	})
	return out, err
}

// Examine looks whether the source can be reached and used, step by step; what cannot be
// looked at after a step that failed is left out.
func (s *Server) Examine(ctx context.Context) (found source.Findings) {
	var v *session
	reached := found.Add("reached", func() (string, error) {
		var err error
		if v, err = s.begin(ctx); err != nil {
			return "", err
		}
		var version, user string
		err = v.conn.QueryRow(ctx, "select current_setting('server_version'), current_user").Scan(&version, &user)
		return fmt.Sprintf("PostgreSQL %s at %s lets %s in", version, s.config.Server.Host, user), s.explain(ctx, err)
	})
	if v != nil {
		defer func() { _ = v.Close() }() // what was found stands, however the session ends
	}
	if !reached {
		return found
	}
	found.Add("only read", func() (string, error) {
		if err := confined(ctx, v.conn.Conn()); err != nil {
			return "", s.explain(ctx, err)
		}
		return "the account may read and nothing else, and every transaction is read-only", nil
	})
	found.Add("round trip", func() (string, error) {
		began := time.Now()
		_, err := v.conn.Exec(ctx, "select 1")
		return fmt.Sprintf("%.1f ms to the server and back", float64(time.Since(began).Microseconds())/1000),
			s.explain(ctx, err)
	})
	found.Add("clock", func() (string, error) {
		return source.Clock(func() (there time.Time, err error) {
			err = v.conn.QueryRow(ctx, "select clock_timestamp()").Scan(&there)
			return there, s.explain(ctx, err)
		})
	})
	found.Lists(ctx, s.config, s)
	if s.keeps != nil {
		found.Add("keeps results", func() (string, error) { return s.keeps.examined(ctx) })
	}
	return found
}
