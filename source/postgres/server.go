package postgres

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgconn/ctxwatch"
	"github.com/jackc/pgx/v5/pgxpool"

	"mantilla/source"
)

// Server is a database of a PostgreSQL server as a source.
type Server struct {
	config *source.Config
	pool   *pgxpool.Pool
	keeps  *keeps // where results may stay; nil for nowhere
}

var _ source.Source = (*Server)(nil)

// longestConnect is how long the making of a connection may take.
const longestConnect = 5 * time.Second

// Open makes the pool of connections to a server; none is made yet. It fails when the
// password is not among the secrets, or certificates cannot be read.
func Open(config *source.Config, secrets source.Secrets) (*Server, error) {
	pool, err := connect(config, config.Server.User, config.Server.Password, secrets, confined)
	if err != nil {
		return nil, err
	}
	s := &Server{config: config, pool: pool}
	if config.Keeps != nil {
		if s.keeps, err = s.openKeeps(secrets); err != nil {
			pool.Close()
			return nil, err
		}
	}
	return s, nil
}

// connect makes the pool of an account's connections, each of which is confined first.
func connect(config *source.Config, user, password string, secrets source.Secrets,
	confined func(context.Context, *pgx.Conn) error) (*pgxpool.Pool, error) {
	on := config.Server
	c, err := pgxpool.ParseConfig("host=localhost user=nobody database=nothing sslmode=disable")
	if err != nil {
		return nil, err
	}
	to := c.ConnConfig
	to.Host, to.Port, to.Database, to.User, to.Password = on.Host, on.Port, on.Database, user, ""
	if to.Port == 0 {
		to.Port = 5432
	}
	if password != "" {
		if to.Password, err = secrets(password); err != nil {
			return nil, err
		}
	}
	if to.TLSConfig, err = on.TLSConfig(); err != nil {
		return nil, err
	}
	to.Fallbacks, to.ConnectTimeout = nil, longestConnect
	// Nothing is prepared for later: what a session leaves is discarded.
	to.DefaultQueryExecMode, to.StatementCacheCapacity, to.DescriptionCacheCapacity = pgx.QueryExecModeExec, 0, 0
	to.RuntimeParams = map[string]string{"application_name": "mantilla " + config.ID, "timezone": "UTC",
		"datestyle": "ISO, YMD", "intervalstyle": "iso_8601", "bytea_output": "hex", "extra_float_digits": "1",
		"default_transaction_read_only": "on", "client_encoding": "UTF8", "standard_conforming_strings": "on",
		"idle_in_transaction_session_timeout": "0"}
	longest, err := on.LongestQuery()
	if err != nil {
		return nil, err
	}
	to.RuntimeParams["statement_timeout"] = strconv.FormatInt(longest.Milliseconds(), 10)
	if len(on.Schemas) > 0 {
		to.RuntimeParams["search_path"] = quotedNames(on.Schemas)
	}
	// The end of a context reaches the server, which gives up the query; only where it does not
	// answer is the connection broken off.
	to.BuildContextWatcherHandler = func(conn *pgconn.PgConn) ctxwatch.Handler {
		return &pgconn.CancelRequestContextWatcherHandler{Conn: conn, DeadlineDelay: longestConnect}
	}
	c.MaxConns, c.MinConns = int32(on.Connections()), 0
	c.MaxConnIdleTime, c.HealthCheckPeriod = 2*time.Minute, time.Minute
	c.AfterConnect = confined
	// What a definition's SQL changed about its session is not left to the next.
	c.AfterRelease = func(conn *pgx.Conn) bool {
		ctx, cancel := context.WithTimeout(context.Background(), longestConnect)
		defer cancel()
		_, err := conn.PgConn().Exec(ctx, "discard all").ReadAll()
		return err == nil
	}
	pool, err := pgxpool.NewWithConfig(context.Background(), c)
	if err != nil {
		return nil, fmt.Errorf("source %s: %w", config.ID, err)
	}
	return pool, nil
}

func quotedNames(names []string) string {
	quoted := make([]string, len(names))
	for i, n := range names {
		quoted[i] = dialect{}.Name(n)
	}
	return strings.Join(quoted, ", ")
}

// Close ends all connections.
func (s *Server) Close() error {
	s.pool.Close()
	if s.keeps != nil {
		s.keeps.pool.Close()
	}
	return nil
}

// conn runs use with a connection in a read-only transaction that sees one state.
func (s *Server) conn(ctx context.Context, use func(*pgx.Conn) error) error {
	v, err := s.begin(ctx)
	if err != nil {
		return err
	}
	return errors.Join(s.explain(ctx, use(v.conn.Conn())), v.Close())
}

// explain turns what the server, or the way to it, says into what is wrong with the source.
func (s *Server) explain(ctx context.Context, err error) error {
	var said *pgconn.PgError
	var unconnected *pgconn.ConnectError
	var network net.Error
	switch {
	case err == nil:
		return nil
	case ctx.Err() != nil:
		return context.Cause(ctx)
	case errors.As(err, &said):
		return s.said(said)
	case errors.Is(err, errMayWrite):
		return fmt.Errorf("source %s: %w", s.config.ID, err)
	case errors.As(err, &unconnected), errors.As(err, &network), pgconn.Timeout(err), errors.Is(err, io.EOF),
		errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, net.ErrClosed):
		return fmt.Errorf("source %s %w: %s", s.config.ID, source.ErrSilent, source.Plainly(err))
	}
	return fmt.Errorf("source %s: %w", s.config.ID, err)
}

// said is an error of the server's own.
func (s *Server) said(e *pgconn.PgError) error {
	if e.Code == "57014" && s.config.Server.Longest == "" { // somebody else ended it
		return fmt.Errorf("source %s: %s", s.config.ID, e.Message)
	}
	switch e.Code {
	case "28P01", "28000":
		return fmt.Errorf("source %s does not let %s in: %s", s.config.ID, s.config.Server.User, e.Message)
	case "3D000":
		return fmt.Errorf("source %s: %s", s.config.ID, e.Message)
	case "25006":
		return fmt.Errorf("source %s may only be read: %s", s.config.ID, e.Message)
	case "42501":
		return fmt.Errorf("source %s: %s; give the account the right to read it", s.config.ID, e.Message)
	case "57014":
		return fmt.Errorf("source %s: the query took longer than the %s that the source allows", s.config.ID,
			s.config.Server.Longest)
	case "53300", "57P03", "57P01", "57P02":
		return fmt.Errorf("source %s %w: %s", s.config.ID, source.ErrSilent, e.Message)
	}
	return fmt.Errorf("source %s: %w", s.config.ID, &fault{e})
}

// fault is what the server does not understand, in its words.
type fault struct{ said *pgconn.PgError }

var hinted = regexp.MustCompile(`^Perhaps you meant to reference the (?:column|table) "([^"]+)"\.?$`)

func (f *fault) Error() string {
	text := f.said.Message
	if m := hinted.FindStringSubmatch(f.said.Hint); m != nil {
		text += "; did you mean " + m[1] + "?"
	} else if f.said.Hint != "" {
		text += "; " + f.said.Hint
	}
	return text
}
