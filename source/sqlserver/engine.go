package sqlserver

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net"
	"net/url"
	"strconv"
	"strings"
	"time"

	mssql "github.com/microsoft/go-mssqldb"
	"github.com/microsoft/go-mssqldb/msdsn"

	"mantilla/source"
	"mantilla/source/sqldb"
)

// engine is SQL Server as a database of it is used.
type engine struct {
	config  *source.Config
	longest time.Duration
}

var _ sqldb.Engine = (*engine)(nil)

// Open makes the pool of connections to a server; none is made yet. It fails when the
// password is not among the secrets, or certificates cannot be read.
func Open(config *source.Config, secrets source.Secrets) (source.Source, error) {
	on := config.Server
	user := url.User(on.User)
	if on.Password != "" {
		password, err := secrets(on.Password)
		if err != nil {
			return nil, err
		}
		user = url.UserPassword(on.User, password)
	}
	port := on.Port
	if port == 0 {
		port = 1433
	}
	at := url.URL{Scheme: "sqlserver", User: user, Host: net.JoinHostPort(on.Host, strconv.Itoa(int(port))),
		RawQuery: url.Values{"database": {on.Database}, "app name": {"mantilla"}, "encrypt": {"disable"},
			"applicationintent": {"ReadOnly"}}.Encode()}
	c, err := msdsn.Parse(at.String())
	if err != nil {
		return nil, fmt.Errorf("source %s: its server cannot be spoken to: %s", config.ID, source.Plainly(err))
	}
	if c.TLSConfig, err = on.TLSConfig(); err != nil {
		return nil, err
	}
	if c.TLSConfig != nil {
		c.Encryption = msdsn.EncryptionRequired
	}
	c.DialTimeout = sqldb.LongestConnect
	return over(config, sql.OpenDB(mssql.NewConnectorConfig(c)))
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
func (e *engine) Title() string { return "SQL Server" }

// Dialect is Transact-SQL.
func (e *engine) Dialect() source.Dialect { return dialect{} }

// mayMore are what an account may beyond reading: of the database, of its objects, and by its
// place on the server.
const mayMore = `select permission_name + ' in the database' from fn_my_permissions(null, 'DATABASE')
where permission_name not in ('CONNECT', 'SELECT', 'SHOWPLAN') and permission_name not like 'VIEW %'
union all
select p.permission_name + ' on ' + o.name
from sys.objects o cross apply fn_my_permissions(quotename(schema_name(o.schema_id)) + '.' + quotename(o.name),
	'OBJECT') p
where o.is_ms_shipped = 0 and p.subentity_name = '' and p.permission_name not in ('SELECT', 'REFERENCES')
and p.permission_name not like 'VIEW %' and not (p.permission_name = 'EXECUTE' and o.type in ('FN', 'FS'))
union all
select 'everything, as a member of sysadmin,' where is_srvrolemember('sysadmin') = 1`

// Confined refuses a connection whose account could do more than read.
func (e *engine) Confined(ctx context.Context, conn *sql.Conn) error {
	return sqldb.Confine(ctx, conn, mayMore, reader)
}

// reader tells how an account is made that may only read.
const reader = "Let the owner of the database make one for it: create login reports with password = '...'; " +
	"create user reports for login reports; grant select on schema::dbo to reports"

// Start begins a transaction at the isolation level snapshot. The engine keeps nothing that tells
// whether anything was written since, so that every state counts as another.
func (e *engine) Start(ctx context.Context, conn *sql.Conn) (b sqldb.Begun, err error) {
	b.Fingerprint = time.Now().UTC().Format(time.RFC3339Nano)
	b.Tx, err = conn.BeginTx(context.WithoutCancel(ctx), &sql.TxOptions{Isolation: sql.LevelSnapshot})
	return b, err
}

// End ends the transaction.
func (e *engine) End(_ context.Context, _ *sql.Conn, b sqldb.Begun) error {
	if b.Tx == nil {
		return nil
	}
	return b.Tx.Rollback()
}

// Check has the server describe what a statement would give.
func (e *engine) Check(ctx context.Context, conn *sql.Conn, of source.Statement) error {
	var declared []string
	for i, value := range of.Args {
		declared = append(declared, fmt.Sprintf("@p%d %s", i+1, typeOf(value)))
	}
	rows, err := conn.QueryContext(ctx, "exec sp_describe_first_result_set @p1, @p2", of.Text,
		strings.Join(declared, ", "))
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() { // what the columns are is not asked
		continue
	}
	return rows.Err()
}

// Within is the query's own time; the driver tells the server when it is over.
func (e *engine) Within(ctx context.Context, _ sqldb.Begun) (context.Context, func()) {
	return sqldb.Timed(ctx, e.longest)
}

// Explain turns what the server says into what is wrong with the source.
func (e *engine) Explain(err error) error {
	var said mssql.Error
	if !errors.As(err, &said) {
		return nil
	}
	switch said.Number {
	case 18456, 4060, 916:
		return fmt.Errorf("source %s does not let %s in: %s", e.config.ID, e.config.Server.User, said.Message)
	case 229, 230, 262, 297, 300, 3906:
		return fmt.Errorf("source %s may only be read: %s", e.config.ID, said.Message)
	case 3952:
		return fmt.Errorf("source %s shows no unchanging state to the queries of a run; let the owner of the database "+
			"run: alter database %s set allow_snapshot_isolation on", e.config.ID, dialect{}.Name(e.config.Server.Database))
	}
	return fmt.Errorf("source %s: %s", e.config.ID, said.Message)
}

// Asks are the queries by which SQL Server tells of itself: of the tables in the account's own
// schema and in dbo.
func (e *engine) Asks() sqldb.Asks {
	return sqldb.Asks{
		Who: "select cast(serverproperty('ProductVersion') as nvarchar(128)) + ' lets ' + suser_sname() + ' in'",
		Tables: `select o.name, case when o.type = 'V' then 1 else 0 end,
	coalesce((select sum(p.rows) from sys.partitions p where p.object_id = o.object_id and p.index_id in (0, 1)), -1)
	from sys.objects o
	where o.type in ('U', 'V') and o.is_ms_shipped = 0 and schema_name(o.schema_id) in (schema_name(),
		'dbo') order by o.name`,
		Columns: `select c.name, type_name(c.user_type_id),
	case when exists (select 1 from sys.indexes i
		join sys.index_columns k on k.object_id = i.object_id and k.index_id = i.index_id
		where i.is_primary_key = 1 and i.object_id = c.object_id and k.column_id = c.column_id) then 1 else 0 end,
	case when c.is_nullable = 0 then 1 else 0 end,
	coalesce((select top 1 object_name(f.referenced_object_id) from sys.foreign_key_columns f
		where f.parent_object_id = c.object_id and f.parent_column_id = c.column_id), '')
	from sys.columns c where c.object_id = object_id(quotename(@p1)) order by c.column_id`,
		Nothing: "select 1",
		Clock:   "select datediff_big(microsecond, '1970-01-01', sysutcdatetime())",
		First:   func(table string, rows int) string { return fmt.Sprintf("select top (%d) * from %s", rows, table) },
	}
}
