// Package mariadb reads rows and lists from MariaDB servers: as an account that may only
// read, in read-only transactions that see one state.
package mariadb

import (
	"fmt"
	"strings"
	"time"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/sqldb"
)

func init() {
	source.Register(source.Kind{Name: "mariadb", Dialect: dialect{}, Check: source.CheckServer,
		Open: func(c *source.Config, at source.Place) (source.Source, error) { return Open(c, at.Secrets) }})
}

// dialect is MariaDB's, with names and joined texts as the standard has them: see [modes].
type dialect struct{}

func (dialect) String() string { return "mariadb" }

func (dialect) Quotes() report.Quotes { return "'\"`" }

// Holds compares without case and accents.
func (dialect) Holds(args *[]any, piece, word string) string {
	*args = append(*args, "%"+liked.Replace(word)+"%")
	return "convert(" + piece + " using utf8mb4) collate utf8mb4_unicode_ci like ? escape '|'"
}

// liked takes their meaning from the marks of like.
var liked = strings.NewReplacer("|", "||", "%", "|%", "_", "|_")

func (dialect) Name(id string) string { return "`" + strings.ReplaceAll(id, "`", "``") + "`" }

// Bind writes ?, with the type where a text would be compared as a number in floating point
// or as a text.
func (dialect) Bind(args *[]any, value any) string {
	one := func(mark string, value any) string {
		*args = append(*args, value)
		return mark
	}
	switch v := value.(type) {
	case []string:
		if len(v) == 0 {
			return "(null)"
		}
		for _, code := range v {
			*args = append(*args, code)
		}
		return "(" + strings.Repeat("?, ", len(v)-1) + "?)"
	case period.Day:
		return one("cast(? as date)", v.String())
	case time.Time:
		return one("cast(? as datetime(6))", v.UTC().Format("2006-01-02 15:04:05.999999"))
	case frame.Number:
		if v.Scale == 0 {
			return one("?", int64(v.Digits.LowBits()))
		}
		return one(fmt.Sprintf("cast(? as decimal(38, %d))", v.Scale), v.String())
	}
	return one("?", value)
}

// Instant reads a piece as a day, or as a moment in UTC.
func (dialect) Instant(piece, _ string, moments bool) string {
	if moments {
		return "cast(" + piece + " as datetime(6))"
	}
	return "cast(" + piece + " as date)"
}

func (dialect) Limit(count string) string { return "limit " + count }

// Asks are the queries by which MariaDB tells of itself.
func (e *engine) Asks() sqldb.Asks {
	return sqldb.Asks{
		Who: "select concat(version(), ' lets ', current_user(), ' in')",
		Tables: `select table_name, table_type <> 'BASE TABLE', coalesce(table_rows, -1)
	from information_schema.tables where table_schema = database() order by table_name`,
		Columns: `select c.column_name, c.column_type, c.column_key = 'PRI', c.is_nullable = 'NO',
	coalesce((select k.referenced_table_name from information_schema.key_column_usage k
		where k.table_schema = c.table_schema
		and k.table_name = c.table_name and k.column_name = c.column_name and k.referenced_table_name is not null limit 1),
			'')
	from information_schema.columns c where c.table_schema = database() and c.table_name = ?
	order by c.ordinal_position`,
		Nothing: "select 1",
		Clock:   "select cast(unix_timestamp(now(6)) * 1000000 as integer)",
		First:   func(table string, rows int) string { return fmt.Sprintf("select * from %s limit %d", table, rows) },
	}
}
