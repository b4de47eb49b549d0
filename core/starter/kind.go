package starter

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"mantilla/core/frame"
)

// kind is what a column holds, as a definition declares it.
type kind struct {
	of      frame.Kind
	scale   int
	decimal bool // stored with a point
	flat    bool // adding it up would tell nothing
}

var (
	plain   = regexp.MustCompile(`^[a-z_][a-z0-9_]*$`)
	day     = regexp.MustCompile(`^\d{4}-\d\d-\d\d$`)
	moment  = regexp.MustCompile(`^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d(:?\d\d)?)?$`)
	whole   = regexp.MustCompile(`^-?\d{1,18}$`)
	pointed = regexp.MustCompile(`^-?\d{1,12}\.(\d{1,6})$`)
	cents   = regexp.MustCompile(`_cents?$`)
	exactly = regexp.MustCompile(`^(?:numeric|decimal)(?:\(\d+(?:, ?(\d+))?\))?$`)
	coded   = regexp.MustCompile(`(^|_)(id|no|number|code|year|month)$`)
)

// typed tells what a column holds by its declared type alone, where the type leaves no doubt.
// Engines without such types, in which any cell may hold anything, have none of them.
func typed(declared string, values []string) (k kind, ok bool) {
	switch {
	case declared == "boolean":
		return kind{of: frame.Flag}, true
	case declared == "date":
		return kind{of: frame.Date}, true
	case strings.HasPrefix(declared, "timestamp"):
		return kind{of: frame.Timestamp}, true
	}
	m := exactly.FindStringSubmatch(declared)
	if m == nil {
		return k, false
	}
	k = kind{of: frame.Decimal, decimal: true, scale: max(2, places(values))}
	if m[1] != "" {
		k.scale, _ = strconv.Atoi(m[1]) // digits
	}
	return k, k.scale <= 12
}

// kindOf tells what a column holds: by its declared type where that leaves no doubt, by its
// first values, and where it has none by what its type is like.
func kindOf(c Column) kind {
	all := func(pattern *regexp.Regexp) bool {
		return len(c.Values) > 0 &&
			!slices.ContainsFunc(c.Values, func(v string) bool { return !pattern.MatchString(v) })
	}
	declared := strings.ToLower(c.Type)
	number := strings.Contains(declared, "int") || strings.Contains(declared, "real") ||
		strings.Contains(declared, "num") || strings.Contains(declared, "dec") || declared == ""
	flat := c.Key || c.List != "" || coded.MatchString(strings.ToLower(c.Name))
	if k, ok := typed(declared, c.Values); ok && len(c.Values) > 0 && !declaredOtherwise(k, c.Values) {
		k.flat = flat
		return k
	}
	switch {
	case all(day):
		return kind{of: frame.Date}
	case all(moment):
		return kind{of: frame.Timestamp}
	case number && all(whole):
		switch {
		case c.List != "":
			return kind{of: frame.Text}
		case cents.MatchString(strings.ToLower(c.Name)):
			return kind{of: frame.Money}
		case !flat && yesNo(c.Values):
			return kind{of: frame.Flag}
		}
		return kind{of: frame.Integer, flat: flat}
	case number && slices.ContainsFunc(c.Values, pointed.MatchString) && numbers(c.Values):
		return kind{of: frame.Decimal, scale: places(c.Values), decimal: true, flat: flat}
	case len(c.Values) == 0 && strings.Contains(declared, "int"):
		return kind{of: frame.Integer, flat: flat}
	}
	return kind{of: frame.Text}
}

// declaredOtherwise tells whether values show that a type is only a name, as in engines whose
// cells may hold anything.
func declaredOtherwise(k kind, values []string) bool {
	fits := map[frame.Kind]func(string) bool{frame.Date: day.MatchString, frame.Timestamp: moment.MatchString,
		frame.Flag:    func(v string) bool { return slices.Contains([]string{"t", "f", "true", "false", "0", "1"}, v) },
		frame.Decimal: func(v string) bool { return whole.MatchString(v) || pointed.MatchString(v) }}[k.of]
	return slices.ContainsFunc(values, func(v string) bool { return !fits(v) })
}

func yesNo(values []string) bool {
	return slices.Contains(values, "0") && slices.Contains(values, "1") &&
		!slices.ContainsFunc(values, func(v string) bool { return v != "0" && v != "1" })
}

func numbers(values []string) bool {
	return !slices.ContainsFunc(values, func(v string) bool { return !whole.MatchString(v) && !pointed.MatchString(v) })
}

func places(values []string) (most int) {
	for _, v := range values {
		if m := pointed.FindStringSubmatch(v); m != nil {
			most = max(most, len(m[1]))
		}
	}
	return most
}

// few tells whether values repeat enough to be grouped by.
func few(values []string) bool {
	different := map[string]bool{}
	for _, v := range values {
		different[v] = true
	}
	return len(values) >= 10 && len(different) <= len(values)/5
}

func (k kind) days() bool { return k.of == frame.Date || k.of == frame.Timestamp }

// said is the kind as a column declares it.
func (k kind) said() string {
	switch {
	case k.of == frame.Decimal:
		return fmt.Sprintf("type: decimal, scale: %d, stored: decimal", k.scale)
	default:
		return "type: " + k.of.String()
	}
}

func (k kind) total() string {
	if k.of.Numeric() && k.of != frame.Flag && !k.flat {
		return ", total: sum"
	}
	return ""
}

// reserved are words of SQL that a name must be quoted for.
var reserved = []string{"all", "and", "as", "between", "by", "case", "check", "column", "create", "cross", "current",
	"default", "delete", "desc", "distinct", "drop", "else", "end", "except", "exists", "from", "full", "group", "having",
	"in", "index", "inner", "insert", "intersect", "into", "is", "join", "left", "like", "limit", "not", "null", "offset",
	"on", "or", "order", "outer", "primary", "references", "right", "select", "set", "table", "then", "to", "transaction",
	"union", "unique", "update", "user", "using", "values", "when", "where", "with"}

// idOf makes an id of a name: without what only tells its kind.
func idOf(name string, of frame.Kind) string {
	var b strings.Builder
	for _, r := range strings.ToLower(bare(name, of)) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9', r == '_':
			b.WriteRune(r)
		default:
			b.WriteByte('_')
		}
	}
	id := strings.Trim(b.String(), "_")
	if id == "" || id[0] >= '0' && id[0] <= '9' {
		id = "c_" + id
	}
	return strings.TrimSuffix(id, "_")
}

// bare is a name without the endings that tell what a column holds.
func bare(name string, of frame.Kind) string {
	lower := strings.ToLower(name)
	cut := func(ending string) string {
		if strings.HasSuffix(lower, ending) && len(name) > len(ending) {
			return name[:len(name)-len(ending)]
		}
		return name
	}
	switch of {
	case frame.Money:
		return cut("_cents")
	case frame.Date:
		return cut("_on")
	case frame.Timestamp:
		return cut("_at")
	}
	return name
}

// labelOf is how a column is headed.
func labelOf(name string, of frame.Kind) string {
	name = bare(name, of)
	if t := strings.TrimSuffix(name, "_no"); t != name && t != "" {
		return titleOf(t) + " no."
	}
	if t := strings.TrimSuffix(name, "_id"); t != name && t != "" {
		return titleOf(t)
	}
	return titleOf(name)
}

func titleOf(name string) string {
	text := strings.TrimSpace(strings.NewReplacer("_", " ", "-", " ").Replace(name))
	if text == "" {
		return "Rows"
	}
	runes := []rune(text)
	return strings.ToUpper(string(runes[0])) + string(runes[1:])
}

var bareScalar = regexp.MustCompile(`^[\p{L}][\p{L}\p{N} _.()/'=:%-]*$`)

// scalar writes a text as YAML does within braces, quoted where it needs to be.
func scalar(text string) string {
	word := strings.ToLower(text)
	if bareScalar.MatchString(text) && text == strings.TrimSpace(text) && !strings.Contains(text, ": ") &&
		!strings.HasSuffix(text, ":") && !slices.Contains([]string{"true", "false", "yes", "no", "null", "on", "off"}, word) {
		return text
	}
	return "'" + strings.ReplaceAll(text, "'", "''") + "'"
}
