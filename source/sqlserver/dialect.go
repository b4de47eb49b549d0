// Package sqlserver reads rows and lists from databases of Microsoft SQL Server: as an account
// that may only read, in transactions at the isolation level snapshot. It is written and tested
// against simulated answers, and was not yet run against a real server.
package sqlserver

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
	source.Register(source.Kind{Name: "sqlserver", Dialect: dialect{}, Check: source.CheckServer,
		Open: func(c *source.Config, at source.Place) (source.Source, error) { return Open(c, at.Secrets) }})
}

// dialect is Transact-SQL of SQL Server 2016 and later.
type dialect struct{}

func (dialect) String() string { return "sqlserver" }

func (dialect) Quotes() report.Quotes { return `'"[` }

func (dialect) Name(id string) string { return "[" + strings.ReplaceAll(id, "]", "]]") + "]" }

// liked takes their meaning from the marks of like.
var liked = strings.NewReplacer("|", "||", "%", "|%", "_", "|_", "[", "|[")

// Holds compares without case and accents.
func (d dialect) Holds(args *[]any, piece, word string) string {
	return "cast(" + piece + " as nvarchar(4000)) collate Latin1_General_100_CI_AI like " +
		d.Bind(args, "%"+liked.Replace(word)+"%") + " escape '|'"
}

// Bind writes @p1, with the type where a text stands for something else. What is too long to be
// bound one by one is bound as an array in JSON.
func (dialect) Bind(args *[]any, value any) string {
	one := func(value any) string {
		*args = append(*args, value)
		return fmt.Sprintf("@p%d", len(*args))
	}
	switch v := value.(type) {
	case []string:
		return sqldb.List(v, one, func(array string) string {
			return "(select code from openjson(" + one(array) + ") with (code nvarchar(4000) '$'))"
		})
	case period.Day:
		return "cast(" + one(v.String()) + " as date)"
	case time.Time:
		return "cast(" + one(v.UTC().Format("2006-01-02T15:04:05.999999Z")) + " as datetimeoffset(6))"
	case frame.Number:
		if v.Scale == 0 {
			return one(int64(v.Digits.LowBits()))
		}
		return fmt.Sprintf("cast(%s as decimal(38, %d))", one(v.String()), v.Scale)
	}
	return one(value)
}

// Instant reads a piece as a day, or as a moment; one without an offset is in UTC.
func (dialect) Instant(piece, _ string, moments bool) string {
	if moments {
		return "cast(" + piece + " as datetimeoffset(6))"
	}
	return "cast(" + piece + " as date)"
}

func (dialect) Limit(count string) string { return "offset 0 rows fetch next " + count + " rows only" }

// typeOf is how a parameter that is bound to a value is declared.
func typeOf(value any) string {
	switch value.(type) {
	case int64:
		return "bigint"
	case bool:
		return "bit"
	}
	return "nvarchar(max)"
}
