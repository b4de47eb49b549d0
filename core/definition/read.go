package definition

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/manuscript"
	"mantilla/core/nearest"
	"mantilla/core/report"
)

// reader walks a YAML tree and collects faults with their places, so that one
// reading reports all of them.
type reader struct {
	faults Faults
	first  map[string]int // where among the faults a wrong name was told first
	also   map[int][]int  // further lines of a fault
}

func (r *reader) fault(n *yaml.Node, format string, args ...any) {
	f := Fault{Message: fmt.Sprintf(format, args...)}
	if n != nil {
		f.Line, f.Column = n.Line, n.Column
	}
	r.faults = append(r.faults, f)
}

// unknown tells of a name that stands for nothing, once, however often it stands.
func (r *reader) unknown(n *yaml.Node, what, name, format string, args ...any) {
	key := what + " " + name
	if i, told := r.first[key]; told {
		if lines := r.also[i]; n.Line != r.faults[i].Line && !slices.Contains(lines, n.Line) {
			r.also[i] = append(lines, n.Line)
		}
		return
	}
	if r.first == nil {
		r.first, r.also = map[string]int{}, map[int][]int{}
	}
	r.first[key] = len(r.faults)
	r.fault(n, format, args...)
}

// sorted returns the faults in the file's order, each told once.
func (r *reader) sorted() Faults {
	for i, lines := range r.also {
		var texts []string
		for _, line := range lines {
			texts = append(texts, strconv.Itoa(line))
		}
		r.faults[i].Message += "; also in line " + nearest.And(texts)
	}
	r.first, r.also = nil, nil
	slices.SortStableFunc(r.faults, order)
	return slices.Compact(r.faults)
}

// mostNodes bounds what the aliases of one file may expand to.
const mostNodes = 50_000

// plain copies a tree with every alias replaced by what it stands for. A tree
// that is too large, or an alias within itself, is a fault.
func (r *reader) plain(root *yaml.Node) *yaml.Node {
	left := mostNodes
	var copied func(n *yaml.Node) *yaml.Node
	copied = func(n *yaml.Node) *yaml.Node {
		if left--; left < 0 {
			return &yaml.Node{Kind: yaml.ScalarNode, Line: n.Line, Column: n.Column}
		}
		if n.Kind == yaml.AliasNode {
			return copied(n.Alias)
		}
		c := *n
		c.Content = make([]*yaml.Node, len(n.Content))
		for i := range n.Content {
			c.Content[i] = copied(n.Content[i])
		}
		return &c
	}
	out := copied(root)
	if left < 0 {
		r.fault(root, "the file has more than %d parts; an alias may stand within itself", mostNodes)
	}
	return out
}

// keys says what to do with each key of a mapping.
type keys map[string]func(value *yaml.Node)

// mapping hands each value to its key and reports unknown and repeated keys.
// It returns the keys that were there.
func (r *reader) mapping(n *yaml.Node, what string, known keys) map[string]*yaml.Node {
	seen := map[string]*yaml.Node{}
	if n.Kind != yaml.MappingNode {
		r.fault(n, "%s must be a list of key: value lines", what)
		return seen
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i], n.Content[i+1]
		read, ok := known[key.Value]
		switch {
		case seen[key.Value] != nil:
			r.fault(key, "%s has the key %q twice", what, key.Value)
		case !ok:
			r.fault(key, "%s has no key %q%s", what, key.Value, meant(key.Value, names(known)))
		default:
			read(value)
		}
		seen[key.Value] = key
	}
	return seen
}

// meant adds what was probably meant, or what there is.
func meant(typed string, known []string) string {
	if near := nearest.Names(typed, known, 2); len(near) > 0 {
		return "; did you mean " + nearest.Or(near) + "?"
	}
	if len(known) == 0 {
		return ""
	}
	return "; there are " + nearest.And(known)
}

func names[T any](m map[string]T) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

func (r *reader) text(to *string) func(*yaml.Node) {
	return func(n *yaml.Node) {
		if n.Kind != yaml.ScalarNode {
			r.fault(n, "a text is wanted here")
			return
		}
		*to = strings.TrimSpace(n.Value)
	}
}

func (r *reader) flag(to *bool) func(*yaml.Node) {
	return func(n *yaml.Node) {
		switch n.Value {
		case "true", "yes":
			*to = true
		case "false", "no":
			*to = false
		default:
			r.fault(n, "%q is neither true nor false", n.Value)
		}
	}
}

func (r *reader) number(to *int64, low, high int64) func(*yaml.Node) {
	return func(n *yaml.Node) {
		v, err := strconv.ParseInt(strings.ReplaceAll(n.Value, "_", ""), 10, 64)
		if err != nil || v < low || v > high {
			r.fault(n, "%q is not a whole number from %d to %d", n.Value, low, high)
			return
		}
		*to = v
	}
}

// oneOf reads a text that must be one of a few.
func (r *reader) oneOf(to *string, allowed ...string) func(*yaml.Node) {
	return func(n *yaml.Node) {
		if !slices.Contains(allowed, n.Value) {
			r.fault(n, "%q is not allowed here; use %s", n.Value, nearest.Or(allowed))
			return
		}
		*to = n.Value
	}
}

// items hands on each element of a list; a single value counts as a list of one.
func (r *reader) items(n *yaml.Node, each func(*yaml.Node)) {
	if n.Kind != yaml.SequenceNode {
		each(n)
		return
	}
	for _, item := range n.Content {
		each(item)
	}
}

func (r *reader) texts(to *[]string) func(*yaml.Node) {
	return func(n *yaml.Node) {
		r.items(n, func(item *yaml.Node) {
			var t string
			r.text(&t)(item)
			*to = append(*to, t)
		})
	}
}

// piece reads SQL, or SQL that a parameter switches: {by: ':rule', CODE: ...}.
func (r *reader) piece(to *report.Piece) func(*yaml.Node) {
	return func(n *yaml.Node) {
		to.Line, to.Col = n.Line, n.Column
		if manuscript.Value(n, "by") == nil {
			r.text(&to.SQL)(n)
			return
		}
		to.Cases = map[string]string{}
		for i := 0; i+1 < len(n.Content); i += 2 {
			var text string
			r.text(&text)(n.Content[i+1])
			if n.Content[i].Value == "by" {
				to.By = strings.TrimPrefix(text, ":")
			} else {
				to.Cases[n.Content[i].Value] = text
			}
		}
	}
}

func (r *reader) pieces(to *[]report.Piece) func(*yaml.Node) {
	return func(n *yaml.Node) {
		r.items(n, func(item *yaml.Node) {
			var p report.Piece
			r.piece(&p)(item)
			*to = append(*to, p)
		})
	}
}

// id reads an identifier: small letters, digits and the joiner.
func (r *reader) id(to *string, joiner rune) func(*yaml.Node) {
	return func(n *yaml.Node) {
		r.text(to)(n)
		for i, c := range *to {
			if c >= 'a' && c <= 'z' || i > 0 && (c == joiner || c >= '0' && c <= '9') {
				continue
			}
			r.fault(n, "%q is not an id; use small letters, digits and %c, a letter first", *to, joiner)
			return
		}
	}
}

// need reports keys that are missing, at the place of the mapping.
func (r *reader) need(n *yaml.Node, what string, seen map[string]*yaml.Node, wanted ...string) {
	for _, key := range wanted {
		if seen[key] == nil {
			r.fault(n, "%s lacks the key %q", what, key)
		}
	}
}

// placed is where a node stands.
func placed(n *yaml.Node) report.Place { return report.Place{Line: n.Line, Column: n.Column} }
