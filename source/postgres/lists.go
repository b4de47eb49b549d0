package postgres

import (
	"context"
	"fmt"
	"maps"
	"slices"
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
func (s *Server) List(ctx context.Context, id string) (items []source.Item, err error) {
	l, err := s.config.Declared(id)
	if err != nil {
		return nil, err
	}
	items, err = s.entries(ctx, id, source.SelectList(l, slices.Sorted(maps.Keys(l.Fields)), "true"), nil)
	if err != nil {
		return nil, err
	}
	return items, s.config.Bounded(id, items)
}

// Find returns the entries of a declared list that are sought.
func (s *Server) Find(ctx context.Context, id string, w source.Sought) ([]source.Item, error) {
	l, err := s.config.Declared(id)
	if err != nil {
		return nil, err
	}
	text, args := source.SelectSought(l, slices.Sorted(maps.Keys(l.Fields)), "true", dialect{}, w)
	return s.entries(ctx, id, text, args)
}

// entries are those that a query for entries of a list gives.
func (s *Server) entries(ctx context.Context, id, text string, args []any) (items []source.Item, err error) {
	l := s.config.Lists[id]
	narrowing := slices.Sorted(maps.Keys(l.Fields))
	values, oids, err := bound(args)
	if err != nil {
		return nil, err
	}
	err = s.conn(ctx, func(conn *pgx.Conn) error {
		err := texts(ctx, conn, text, values, oids,
			func(_ []pgconn.FieldDescription, cells [][]byte) error {
				items = append(items, source.ItemOf(func(i int) string { return string(cells[i]) }, len(l.Find), narrowing))
				return nil
			})
		if err != nil {
			return fmt.Errorf("list %s: %w", id, err)
		}
		return nil
	})
	return items, err
}

// Rest is how long lists are taken as they were read.
func (s *Server) Rest() time.Duration { return 20 * time.Second }
