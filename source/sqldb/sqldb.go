// Package sqldb reads rows and lists from engines that are reached through database/sql: what
// they have in common. An [Engine] says what each does in its own way.
package sqldb

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"time"

	"mantilla/core/query"
	"mantilla/source"
)

// LongestConnect is how long the making of a connection may take, or its end.
const LongestConnect = 5 * time.Second

// Engine is what an engine does in its own way.
type Engine interface {
	// Title is what people call it.
	Title() string
	Dialect() source.Dialect
	// Confined refuses a connection whose account could do more than read.
	Confined(ctx context.Context, conn *sql.Conn) error
	// Start has a connection see one unchanging state from now on, and read only.
	Start(ctx context.Context, conn *sql.Conn) (Begun, error)
	// End makes a connection what it was before it was started, which may have failed; its
	// error is one of a connection that is not used again.
	End(ctx context.Context, conn *sql.Conn, b Begun) error
	// Check finds whether the engine understands a statement, without running it.
	Check(ctx context.Context, conn *sql.Conn, of source.Statement) error
	// Within is the context in which a query is made that is to end with ctx; done is called
	// when the query is done.
	Within(ctx context.Context, b Begun) (within context.Context, done func())
	// Explain turns what the engine itself said into what is wrong with the source; nil where
	// that was not said by the engine.
	Explain(err error) error
	// Asks are the queries by which it tells of itself.
	Asks() Asks
}

// Zoneless is an engine whose driver puts a zone on moments of certain types that have none.
type Zoneless interface {
	// Zoneless tells whether a column of a type, as the driver names it, has no zone.
	Zoneless(databaseType string) bool
}

// Begun is a connection that was started.
type Begun struct {
	Fingerprint string  // of the state that it sees
	Connection  int64   // as the engine knows it, where that is needed to end its queries
	Tx          *sql.Tx // that holds the state, where the driver is to begin it
}

// Asks are the queries by which an engine tells of itself. Each column is read as a text, and
// what is so as 1.
type Asks struct {
	Who     string // version, and the account that it let in, as one text
	Tables  string // name, whether it is a view, rows as the engine reckons them or -1; by name
	Columns string // of the table whose name is bound: name, type, key, required, referenced table
	Nothing string // as little as can be asked
	Clock   string // microseconds since 1970
	// First is the query for the first rows of a table, whose name is written.
	First func(table string, rows int) string
}

// Reckons is an engine that can tell how many rows a query will give.
type Reckons interface {
	// Reckon is told by what the engine answers to texts, which each hands on.
	Reckon(of source.Statement, q query.Query, each Each) (rows int64, err error)
}

// Each runs a select and hands on its rows, as texts; a cell without a value is nil.
type Each func(text string, args []any, visit func(columns []string, row []sql.RawBytes) error) error

// Server is a database as a source.
type Server struct {
	config *source.Config
	engine Engine
	db     *sql.DB
}

var _ source.Source = (*Server)(nil)

// New makes a source of a pool of connections, which it closes.
func New(config *source.Config, engine Engine, db *sql.DB) *Server {
	db.SetMaxOpenConns(config.Server.Connections())
	db.SetConnMaxIdleTime(2 * time.Minute)
	return &Server{config: config, engine: engine, db: db}
}

// Dialect is the engine's.
func (s *Server) Dialect() source.Dialect { return s.engine.Dialect() }

// Engine is none: no results stay there.
func (s *Server) Engine() source.Engine { return nil }

// Rest is how long lists are taken as they were read.
func (s *Server) Rest() time.Duration { return 20 * time.Second }

// Close ends all connections.
func (s *Server) Close() error { return s.db.Close() }

// session is one read-only view of an unchanging state.
type session struct {
	Begun
	server *Server
	conn   *sql.Conn
}

// reckoning is a session of an engine that can reckon.
type reckoning struct {
	*session
	by Reckons
}

// Begin begins a session.
func (s *Server) Begin(ctx context.Context) (source.Session, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return nil, err
	}
	if by, ok := s.engine.(Reckons); ok {
		return reckoning{v, by}, nil
	}
	return v, nil
}

func (s *Server) begin(ctx context.Context) (*session, error) {
	conn, err := s.db.Conn(ctx)
	if err != nil {
		return nil, s.explain(ctx, err)
	}
	v := &session{server: s, conn: conn}
	if err = s.engine.Confined(ctx, conn); err == nil {
		v.Begun, err = s.engine.Start(ctx, conn)
	}
	if err != nil {
		return nil, errors.Join(s.explain(ctx, err), v.Close())
	}
	return v, nil
}

// Fingerprint identifies the state that the session reads.
func (v *session) Fingerprint() string { return v.Begun.Fingerprint }

// Close ends the session and gives the connection back, as it was when it was made.
func (v *session) Close() error {
	ctx, cancel := context.WithTimeout(context.Background(), LongestConnect)
	defer cancel()
	err := v.server.engine.End(ctx, v.conn, v.Begun)
	if err != nil { // it is not used again
		_ = v.conn.Raw(func(any) error { return driver.ErrBadConn })
	}
	return errors.Join(ignored(err), v.conn.Close())
}

// ignored is what is no fault at the end of a session: that its connection is gone.
func ignored(err error) error {
	if Gone(err) || errors.Is(err, sql.ErrConnDone) || errors.Is(err, context.Canceled) {
		return nil
	}
	return err
}

// Gone tells whether an error is one of the way to a server, and not of the server.
func Gone(err error) bool {
	var network net.Error
	return errors.As(err, &network) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, io.EOF) ||
		errors.Is(err, net.ErrClosed)
}

// Fingerprint identifies the present state of the database.
func (s *Server) Fingerprint(ctx context.Context) (string, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return "", err
	}
	return v.Begun.Fingerprint, v.Close()
}

// Reckon asks the engine.
func (v reckoning) Reckon(ctx context.Context, q query.Query) (int64, error) {
	of := source.Write(q, v.server.engine.Dialect())
	rows, err := v.by.Reckon(of, q, func(text string, args []any, visit func([]string, []sql.RawBytes) error) error {
		return v.each(ctx, text, args, visit)
	})
	if err != nil {
		return 0, fmt.Errorf("dataset %s: %w", of.Dataset.ID, v.server.explain(ctx, err))
	}
	return rows, nil
}

// ErrMayWrite says that an account could do more than read.
var ErrMayWrite = errors.New("the account may do more than read")

// explain turns what the server, or the way to it, says into what is wrong with the source.
func (s *Server) explain(ctx context.Context, err error) error {
	switch {
	case err == nil:
		return nil
	case ctx.Err() != nil:
		return context.Cause(ctx)
	case errors.Is(err, errLong):
		return fmt.Errorf("source %s: %w", s.config.ID, err)
	}
	if said := s.engine.Explain(err); said != nil {
		return said
	}
	if Gone(err) {
		return fmt.Errorf("source %s %w: %s", s.config.ID, source.ErrSilent, source.Plainly(err))
	}
	return fmt.Errorf("source %s: %w", s.config.ID, err)
}

// errLong says that a query took too long.
var errLong = errors.New("the query took longer than")

// Timed is the context of a query of an engine that has no limit of its own for how long one may
// take, and gives a query up when its context ends; longest is 0 for no limit.
func Timed(ctx context.Context, longest time.Duration) (within context.Context, done func()) {
	if longest == 0 {
		return ctx, func() {}
	}
	return context.WithTimeoutCause(ctx, longest, fmt.Errorf("%w the %s that the source allows", errLong, longest))
}
