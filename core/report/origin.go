package report

import (
	"slices"
	"strings"

	"mantilla/core/expr"
)

// MadeOf are the columns of the dataset that a column is computed of, in their order;
// none where it is read from the source.
func (d *Dataset) MadeOf(c *Column) (ids []string) {
	spoken := expr.Mentioned(c.Formula)
	if c.Percent != nil {
		spoken = append(spoken, c.Percent.Of, c.Percent.By)
	}
	if c.Difference != nil {
		spoken = append(spoken, c.Difference.Of, c.Difference.From)
	}
	for _, other := range d.Columns {
		if other.ID != c.ID && slices.Contains(spoken, other.ID) {
			ids = append(ids, other.ID)
		}
	}
	return ids
}

// Reads tells whether the SQL of the dataset speaks of a table or column of the source.
func (d *Dataset) Reads(name string) bool {
	pieces := slices.Concat([]Piece{d.From, d.Scope}, d.Group, d.Order, d.Each)
	for _, w := range d.Where {
		pieces = append(pieces, w.Piece)
	}
	for _, c := range d.Columns {
		pieces = append(pieces, c.Is)
	}
	return slices.ContainsFunc(pieces, func(p Piece) bool { return p.Speaks(name) })
}

// Speaks tells whether a name stands in a piece as a word.
func (p Piece) Speaks(name string) bool {
	if Word(p.SQL, name) {
		return true
	}
	for _, sql := range p.Cases {
		if Word(sql, name) {
			return true
		}
	}
	return false
}

// Word tells whether a name stands in SQL as a word, in whatever case.
func Word(sql, name string) bool {
	if name == "" {
		return false
	}
	notWord := func(r rune) bool {
		return r != '_' && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9') && r < 128
	}
	return slices.ContainsFunc(strings.FieldsFunc(sql, notWord),
		func(w string) bool { return strings.EqualFold(w, name) })
}
