package postgres

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"

	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
)

// session is one read-only transaction at the isolation level repeatable read: all of its
// queries see the state of its first.
type session struct {
	server      *Server
	conn        *pgxpool.Conn
	fingerprint string
	snapshot    string // by which another account sees the same; "" where results do not stay
}

// stateOf identifies the state that a transaction sees: which server, since when, and which
// transactions are done in it (PostgreSQL, System Information Functions: pg_current_snapshot).
// It changes with every transaction that writes, and with none that reads.
const stateOf = `select concat_ws(' ', current_database(), pg_postmaster_start_time(), pg_current_snapshot())`

// Begin begins a transaction.
func (s *Server) Begin(ctx context.Context) (source.Session, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return nil, err
	}
	return v, nil
}

func (s *Server) begin(ctx context.Context) (*session, error) {
	conn, err := s.pool.Acquire(ctx)
	if err != nil {
		return nil, s.explain(ctx, err)
	}
	v := &session{server: s, conn: conn}
	if _, err = conn.Exec(ctx, "begin transaction isolation level repeatable read read only"); err == nil {
		var state string
		if err = conn.QueryRow(ctx, stateOf).Scan(&state); err == nil {
			sum := sha256.Sum256([]byte(s.config.Server.Host + " " + state))
			v.fingerprint = hex.EncodeToString(sum[:])
			if s.keeps != nil {
				err = conn.QueryRow(ctx, "select pg_export_snapshot()").Scan(&v.snapshot)
			}
			if err == nil {
				return v, nil
			}
		}
	}
	return nil, errors.Join(s.explain(ctx, err), v.Close())
}

// Fingerprint identifies the state that the session reads.
func (v *session) Fingerprint() string { return v.fingerprint }

// Close ends the transaction and gives the connection back; one that is broken is not kept.
func (v *session) Close() error {
	ctx, cancel := context.WithTimeout(context.Background(), longestConnect)
	defer cancel()
	defer v.conn.Release()
	if v.conn.Conn().IsClosed() {
		return nil
	}
	if _, err := v.conn.Exec(ctx, "rollback"); err != nil {
		return errors.Join(v.server.explain(ctx, err), v.conn.Conn().Close(ctx))
	}
	return nil
}

// Fingerprint identifies the present state of the database.
func (s *Server) Fingerprint(ctx context.Context) (string, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return "", err
	}
	return v.fingerprint, v.Close()
}

// Prepare checks that the server understands the query.
func (s *Server) Prepare(ctx context.Context, q query.Query) error {
	return s.conn(ctx, func(conn *pgx.Conn) error {
		p, err := prepare(ctx, conn.PgConn(), source.Write(q, dialect{}))
		if err == nil && q.Dataset.Keep == report.InEngine {
			_, err = stayingCells(q.Dataset.Read(), p.description.Fields)
		}
		return err
	})
}

// prepared is a statement that the server understood, with what it gives and takes.
type prepared struct {
	description *pgconn.StatementDescription
	values      [][]byte
}

func prepare(ctx context.Context, conn *pgconn.PgConn, of source.Statement) (p prepared, err error) {
	values, types, err := bound(of.Args)
	if err != nil {
		return p, err
	}
	if !isSelect(of.Text) {
		return p, errors.New("a query must be a select")
	}
	p.values = values
	p.description, err = conn.Prepare(ctx, "", of.Text, types)
	return p, err
}

// tickRows is how many rows are read between two ticks.
const tickRows = 1024

// Read pours the rows of one query.
func (v *session) Read(ctx context.Context, q query.Query, to *source.Sink) error {
	of := source.Write(q, dialect{})
	if err := v.guarded(ctx, func() error { return v.pour(ctx, of, to) }); err != nil {
		return fmt.Errorf("dataset %s: %w", of.Dataset.ID, v.server.explain(ctx, err))
	}
	return nil
}

// guarded goes back to before what fails, so that the other queries of the run are still answered:
// the server takes no more within a transaction after a fault.
func (v *session) guarded(ctx context.Context, do func() error) error {
	if _, err := v.conn.Exec(ctx, "savepoint guarded"); err != nil {
		return err
	}
	err := do()
	if err == nil || v.conn.Conn().IsClosed() {
		return err
	}
	after, cancel := context.WithTimeout(context.WithoutCancel(ctx), longestConnect)
	defer cancel()
	if _, back := v.conn.Exec(after, "rollback to savepoint guarded"); back != nil {
		return errors.Join(err, v.server.explain(after, back))
	}
	return err
}

// pour takes the bytes of the protocol as they come: going through Go values of every cell
// costs more than the reading.
func (v *session) pour(ctx context.Context, of source.Statement, to *source.Sink) error {
	conn := v.conn.Conn().PgConn()
	p, err := prepare(ctx, conn, of)
	if err != nil {
		return err
	}
	columns := of.Dataset.Read()
	cells, formats := readers(columns, p.description.Fields)
	within, leave := context.WithCancel(ctx)
	defer leave()
	rows := conn.ExecPrepared(within, "", p.values, nil, formats)
	if err = pourRows(rows, columns, cells, to); err != nil {
		leave() // else all rows that are left would come first
	}
	if _, closing := rows.Close(); err == nil {
		err = closing
	}
	if err != nil {
		return err
	}
	return to.Tick()
}

func pourRows(rows *pgconn.ResultReader, columns []report.Column, cells []cell, to *source.Sink) error {
	for rows.NextRow() {
		for i, value := range rows.Values() {
			if value == nil {
				continue
			}
			if err := cells[i](value, to.Rows, i); err != nil {
				return fmt.Errorf("row %d, column %s: %w", to.Rows.Rows()+1, columns[i].ID, err)
			}
		}
		if err := to.Rows.EndRow(); err != nil {
			return err
		}
		if to.Rows.Rows()%tickRows == 0 {
			if err := to.Tick(); err != nil {
				return err
			}
		}
	}
	return nil
}
