package oracle

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	go_ora "github.com/sijms/go-ora/v2"
	"github.com/sijms/go-ora/v2/network"

	"mantilla/source"
	"mantilla/source/sqldb"
)

// engine is Oracle as a database of it is used.
type engine struct {
	config  *source.Config
	longest time.Duration
}

var (
	_ sqldb.Engine   = (*engine)(nil)
	_ sqldb.Zoneless = (*engine)(nil)
)

// Open makes the pool of connections to a server, whose database is the name of a service; none
// is made yet. It fails when the password is not among the secrets, or certificates cannot be
// read.
func Open(config *source.Config, secrets source.Secrets) (source.Source, error) {
	on := config.Server
	password := ""
	if on.Password != "" {
		var err error
		if password, err = secrets(on.Password); err != nil {
			return nil, err
		}
	}
	speaks, err := on.TLSConfig()
	if err != nil {
		return nil, err
	}
	port, options := int(on.Port), map[string]string{"CONNECTION TIMEOUT": fmt.Sprint(sqldb.LongestConnect.Seconds())}
	if port == 0 {
		port = 1521
	}
	if speaks != nil {
		options["SSL"], options["SSL VERIFY"] = "true", "true"
	}
	at := go_ora.BuildUrl(on.Host, port, on.Database, on.User, password, options)
	connector, ok := go_ora.NewConnector(at).(*go_ora.OracleConnector)
	if !ok {
		return nil, errors.New("the driver of Oracle has another connector")
	}
	if speaks != nil {
		connector.WithTLSConfig(speaks)
	}
	return over(config, sql.OpenDB(connector))
}

// over makes a source of a pool.
func over(config *source.Config, db *sql.DB) (source.Source, error) {
	longest, err := config.Server.LongestQuery()
	if err != nil {
		return nil, err
	}
	return sqldb.New(config, &engine{config, longest}, db), nil
}

// Title is what people call the engine.
func (e *engine) Title() string { return "Oracle" }

// Dialect is Oracle's.
func (e *engine) Dialect() source.Dialect { return dialect{} }

// mayMore are what an account may beyond reading: by itself, by its roles, and of what it owns.
const mayMore = `select privilege from session_privs
where privilege not in ('CREATE SESSION', 'ALTER SESSION', 'SET CONTAINER', 'SELECT ANY TABLE', 'READ ANY TABLE',
	'SELECT ANY DICTIONARY', 'SELECT ANY SEQUENCE')
union all
select privilege || ' on ' || table_name from user_tab_privs_recd where privilege not in ('SELECT', 'READ')
union all
select privilege || ' on ' || table_name from role_tab_privs
where role in (select role from session_roles) and privilege not in ('SELECT', 'READ')
union all
select 'as its own ' || object_name from user_objects
where object_type in ('TABLE', 'PROCEDURE', 'FUNCTION', 'PACKAGE')`

// Confined refuses a connection whose account could do more than read.
func (e *engine) Confined(ctx context.Context, conn *sql.Conn) error {
	return sqldb.Confine(ctx, conn, mayMore, reader)
}

// reader tells how an account is made that may only read.
const reader = "Let the owner of the tables make one for it: create user reports identified by \"...\"; " +
	"grant create session to reports; grant read on sale to reports"

// Start begins a read-only transaction, whose queries all see the state of its beginning, in UTC
// and in the schema that is declared. The engine keeps nothing that tells cheaply whether anything
// was written since, so that every state counts as another.
func (e *engine) Start(ctx context.Context, conn *sql.Conn) (b sqldb.Begun, err error) {
	b.Fingerprint = time.Now().UTC().Format(time.RFC3339Nano)
	before := []string{"alter session set time_zone = '+00:00'"}
	if schemas := e.config.Server.Schemas; len(schemas) > 0 {
		before = append(before, "alter session set current_schema = "+dialect{}.Name(strings.ToUpper(schemas[0])))
	}
	for _, text := range before {
		if _, err := conn.ExecContext(ctx, text); err != nil {
			return b, err
		}
	}
	if b.Tx, err = conn.BeginTx(context.WithoutCancel(ctx), nil); err != nil {
		return b, err
	}
	_, err = conn.ExecContext(ctx, "set transaction read only")
	return b, err
}

// End ends the transaction.
func (e *engine) End(_ context.Context, _ *sql.Conn, b sqldb.Begun) error {
	if b.Tx == nil {
		return nil
	}
	return b.Tx.Rollback()
}

// parsing has the server parse a query, which it does not run.
const parsing = `declare
  cursor_of integer := dbms_sql.open_cursor;
begin
  dbms_sql.parse(cursor_of, :1, dbms_sql.native);
  dbms_sql.close_cursor(cursor_of);
exception when others then
  dbms_sql.close_cursor(cursor_of);
  raise;
end;`

// Check has the server parse a statement.
func (e *engine) Check(ctx context.Context, conn *sql.Conn, of source.Statement) error {
	_, err := conn.ExecContext(ctx, parsing, of.Text)
	return err
}

// Within is the query's own time; the driver tells the server when it is over.
func (e *engine) Within(ctx context.Context, _ sqldb.Begun) (context.Context, func()) {
	return sqldb.Timed(ctx, e.longest)
}

// Zoneless are dates and timestamps without a zone, which the driver puts into that of the server.
func (e *engine) Zoneless(databaseType string) bool {
	return databaseType == "DATE" || databaseType == "TIMESTAMP" || databaseType == "TimeStampDTY"
}

// Explain turns what the server says into what is wrong with the source.
func (e *engine) Explain(err error) error {
	var said *network.OracleError
	if !errors.As(err, &said) {
		return nil
	}
	switch said.ErrCode {
	case 1017, 1045, 28000, 28001:
		return fmt.Errorf("source %s does not let %s in: %s", e.config.ID, e.config.Server.User, said.ErrMsg)
	case 1031, 1456, 16000, 41900:
		return fmt.Errorf("source %s may only be read: %s", e.config.ID, said.ErrMsg)
	case 1033, 1034, 1089, 3113, 3135, 12514, 12541:
		return fmt.Errorf("source %s %w: %s", e.config.ID, source.ErrSilent, said.ErrMsg)
	case 1555:
		return fmt.Errorf("source %s no longer has the state that the run began with; let the run be shorter, or the owner "+
			"of the database keep more of what was (undo_retention): %s", e.config.ID, said.ErrMsg)
	}
	return fmt.Errorf("source %s: %s", e.config.ID, said.ErrMsg)
}

// Asks are the queries by which Oracle tells of itself: of the tables in the session's schema.
func (e *engine) Asks() sqldb.Asks {
	const here = "sys_context('userenv', 'current_schema')"
	return sqldb.Asks{
		Who: "select version || ' lets ' || user || ' in' from product_component_version where rownum = 1",
		Tables: `select table_name, 0, coalesce(num_rows, -1) from all_tables where owner = ` + here + `
	union all select view_name, 1, -1 from all_views where owner = ` + here + ` order by 1`,
		Columns: `select c.column_name, c.data_type, case when exists (select 1 from all_constraints p
		join all_cons_columns k on k.owner = p.owner and k.constraint_name = p.constraint_name
		where p.constraint_type = 'P' and p.owner = c.owner and p.table_name = c.table_name and k.column_name = c.column_name)
		then 1 else 0 end, case when c.nullable = 'N' then 1 else 0 end,
	(select max(r.table_name) from all_constraints f
		join all_cons_columns k on k.owner = f.owner and k.constraint_name = f.constraint_name
		join all_constraints r on r.owner = f.r_owner and r.constraint_name = f.r_constraint_name
		where f.constraint_type = 'R' and f.owner = c.owner and f.table_name = c.table_name and k.column_name = c.column_name)
	from all_tab_columns c where c.owner = ` + here + ` and c.table_name = :1 order by c.column_id`,
		Nothing: "select 1 from dual",
		Clock: `select to_char(round((cast(sys_extract_utc(systimestamp) as date) - date '1970-01-01') * 86400) * 1000000,
	'fm99999999999999999999') from dual`,
		First: func(table string, rows int) string {
			return fmt.Sprintf("select * from %s fetch first %d rows only", table, rows)
		},
	}
}
