// Package oracle reads rows and lists from Oracle databases: as an account that may only read, in
// read-only transactions. It is written and tested against simulated answers, and was not yet run
// against a real server.
package oracle

import (
	"fmt"
	"strings"
	"time"

	go_ora "github.com/sijms/go-ora/v2"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/sqldb"
)

func init() {
	source.Register(source.Kind{Name: "oracle", Dialect: dialect{}, Check: source.CheckServer,
		Open: func(c *source.Config, at source.Place) (source.Source, error) { return Open(c, at.Secrets) }})
}

// dialect is the SQL of Oracle Database 12.2 and later.
type dialect struct{}

func (dialect) String() string { return "oracle" }

func (dialect) Quotes() report.Quotes { return `'"` }

// Name writes a name; one that has a quotation mark is none there.
func (dialect) Name(id string) string { return `"` + strings.ReplaceAll(id, `"`, "") + `"` }

// liked takes their meaning from the marks of like.
var liked = strings.NewReplacer("|", "||", "%", "|%", "_", "|_")

// Holds compares without case and accents.
func (d dialect) Holds(args *[]any, piece, word string) string {
	return "to_char(" + piece + ") collate binary_ai like " + d.Bind(args, "%"+liked.Replace(word)+"%") + " escape '|'"
}

// Bind writes :1, read as the type where a text stands for something else. What is too long to be
// bound one by one is bound as an array in JSON.
func (dialect) Bind(args *[]any, value any) string {
	one := func(value any) string {
		*args = append(*args, value)
		return fmt.Sprintf(":%d", len(*args))
	}
	switch v := value.(type) {
	case []string:
		return sqldb.List(v, one, func(array string) string {
			return "(select code from json_table(" + one(go_ora.Clob{String: array, Valid: true}) +
				", '$[*]' columns (code varchar2(4000) path '$')))"
		})
	case period.Day:
		return "to_date(" + one(v.String()) + ", 'YYYY-MM-DD')"
	case time.Time:
		return "to_timestamp(" + one(v.UTC().Format("2006-01-02 15:04:05.000000")) + ", 'YYYY-MM-DD HH24:MI:SS.FF6')"
	case frame.Number:
		if v.Scale == 0 {
			return one(int64(v.Digits.LowBits()))
		}
		const most = 38
		model := strings.Repeat("9", most-int(v.Scale)) + "D" + strings.Repeat("9", int(v.Scale))
		return fmt.Sprintf("to_number(%s, '%s', 'NLS_NUMERIC_CHARACTERS=''.,''')", one(v.String()), model)
	case bool: // which the engine has no type for
		if v {
			return one(int64(1))
		}
		return one(int64(0))
	}
	return one(value)
}

// Instant reads a piece as a day, whose time of day the engine's dates have as well, or as a
// moment; one without a zone is in that of the session, UTC.
func (dialect) Instant(piece, _ string, moments bool) string {
	if moments {
		return "sys_extract_utc(cast(" + piece + " as timestamp with time zone))"
	}
	return "trunc(" + piece + ")"
}

func (dialect) Limit(count string) string { return "fetch first " + count + " rows only" }
