package report

import "strings"

// Quotes are the marks that begin a quoted text or name in the SQL of a source;
// [ ends with ]. Standard SQL has ' and ".
type Quotes string

// AnyQuotes are those of every engine, for SQL whose source is not known.
const AnyQuotes Quotes = "'\"`["

// Reference is one :name or :name.part in a piece of SQL, from byte Start up
// to End.
type Reference struct {
	Parameter, Part string
	Start, End      int
}

// String writes the reference without its colon.
func (r Reference) String() string {
	if r.Part == "" {
		return r.Parameter
	}
	return r.Parameter + "." + r.Part
}

// References finds the parameters that a piece of SQL speaks of. What is quoted,
// comments and :: casts are passed over.
func References(sql string, quotes Quotes) (found []Reference) {
	for i := 0; i < len(sql); i++ {
		switch c := sql[i]; {
		case strings.IndexByte(string(quotes), c) >= 0:
			i = skipTo(sql, i+1, strings.Replace(string(c), "[", "]", 1))
		case strings.HasPrefix(sql[i:], "--"):
			i = skipTo(sql, i, "\n")
		case strings.HasPrefix(sql[i:], "/*"):
			i = skipTo(sql, i+2, "*/") + 1
		case strings.HasPrefix(sql[i:], "::"):
			i++
		case c == ':':
			end := i + 1 + nameLength(sql[i+1:])
			if end == i+1 {
				continue
			}
			r := Reference{Parameter: sql[i+1 : end], Start: i, End: end}
			if end < len(sql) && sql[end] == '.' {
				if n := nameLength(sql[end+1:]); n > 0 {
					r.Part, r.End = sql[end+1:end+1+n], end+1+n
				}
			}
			found = append(found, r)
			i = r.End - 1
		}
	}
	return found
}

func skipTo(sql string, from int, mark string) int {
	if from >= len(sql) {
		return len(sql)
	}
	n := strings.Index(sql[from:], mark)
	if n < 0 {
		return len(sql)
	}
	return from + n
}

func nameLength(s string) int {
	for i := range len(s) {
		c := s[i]
		letter := c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
		if !letter && (i == 0 || c < '0' || c > '9') {
			return i
		}
	}
	return len(s)
}
