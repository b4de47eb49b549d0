// Package postgres reads rows and lists from PostgreSQL servers: as an account that may
// only read, in read-only transactions that see one state, by the binary protocol.
package postgres

import (
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgtype"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/engine"
)

func init() {
	source.Register(source.Kind{Name: "postgres", Dialect: dialect{}, Keeps: true, Check: source.CheckServer,
		Open: func(c *source.Config, at source.Place) (source.Source, error) { return Open(c, at.Secrets) }})
}

// dialect is PostgreSQL's.
type dialect struct{}

func (dialect) String() string { return "postgres" }

// Dialect is PostgreSQL's.
func (s *Server) Dialect() source.Dialect { return dialect{} }

func (dialect) Quotes() report.Quotes { return `'"` }

// Holds compares without case and accents.
func (dialect) Holds(args *[]any, piece, word string) string {
	*args = append(*args, fold.Text(word))
	return fmt.Sprintf(`strpos(%s, $%d) > 0`, engine.Fold("("+piece+")::text"), len(*args))
}

func (dialect) Name(id string) string { return `"` + strings.ReplaceAll(id, `"`, `""`) + `"` }

// mostBound is how many parameters a statement of the protocol may have, less what stands beside a list.
const mostBound = 65_535 - 1_000

// Bind writes $1. Texts, and whole numbers that are small, take the type that the engine finds
// they should have, so that a code also meets a column of numbers; what is longer than the
// protocol allows is bound as one array of texts.
func (dialect) Bind(args *[]any, value any) string {
	one := func(value any) string {
		*args = append(*args, value)
		return fmt.Sprintf("$%d", len(*args))
	}
	list, ok := value.([]string)
	switch {
	case !ok:
		return one(value)
	case len(list) == 0:
		return "(null)"
	case len(list) > mostBound:
		return "(select unnest(" + one(list) + "::text[]))"
	}
	marks := make([]string, len(list))
	for i, code := range list {
		marks[i] = one(code)
	}
	return "(" + strings.Join(marks, ", ") + ")"
}

// Instant reads a piece as a day, which the engine can use an index for where it is one, or
// as a moment in UTC.
func (dialect) Instant(piece, _ string, moments bool) string {
	if moments {
		return "(" + piece + ")::timestamptz"
	}
	return "(" + piece + ")::date"
}

func (dialect) Limit(count string) string { return "limit " + count }

// bound is the arguments of a statement as the protocol has them: texts, and the types of
// those that the engine is not to find itself.
func bound(args []any) (values [][]byte, types []uint32, err error) {
	for _, arg := range args {
		text, oid := "", uint32(0)
		switch v := arg.(type) {
		case nil:
			values, types = append(values, nil), append(types, 0)
			continue
		case string:
			text = v
		case []string:
			text, oid = array(v), pgtype.TextArrayOID
		case bool:
			text, oid = fmt.Sprint(v), pgtype.BoolOID
		case period.Day:
			text, oid = v.String(), pgtype.DateOID
		case time.Time:
			text, oid = v.UTC().Format("2006-01-02 15:04:05.999999Z07:00"), pgtype.TimestamptzOID
		case frame.Number:
			text, oid = v.String(), numberType(v)
		default:
			return nil, nil, fmt.Errorf("a %T cannot be bound", arg)
		}
		values, types = append(values, []byte(text)), append(types, oid)
	}
	return values, types, nil
}

// numberType is that of a number: numeric where it has places or is large, and whatever the
// engine finds for a small whole one, which may be a count of days or part of a text.
func numberType(n frame.Number) uint32 {
	if n.Scale == 0 && n.Digits.HighBits() == int64(n.Digits.LowBits())>>63 {
		if small := int64(n.Digits.LowBits()); small == int64(int32(small)) {
			return 0
		}
	}
	return pgtype.NumericOID
}

// array writes texts as the engine reads an array.
func array(list []string) string {
	escape := strings.NewReplacer(`\`, `\\`, `"`, `\"`)
	quoted := make([]string, len(list))
	for i, text := range list {
		quoted[i] = `"` + escape.Replace(text) + `"`
	}
	return "{" + strings.Join(quoted, ",") + "}"
}
