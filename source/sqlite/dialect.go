package sqlite

import (
	"encoding/json"
	"errors"
	"path/filepath"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/report"
	"mantilla/source"
)

func init() {
	source.Register(source.Kind{Name: "sqlite", Dialect: dialect{}, Check: check,
		Open: func(c *source.Config, at source.Place) (source.Source, error) {
			return Open(c, filepath.Join(at.Dir, c.File))
		}})
}

func check(c *source.Config) error {
	switch {
	case c.Server != nil:
		return errors.New("has a server, and is a file; leave the key server out")
	case c.File == "":
		return errors.New("lacks the key file: PATH")
	case !filepath.IsLocal(c.File):
		return errors.New("has the file " + c.File + ", which must lie within the data directory")
	}
	return nil
}

// dialect is SQLite's. A list is bound as one JSON array, so its length does not
// matter; days and moments are read by functions of ours, since SQLite has no type
// for them.
type dialect struct{}

func (dialect) String() string { return "sqlite" }

// Dialect is SQLite's.
var Dialect source.Dialect = dialect{}

// Dialect is SQLite's.
func (f *File) Dialect() source.Dialect { return dialect{} }

// Engine is none: a file is only read.
func (f *File) Engine() source.Engine { return nil }

func (dialect) Quotes() report.Quotes { return "'\"`[" }

// Holds compares without case and accents.
func (dialect) Holds(args *[]any, piece, word string) string {
	*args = append(*args, fold.Text(word))
	return "instr(fold(" + piece + "), ?) > 0"
}

func (dialect) Name(id string) string { return `"` + strings.ReplaceAll(id, `"`, `""`) + `"` }

func (dialect) Bind(args *[]any, value any) string {
	list, ok := value.([]string)
	if !ok {
		*args = append(*args, value)
		return "?"
	}
	array, _ := json.Marshal(list) // of texts alone
	*args = append(*args, string(array))
	return "(select value from json_each(?))"
}

func (dialect) Instant(piece, where string, moments bool) string {
	read := "day"
	if moments {
		read = "moment"
	}
	return read + "(" + piece + ", '" + strings.ReplaceAll(where, "'", "''") + "')"
}

func (dialect) Limit(count string) string { return "limit " + count }
