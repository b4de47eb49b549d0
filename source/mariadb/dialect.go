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
)

func init() {
	source.Register(source.Kind{Name: "mariadb", Dialect: dialect{}, Check: source.CheckServer,
		Open: func(c *source.Config, at source.Place) (source.Source, error) { return Open(c, at.Secrets) }})
}

// dialect is MariaDB's, with names and joined texts as the standard has them: see [modes].
type dialect struct{}

func (dialect) String() string { return "mariadb" }

// Dialect is MariaDB's.
func (s *Server) Dialect() source.Dialect { return dialect{} }

// Engine is none: no results stay there.
func (s *Server) Engine() source.Engine { return nil }

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
