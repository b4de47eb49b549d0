package postgres

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"
)

// errMayWrite says that an account could do more than read.
var errMayWrite = errors.New("the account may do more than read")

// powers are the questions whether an account could do more than read, each answered by what
// it could do; "" where it cannot.
var powers = []string{
	`select case when rolsuper then 'it is a superuser' when rolreplication then 'it may replicate' else '' end
		from pg_roles where rolname = current_user`,
	`select coalesce((select 'it is a member of ' || r.rolname from pg_roles r where r.rolname in ('pg_write_all_data',
		'pg_write_server_files', 'pg_read_server_files', 'pg_execute_server_program', 'pg_signal_backend')
		and pg_has_role(current_user, r.oid, 'usage') order by 1 limit 1), '')`,
	`select coalesce((select 'it may change ' || c.oid::regclass
		from pg_class c join pg_namespace n on n.oid = c.relnamespace
		where c.relkind in ('r', 'p', 'v', 'm', 'f') and n.nspname not in ('pg_catalog', 'information_schema')
		and n.nspname not like 'pg\_%' and has_schema_privilege(n.oid, 'usage')
		and has_table_privilege(c.oid, 'insert, update, delete, truncate') order by 1 limit 1), '')`,
}

// confined refuses a connection whose account could do more than read. Beside that every
// transaction is read-only: what is refused here is what goes around that, such as functions
// which end the work of others or write files, and what a slip of the server's owner would
// allow.
func confined(ctx context.Context, conn *pgx.Conn) error { return without(ctx, conn, powers, reader) }

// without refuses a connection whose account has one of some powers, and tells the mend.
func without(ctx context.Context, conn *pgx.Conn, powers []string, mend string) error {
	for _, ask := range powers {
		var could string
		if err := conn.QueryRow(ctx, ask).Scan(&could); err != nil {
			return err
		}
		if could != "" {
			return fmt.Errorf("%w: %s. %s", errMayWrite, could, mend)
		}
	}
	return nil
}

// reader tells how an account is made that may only read.
const reader = "Let the owner of the database make one for it: " +
	"create role reports login password '...'; grant usage on schema public to reports; " +
	"grant select on all tables in schema public to reports"

// isSelect tells whether a text can only be a query that gives rows: every statement that is
// written here begins with select, and the protocol takes one statement alone.
func isSelect(text string) bool { return strings.HasPrefix(strings.TrimSpace(text), "select") }
