package mariadb

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"database/sql/driver"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"

	"mantilla/source"
)

// Server is a database of a MariaDB server as a source.
type Server struct {
	config *source.Config
	db     *sql.DB
	ending *sql.DB // connections that end queries of others of the same account
}

var _ source.Source = (*Server)(nil)

// longestConnect is how long the making of a connection may take.
const longestConnect = 5 * time.Second

// modes make the server speak as the standard does, and refuse what does not fit instead of
// changing it.
const modes = "'ANSI_QUOTES,PIPES_AS_CONCAT,NO_BACKSLASH_ESCAPES,STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO'"

// Open makes the pool of connections to a server; none is made yet. It fails when the
// password is not among the secrets, or certificates cannot be read.
func Open(config *source.Config, secrets source.Secrets) (*Server, error) {
	on := config.Server
	c := mysql.NewConfig()
	c.User, c.DBName, c.Net = on.User, on.Database, "tcp"
	port := on.Port
	if port == 0 {
		port = 3306
	}
	c.Addr = net.JoinHostPort(on.Host, strconv.Itoa(int(port)))
	var err error
	if on.Password != "" {
		if c.Passwd, err = secrets(on.Password); err != nil {
			return nil, err
		}
	}
	if c.TLS, err = on.TLSConfig(); err != nil {
		return nil, err
	}
	longest, err := on.LongestQuery()
	if err != nil {
		return nil, err
	}
	c.Timeout, c.Collation = longestConnect, "utf8mb4_bin"
	c.Logger = silent{}
	c.Params = map[string]string{"time_zone": "'+00:00'", "sql_mode": modes, "tx_read_only": "1",
		"max_statement_time": strconv.FormatFloat(longest.Seconds(), 'f', 3, 64)}
	connector, err := mysql.NewConnector(c)
	if err != nil {
		return nil, fmt.Errorf("source %s: %w", config.ID, err)
	}
	s := &Server{config: config, db: sql.OpenDB(connector), ending: sql.OpenDB(connector)}
	s.db.SetMaxOpenConns(on.Connections())
	s.db.SetConnMaxIdleTime(2 * time.Minute)
	s.ending.SetMaxOpenConns(2)
	s.ending.SetMaxIdleConns(0)
	return s, nil
}

// silent keeps the driver from writing to the log what its callers are told.
type silent struct{}

// Print says nothing.
func (silent) Print(v ...any) { slog.Debug("of the MariaDB driver", "said", fmt.Sprint(v...)) }

// Close ends all connections.
func (s *Server) Close() error { return errors.Join(s.db.Close(), s.ending.Close()) }

// session is one read-only transaction at the isolation level repeatable read, whose state
// is that of its beginning.
type session struct {
	server      *Server
	conn        *sql.Conn
	id          int64 // of the connection, as the server knows it
	fingerprint string
}

// stateOf is when anything in the tables that the account sees was changed last, and whether
// that is so lately that the second may go on. The engine keeps the second alone.
const stateOf = `select coalesce(max(update_time), '0000'),
	coalesce(max(update_time) >= now() - interval 2 second, false),
	(select variable_value from information_schema.global_status where variable_name = 'UPTIME') div 1
	from information_schema.tables
	where table_schema not in ('information_schema', 'performance_schema', 'mysql', 'sys')`

// Begin begins a transaction.
func (s *Server) Begin(ctx context.Context) (source.Session, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return nil, err
	}
	return v, nil
}

func (s *Server) begin(ctx context.Context) (*session, error) {
	conn, err := s.db.Conn(ctx)
	if err != nil {
		return nil, s.explain(ctx, err)
	}
	v := &session{server: s, conn: conn}
	err = v.start(ctx)
	if err != nil {
		return nil, errors.Join(s.explain(ctx, err), v.Close())
	}
	return v, nil
}

func (v *session) start(ctx context.Context) error {
	if err := confined(ctx, v.conn); err != nil {
		return err
	}
	if err := v.conn.QueryRowContext(ctx, "select connection_id()").Scan(&v.id); err != nil {
		return err
	}
	var err error
	if v.fingerprint, err = v.state(ctx); err != nil {
		return err
	}
	for _, text := range []string{"set transaction isolation level repeatable read",
		"start transaction with consistent snapshot, read only"} {
		if _, err := v.conn.ExecContext(ctx, text); err != nil {
			return err
		}
	}
	return nil
}

// state is the fingerprint of what a transaction sees that begins now: the same as long as
// nothing was changed, and another each time while the last change is so near that more may
// come in the same second.
func (v *session) state(ctx context.Context) (string, error) {
	var changed string
	var lately bool
	var up int64
	if err := v.conn.QueryRowContext(ctx, stateOf).Scan(&changed, &lately, &up); err != nil {
		return "", err
	}
	// What was changed before the server began is not known to it: when that was counts as well.
	began := time.Now().Add(-time.Duration(up) * time.Second).Truncate(10 * time.Second).Unix()
	text := fmt.Sprint(v.server.config.Server.Host, v.server.config.Server.Database, changed, began)
	if lately {
		text += time.Now().String()
	}
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:]), nil
}

// Fingerprint identifies the state that the session reads.
func (v *session) Fingerprint() string { return v.fingerprint }

// Close ends the transaction and gives the connection back, as it was when it was made.
func (v *session) Close() error {
	ctx, cancel := context.WithTimeout(context.Background(), longestConnect)
	defer cancel()
	_, err := v.conn.ExecContext(ctx, "rollback")
	if err == nil {
		_, err = v.conn.ExecContext(ctx, "do release_all_locks()")
	}
	if err != nil { // it is not used again
		_ = v.conn.Raw(func(any) error { return driver.ErrBadConn })
	}
	return errors.Join(ignored(err), v.conn.Close())
}

// ignored is what is no fault at the end of a session: that its connection is gone.
func ignored(err error) error {
	if errors.Is(err, mysql.ErrInvalidConn) || errors.Is(err, sql.ErrConnDone) || errors.Is(err, context.Canceled) {
		return nil
	}
	return err
}

// ends has the server give up the connection's query when a context ends, since the driver
// would break the connection off and the query go on. The query is made within the context
// that it returns, which ends later, where the server does not answer; done is to be called
// when the query is.
func (v *session) ends(ctx context.Context) (within context.Context, done func()) {
	within, breakOff := context.WithCancel(context.WithoutCancel(ctx))
	stop := context.AfterFunc(ctx, func() {
		time.AfterFunc(longestConnect, breakOff)
		asking, cancel := context.WithTimeout(context.Background(), longestConnect)
		defer cancel()
		_, _ = v.server.ending.ExecContext(asking, "kill query "+strconv.FormatInt(v.id, 10)) // it may be done
	})
	return within, func() { stop(); breakOff() }
}

// Fingerprint identifies the present state of the database.
func (s *Server) Fingerprint(ctx context.Context) (string, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return "", err
	}
	return v.fingerprint, v.Close()
}

// explain turns what the server, or the way to it, says into what is wrong with the source.
func (s *Server) explain(ctx context.Context, err error) error {
	var said *mysql.MySQLError
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
	case errors.As(err, &network), errors.Is(err, mysql.ErrInvalidConn), errors.Is(err, io.EOF), errors.Is(err,
		net.ErrClosed):
		return fmt.Errorf("source %s %w: %s", s.config.ID, source.ErrSilent, source.Plainly(err))
	}
	return fmt.Errorf("source %s: %w", s.config.ID, err)
}

// said is an error of the server's own.
func (s *Server) said(e *mysql.MySQLError) error {
	switch e.Number {
	case 1045, 1044:
		return fmt.Errorf("source %s does not let %s in: %s", s.config.ID, s.config.Server.User, e.Message)
	case 1792, 1142, 1143, 1227:
		return fmt.Errorf("source %s may only be read: %s", s.config.ID, e.Message)
	case 1969:
		return fmt.Errorf("source %s: the query took longer than the %s that the source allows", s.config.ID,
			s.config.Server.Longest)
	case 1040, 1053, 1077:
		return fmt.Errorf("source %s %w: %s", s.config.ID, source.ErrSilent, e.Message)
	}
	return fmt.Errorf("source %s: %s", s.config.ID, e.Message)
}

// errMayWrite says that an account could do more than read.
var errMayWrite = errors.New("the account may do more than read")

// ofColumns are the columns that a right is of.
var ofColumns = regexp.MustCompile(`\([^)]*\)`)

var granted = regexp.MustCompile("^GRANT (.+?) (?:ON (.+?) )?TO ")

// reading are the rights that do no more than that.
var reading = []string{"USAGE", "SELECT", "SHOW VIEW", "SHOW DATABASES"}

// confined refuses a connection whose account could do more than read.
func confined(ctx context.Context, conn *sql.Conn) error {
	rows, err := conn.QueryContext(ctx, "show grants")
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var grant string
		if err := rows.Scan(&grant); err != nil {
			return err
		}
		m := granted.FindStringSubmatch(grant)
		if m == nil || m[2] == "" {
			continue // a role, whose own grants follow
		}
		for _, right := range strings.Split(ofColumns.ReplaceAllString(m[1], ""), ",") {
			if name := strings.TrimSpace(right); !slices.Contains(reading, name) {
				return fmt.Errorf("%w: it has %s on %s. %s", errMayWrite, name, m[2], reader)
			}
		}
	}
	return rows.Err()
}

// reader tells how an account is made that may only read.
const reader = "Let the owner of the database make one for it: " +
	"create user reports identified by '...'; grant select, show view on shop.* to reports"
