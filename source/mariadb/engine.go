package mariadb

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"

	"mantilla/source"
	"mantilla/source/sqldb"
)

// engine is MariaDB as a server of it is used.
type engine struct {
	config *source.Config
	ending *sql.DB // connections that end queries of others of the same account
}

var _ sqldb.Reckons = (*engine)(nil)

// modes make the server speak as the standard does, and refuse what does not fit instead of
// changing it.
const modes = "'ANSI_QUOTES,PIPES_AS_CONCAT,NO_BACKSLASH_ESCAPES,STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO'"

// Open makes the pool of connections to a server; none is made yet. It fails when the
// password is not among the secrets, or certificates cannot be read.
func Open(config *source.Config, secrets source.Secrets) (source.Source, error) {
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
	c.Timeout, c.Collation = sqldb.LongestConnect, "utf8mb4_bin"
	c.Logger = silent{}
	c.Params = map[string]string{"time_zone": "'+00:00'", "sql_mode": modes, "tx_read_only": "1",
		"max_statement_time": strconv.FormatFloat(longest.Seconds(), 'f', 3, 64)}
	connector, err := mysql.NewConnector(c)
	if err != nil {
		return nil, fmt.Errorf("source %s: %w", config.ID, err)
	}
	e := &engine{config: config, ending: sql.OpenDB(connector)}
	e.ending.SetMaxOpenConns(2)
	e.ending.SetMaxIdleConns(0)
	return server{sqldb.New(config, e, sql.OpenDB(connector)), e.ending}, nil
}

// server is a database with the connections by which its queries are ended.
type server struct {
	*sqldb.Server
	ending *sql.DB
}

// Close ends all connections.
func (s server) Close() error { return errors.Join(s.Server.Close(), s.ending.Close()) }

// Title is what people call the engine.
func (e *engine) Title() string { return "MariaDB" }

// Dialect is MariaDB's.
func (e *engine) Dialect() source.Dialect { return dialect{} }

// silent keeps the driver from writing to the log what its callers are told.
type silent struct{}

// Print says nothing.
func (silent) Print(v ...any) { slog.Debug("of the MariaDB driver", "said", fmt.Sprint(v...)) }

// stateOf is when anything in the tables that the account sees was changed last, and whether
// that is so lately that the second may go on. The engine keeps the second alone.
const stateOf = `select coalesce(max(update_time), '0000'),
	coalesce(max(update_time) >= now() - interval 2 second, false),
	(select variable_value from information_schema.global_status where variable_name = 'UPTIME') div 1
	from information_schema.tables
	where table_schema not in ('information_schema', 'performance_schema', 'mysql', 'sys')`

// Start begins a read-only transaction at the isolation level repeatable read, whose state is that
// of its beginning.
func (e *engine) Start(ctx context.Context, conn *sql.Conn) (b sqldb.Begun, err error) {
	if err := conn.QueryRowContext(ctx, "select connection_id()").Scan(&b.Connection); err != nil {
		return b, err
	}
	if b.Fingerprint, err = e.state(ctx, conn); err != nil {
		return b, err
	}
	for _, text := range []string{"set transaction isolation level repeatable read",
		"start transaction with consistent snapshot, read only"} {
		if _, err := conn.ExecContext(ctx, text); err != nil {
			return b, err
		}
	}
	return b, nil
}

// state is the fingerprint of what a transaction sees that begins now: the same as long as
// nothing was changed, and another each time while the last change is so near that more may
// come in the same second.
func (e *engine) state(ctx context.Context, conn *sql.Conn) (string, error) {
	var changed string
	var lately bool
	var up int64
	if err := conn.QueryRowContext(ctx, stateOf).Scan(&changed, &lately, &up); err != nil {
		return "", err
	}
	// What was changed before the server began is not known to it: when that was counts as well.
	began := time.Now().Add(-time.Duration(up) * time.Second).Truncate(10 * time.Second).Unix()
	text := fmt.Sprint(e.config.Server.Host, e.config.Server.Database, changed, began)
	if lately {
		text += time.Now().String()
	}
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:]), nil
}

// End ends the transaction, and gives back what locks it took.
func (e *engine) End(ctx context.Context, conn *sql.Conn, _ sqldb.Begun) error {
	if _, err := conn.ExecContext(ctx, "rollback"); err != nil {
		return err
	}
	_, err := conn.ExecContext(ctx, "do release_all_locks()")
	return err
}

// Check has the server prepare a statement.
func (e *engine) Check(ctx context.Context, conn *sql.Conn, of source.Statement) error {
	stmt, err := conn.PrepareContext(ctx, of.Text)
	if err != nil {
		return err
	}
	return stmt.Close()
}

// Within has the server give up the connection's query when a context ends, since the driver
// would break the connection off and the query go on. The query is made within the context
// that it returns, which ends later, where the server does not answer.
func (e *engine) Within(ctx context.Context, b sqldb.Begun) (within context.Context, done func()) {
	within, breakOff := context.WithCancel(context.WithoutCancel(ctx))
	stop := context.AfterFunc(ctx, func() {
		time.AfterFunc(sqldb.LongestConnect, breakOff)
		asking, cancel := context.WithTimeout(context.Background(), sqldb.LongestConnect)
		defer cancel()
		_, _ = e.ending.ExecContext(asking, "kill query "+strconv.FormatInt(b.Connection, 10)) // it may be done
	})
	return within, func() { stop(); breakOff() }
}

// Explain turns what the server says into what is wrong with the source.
func (e *engine) Explain(err error) error {
	var said *mysql.MySQLError
	switch {
	case errors.As(err, &said):
		return e.said(said)
	case errors.Is(err, mysql.ErrInvalidConn):
		return fmt.Errorf("source %s %w: %s", e.config.ID, source.ErrSilent, source.Plainly(err))
	}
	return nil
}

// said is an error of the server's own.
func (e *engine) said(by *mysql.MySQLError) error {
	switch by.Number {
	case 1045, 1044:
		return fmt.Errorf("source %s does not let %s in: %s", e.config.ID, e.config.Server.User, by.Message)
	case 1792, 1142, 1143, 1227:
		return fmt.Errorf("source %s may only be read: %s", e.config.ID, by.Message)
	case 1969:
		return fmt.Errorf("source %s: the query took longer than the %s that the source allows", e.config.ID,
			e.config.Server.Longest)
	case 1040, 1053, 1077:
		return fmt.Errorf("source %s %w: %s", e.config.ID, source.ErrSilent, by.Message)
	}
	return fmt.Errorf("source %s: %s", e.config.ID, by.Message)
}

// ofColumns are the columns that a right is of.
var ofColumns = regexp.MustCompile(`\([^)]*\)`)

var granted = regexp.MustCompile("^GRANT (.+?) (?:ON (.+?) )?TO ")

// reading are the rights that do no more than that.
var reading = []string{"USAGE", "SELECT", "SHOW VIEW", "SHOW DATABASES"}

// Confined refuses a connection whose account could do more than read.
func (e *engine) Confined(ctx context.Context, conn *sql.Conn) error {
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
				return fmt.Errorf("%w: it has %s on %s. %s", sqldb.ErrMayWrite, name, m[2], reader)
			}
		}
	}
	return rows.Err()
}

// reader tells how an account is made that may only read.
const reader = "Let the owner of the database make one for it: " +
	"create user reports identified by '...'; grant select, show view on shop.* to reports"
