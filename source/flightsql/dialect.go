// Package flightsql reads rows and lists from servers that speak Arrow Flight SQL: batches of
// columns are taken as they come. A server has to say of itself that it can only be read, and
// shows one state to the queries of a run by its transactions.
package flightsql

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/memory"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/source"
)

func init() {
	source.Register(source.Kind{Name: "flightsql", Dialect: dialect{}, Check: check,
		Open: func(c *source.Config, at source.Place) (source.Source, error) { return Open(c, at.Secrets) }})
}

// check says what the declaration of a server lacks; the words follow the source's name.
func check(c *source.Config) error {
	if err := source.CheckAddress(c); err != nil {
		return err
	}
	if c.Server.User != "" && c.Server.Password == "" {
		return errors.New("has a server.user without a server.password; name the secret that holds it")
	}
	return nil
}

// dialect is standard SQL, as engines behind the protocol have it in common.
type dialect struct{}

func (dialect) String() string { return "flightsql" }

// Dialect is standard SQL.
func (s *Server) Dialect() source.Dialect { return dialect{} }

func (dialect) Quotes() report.Quotes { return `'"` }

func (dialect) Name(id string) string { return `"` + strings.ReplaceAll(id, `"`, `""`) + `"` }

// liked takes their meaning from the marks of like.
var liked = strings.NewReplacer("|", "||", "%", "|%", "_", "|_")

// Holds compares without case; the standard has nothing that leaves accents out.
func (d dialect) Holds(args *[]any, piece, word string) string {
	return "lower(cast(" + piece + " as varchar)) like " +
		d.Bind(args, "%"+liked.Replace(strings.ToLower(word))+"%") + " escape '|'"
}

// Bind writes ?, with the type where a text stands for something else.
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
		return one("cast(? as timestamp)", v.UTC().Format("2006-01-02 15:04:05.999999"))
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
		return "cast(" + piece + " as timestamp)"
	}
	return "cast(" + piece + " as date)"
}

func (dialect) Limit(count string) string { return "limit " + count }

// bound is one row of what is bound to the marks of a statement, named from 1.
func bound(args []any) (arrow.RecordBatch, error) {
	fields, cells := make([]arrow.Field, len(args)), make([]arrow.Array, len(args))
	for i, arg := range args {
		var b array.Builder
		switch v := arg.(type) {
		case nil:
			b = array.NewStringBuilder(memory.DefaultAllocator)
			b.AppendNull()
		case string:
			texts := array.NewStringBuilder(memory.DefaultAllocator)
			texts.Append(v)
			b = texts
		case int64:
			wholes := array.NewInt64Builder(memory.DefaultAllocator)
			wholes.Append(v)
			b = wholes
		case bool:
			flags := array.NewBooleanBuilder(memory.DefaultAllocator)
			flags.Append(v)
			b = flags
		default:
			return nil, fmt.Errorf("a %T cannot be bound", arg)
		}
		cells[i] = b.NewArray()
		fields[i] = arrow.Field{Name: fmt.Sprint(i + 1), Type: cells[i].DataType(), Nullable: true}
	}
	return array.NewRecordBatch(arrow.NewSchema(fields, nil), cells, 1), nil
}
