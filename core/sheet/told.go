package sheet

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/shown"
)

// Told says in a sentence what a reader did to the view: what was filtered,
// grouped, limited and added, and what of it is hidden from them. It is "" where nothing was. Whoever shows figures
// of a sheet shows this with them.
func (s *Sheet) Told() string {
	var parts []string
	if len(s.Filters) > 0 {
		parts = append(parts,
			fmt.Sprintf("of which %s: %s of %s rows", s.filtersTold(), shown.Grouped(fmt.Sprint(s.Rows)),
				shown.Grouped(fmt.Sprint(s.Of))))
	}
	parts = append(parts, s.arrangementTold()...)
	for _, text := range s.changes.Add {
		parts = append(parts, "with "+strings.Join(strings.Fields(text), " ")+" added")
	}
	if s.View.Hides != "" {
		parts = append(parts, s.View.Hides)
	}
	if len(parts) == 0 {
		return ""
	}
	return shown.Capitalised(strings.Join(parts, "; ")) + "."
}

// Extract tells whether rows of the result were left out.
func (s *Sheet) Extract() bool { return len(s.Filters) > 0 }

// arrangementTold says how groups differ from those of the view.
func (s *Sheet) arrangementTold() (parts []string) {
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
			parts = append(parts, down+" down and "+across+" across")
		case down+across != "":
			parts = append(parts, "grouped by "+down+across)
		}
	case c.Group == nil || slices.Equal(c.Group, base.Levels):
	case len(s.of.Levels) > 0:
		parts = append(parts, "grouped by "+labels(s.of.Levels))
	case len(base.Levels) > 0:
		parts = append(parts, "without groups")
	}
	if c.Limit != nil && *c.Limit > 0 && *c.Limit != base.Limit && s.outline != nil && s.outline.rest != nil {
		parts = append(parts,
			fmt.Sprintf("%d of %s shown, the others as %s", *c.Limit, shown.Uncapitalised(s.of.Levels[0].Label), s.of.As.Rest))
	}
	if c.Zeros == "omit" && base.Zeros != "omit" {
		parts = append(parts, "lines without figures left out")
	}
	return parts
}

// filtersTold says the filters in words.
func (s *Sheet) filtersTold() string {
	var words []string
	for _, f := range s.Filters {
		words = append(words, s.filterTold(f))
	}
	return strings.Join(words, " and ")
}

func (s *Sheet) filterTold(f ask.Filter) string {
	label := shown.Uncapitalised(s.LabelOf(f.Column))
	values := strings.Join(ask.Unquoted(f.Value), " or ")
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

// isDay tells whether a column holds days or moments.
func (s *Sheet) isDay(id string) bool {
	c := s.Dataset.Column(id)
	return c != nil && (c.Kind == frame.Date || c.Kind == frame.Timestamp)
}
