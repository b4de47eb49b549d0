package postgres

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"mantilla/core/nearest"
	"mantilla/source"
)

// texts runs a select and hands on its rows, with cells as texts and those without a value nil.
func texts(ctx context.Context, conn *pgx.Conn, text string, args [][]byte,
	visit func(columns []pgconn.FieldDescription, cells [][]byte) error) error {
	rows := conn.PgConn().ExecParams(ctx, text, args, nil, nil, nil)
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
func (s *Server) List(ctx context.Context, id string) (items []source.Item, err error) {
	l, ok := s.config.Lists[id]
	if !ok {
		return nil, fmt.Errorf("source %s has no list %q; it has %s", s.config.ID, id, nearest.And(s.config.ListNames()))
	}
	narrowing := slices.Sorted(maps.Keys(l.Fields))
	err = s.conn(ctx, func(conn *pgx.Conn) error {
		err := texts(ctx, conn, source.SelectList(l, narrowing, "true"), nil,
			func(_ []pgconn.FieldDescription, cells [][]byte) error {
				items = append(items, source.ItemOf(func(i int) string { return string(cells[i]) }, len(l.Find), narrowing))
				return nil
			})
		if err != nil {
			return fmt.Errorf("list %s: %w", id, err)
		}
		return nil
	})
	if err == nil && len(items) > source.MostItems {
		err = fmt.Errorf("source %s, list %s: it has more than %d entries; narrow its from", s.config.ID, id,
			source.MostItems)
	}
	return items, err
}

// Rest is how long lists are taken as they were read.
func (s *Server) Rest() time.Duration { return 20 * time.Second }
