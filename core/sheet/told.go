package sheet

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/shown"
)

// Piece is a part of the sentence that says what was done to a view. Part names the part of the changes that
// it comes from, as a request does ("filter"), and Text the entry of it ("grade=Select"), "" for all of it.
// Words between, and what a reader cannot take away, have no part.
type Piece struct{ Says, Part, Text string }

// Told says in a sentence what a reader did to the view: what was filtered,
// grouped, limited, added and left out, and what of it is hidden from them. It is "" where nothing was. Whoever
// shows figures of a sheet shows this with them.
func (s *Sheet) Told() string {
	var b strings.Builder
	for _, p := range s.Pieces() {
		b.WriteString(p.Says)
	}
	return b.String()
}

// Pieces are the parts of [Sheet.Told], in order.
func (s *Sheet) Pieces() (all []Piece) {
	if len(s.Filters) > 0 {
		between, form := "of which ", s.of.Setting.Form
		for _, f := range s.Filters {
			all = append(all, Piece{Says: between}, Piece{s.filterTold(f), "filter", f.Typed})
			between = " and "
		}
		all = append(all, Piece{Says: fmt.Sprintf(": %s of %s rows", form.Grouped(fmt.Sprint(s.Rows)),
			form.Grouped(fmt.Sprint(s.Of)))})
	}
	deeds := s.arrangementTold()
	for _, text := range ask.Given(s.changes.Totals) {
		deeds = append(deeds, Piece{s.totalTold(text), "total", text})
	}
	for _, text := range s.changes.Add {
		deeds = append(deeds, Piece{"with " + strings.Join(strings.Fields(text), " ") + " added", "add", text})
	}
	if hidden := s.leftOut(); hidden != "" {
		deeds = append(deeds, Piece{hidden, "column", ""})
	}
	if s.View.Hides != "" {
		deeds = append(deeds, Piece{Says: s.View.Hides})
	}
	for _, d := range deeds {
		if len(all) > 0 {
			all = append(all, Piece{Says: "; "})
		}
		all = append(all, d)
	}
	if len(all) > 0 {
		all[0].Says = shown.Capitalised(all[0].Says)
		all = append(all, Piece{Says: "."})
	}
	return all
}

// totalWords are what totals are called in a sentence.
var totalWords = map[string]string{"sum": "the sum", "avg": "the average", "min": "the least", "max": "the most",
	"count": "how many have a value", "distinct": "how many values differ", "median": "the median",
	"stddev": "the standard deviation", "first": "the first", "last": "the last", "none": "left out"}

func (s *Sheet) totalTold(text string) string {
	id, op, _ := strings.Cut(text, ":")
	return "the total of " + shown.Uncapitalised(s.LabelOf(id)) + " is " + totalWords[op]
}

// mostNamed is how many columns that are left out are named; more are counted.
const mostNamed = 3

// leftOut says which columns of the view a reader does not have in sight; "" for none.
func (s *Sheet) leftOut() string {
	if s.changes.Columns == nil {
		return ""
	}
	var labels []string
	for _, id := range s.base.Columns {
		if !slices.Contains(s.changes.Columns, id) {
			labels = append(labels, shown.Uncapitalised(s.LabelOf(id)))
		}
	}
	switch n := len(labels); {
	case n == 0:
		return ""
	case n > mostNamed:
		return fmt.Sprintf("%d columns left out", n)
	}
	return nearest.And(labels) + " left out"
}

// Extract tells whether rows of the result were left out.
func (s *Sheet) Extract() bool { return len(s.Filters) > 0 }

// arrangementTold says how groups differ from those of the view.
func (s *Sheet) arrangementTold() (parts []Piece) {
	c, base := s.changes, s.base
	labels := func(levels []ready.Level) string {
		var names []string
		for _, l := range levels {
			names = append(names, shown.Uncapitalised(l.Label))
		}
		return strings.Join(names, ", ")
	}
	switch {
	case c.Down != nil && !slices.Equal(c.Down, base.Down), c.Across != nil && !slices.Equal(c.Across, base.Across):
		down, across := labels(s.of.Down), labels(s.of.Across)
		switch {
		case down != "" && across != "":
			parts = append(parts, Piece{down + " down and " + across + " across", "across", ""})
		case down+across != "":
			parts = append(parts, Piece{"grouped by " + down + across, "across", ""})
		}
	case c.Group == nil || slices.Equal(c.Group, base.Levels):
	case len(s.of.Levels) > 0:
		parts = append(parts, Piece{"grouped by " + labels(s.of.Levels), "group", ""})
	case len(base.Levels) > 0:
		parts = append(parts, Piece{"without groups", "group", ""})
	}
	if c.Limit != nil && *c.Limit > 0 && *c.Limit != base.Limit && s.outline != nil && s.outline.rest != nil {
		parts = append(parts, Piece{fmt.Sprintf("%d of %s shown, the others as %s", *c.Limit,
			shown.Uncapitalised(s.of.Levels[0].Label), s.of.As.Rest), "most", ""})
	}
	if c.Zeros == "omit" && base.Zeros != "omit" {
		parts = append(parts, Piece{"lines without figures left out", "zeros", ""})
	}
	return parts
}

func (s *Sheet) filterTold(f ask.Filter) string {
	label := shown.Uncapitalised(s.LabelOf(f.Column))
	typed := ask.Unquoted(f.Value)
	for i, text := range typed {
		typed[i] = s.typedTold(f.Column, text)
	}
	values := strings.Join(typed, " or ")
	switch {
	case f.Value == "" && f.Test == "=":
		return label + " without a value"
	case f.Value == "":
		return label + " with a value"
	case f.Test == "<>":
		return label + " not " + values
	case f.Test == ">=":
		return label + " at least " + values
	case f.Test == "<=":
		return label + " at most " + values
	case f.Test == ">" && s.isDay(f.Column):
		return label + " after " + values
	case f.Test == "<" && s.isDay(f.Column):
		return label + " before " + values
	case f.Test == ">":
		return label + " more than " + values
	case f.Test == "<":
		return label + " less than " + values
	case f.Test == "~":
		return label + " with “" + values + "” in it"
	}
	return label + " " + values
}

// typedTold writes what a filter holds a column against as the column's own values are
// written; what is no figure or day, as a name or a moving range, is said as it was typed.
func (s *Sheet) typedTold(id, text string) string {
	c, form := s.Dataset.Column(id), s.of.Setting.Form
	if c == nil {
		return text
	}
	if c.Kind == frame.Date {
		if day, err := period.ParseDay(text); err == nil {
			return form.Text(frame.Value{Kind: frame.Date, Number: frame.Exact(int64(day), 0)})
		}
	}
	if _, err := frame.ParseNumber(text, 6); err == nil && c.Kind.Numeric() {
		return form.Grouped(strings.TrimPrefix(text, "+"))
	}
	return text
}

// isDay tells whether a column holds days or moments.
func (s *Sheet) isDay(id string) bool {
	c := s.Dataset.Column(id)
	return c != nil && (c.Kind == frame.Date || c.Kind == frame.Timestamp)
}
