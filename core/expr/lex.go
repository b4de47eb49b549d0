package expr

import (
	"fmt"
	"strings"
)

// token is a piece of a formula and the byte where it begins.
type token struct {
	kind byte // n name or word, 0 number, ' text, o operator, $ end
	text string
	at   int
}

var operators = []string{"<>", "<=", ">=", "||", "=", "<", ">", "+", "-", "*", "/", "(", ")", ","}

func lex(source string) (tokens []token, err error) {
	for i := 0; i < len(source); {
		c := source[i]
		switch {
		case c == ' ' || c == '\t' || c == '\n':
			i++
		case c == '\'':
			text, n, err := quoted(source[i:])
			if err != nil {
				return nil, &Fault{i, err.Error()}
			}
			tokens = append(tokens, token{'\'', text, i})
			i += n
		case c >= '0' && c <= '9':
			n := run(source[i:], func(c byte) bool { return c >= '0' && c <= '9' || c == '.' })
			tokens = append(tokens, token{'0', source[i : i+n], i})
			i += n
		case letter(c):
			n := run(source[i:], func(c byte) bool { return letter(c) || c >= '0' && c <= '9' || c == '.' })
			tokens = append(tokens, token{'n', source[i : i+n], i})
			i += n
		default:
			op := ""
			for _, o := range operators {
				if strings.HasPrefix(source[i:], o) {
					op = o
					break
				}
			}
			if op == "" {
				return nil, &Fault{i, fmt.Sprintf("%q has no meaning here", source[i])}
			}
			tokens = append(tokens, token{'o', op, i})
			i += len(op)
		}
	}
	return append(tokens, token{'$', "the end", len(source)}), nil
}

func letter(c byte) bool { return c == '_' || c|0x20 >= 'a' && c|0x20 <= 'z' }

func run(s string, in func(byte) bool) int {
	for i := range len(s) {
		if !in(s[i]) {
			return i
		}
	}
	return len(s)
}

// quoted reads a text in single quotes, doubled within.
func quoted(s string) (text string, n int, err error) {
	var b strings.Builder
	for i := 1; i < len(s); i++ {
		if s[i] != '\'' {
			b.WriteByte(s[i])
			continue
		}
		if i+1 < len(s) && s[i+1] == '\'' {
			b.WriteByte('\'')
			i++
			continue
		}
		return b.String(), i + 1, nil
	}
	return "", 0, fmt.Errorf("a text has no closing quote")
}

// Fault is what is wrong with a formula, at a byte of it.
type Fault struct {
	At      int
	Message string
}

func (f *Fault) Error() string { return f.Message }
