package postgres

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"mantilla/source"
)

// texts runs a select and hands on its rows, with cells as texts and those without a value nil.
func texts(ctx context.Context, conn *pgx.Conn, text string, args [][]byte, types []uint32,
	visit func(columns []pgconn.FieldDescription, cells [][]byte) error) error {
	rows := conn.PgConn().ExecParams(ctx, text, args, types, nil, nil)
	var err error
	for err == nil && rows.NextRow() {
		err = visit(rows.FieldDescriptions(), rows.Values())
	}
	if _, closing := rows.Close(); err == nil {
		err = closing
	}
	return err
}

// List reads all entries of a declared list.
func (s *Server) List(ctx context.Context, id string) ([]source.Item, error) {
	return source.ReadList(ctx, s.config, dialect{}, id, s.entries)
}

// Find returns the entries of a declared list that are sought.
func (s *Server) Find(ctx context.Context, id string, w source.Sought) ([]source.Item, error) {
	return source.FindIn(ctx, s.config, dialect{}, id, w, s.entries)
}

func (s *Server) entries(ctx context.Context, text string, args []any, row func(cell func(int) string)) error {
	values, oids, err := bound(args)
	if err != nil {
		return err
	}
	return s.conn(ctx, func(conn *pgx.Conn) error {
		return texts(ctx, conn, text, values, oids, func(_ []pgconn.FieldDescription, cells [][]byte) error {
			row(func(i int) string { return string(cells[i]) })
			return nil
		})
	})
}

// Rest is how long lists are taken as they were read.
func (s *Server) Rest() time.Duration { return 20 * time.Second }
