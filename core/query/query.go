// Package query says what is to be read for a run: a settled definition with its
// values becomes queries that know no dialect. They hold the pieces of SQL that
// the author wrote for the source, and between them values to be bound, never
// written into text. What engines write differently (names, lists, days, limits)
// is left to the dialect of a source.
package query

import (
	"mantilla/core/period"
	"mantilla/core/report"
)

// Query is what is to be read for one dataset.
type Query struct {
	Dataset *report.Dataset
	Columns []Column // in the order of what the dataset reads
	From    Piece
	Where   []Condition // all of which hold
	Group   []Piece
	Order   []Piece
	Newest  *Value  // how many of the first rows by the order are read; nil for all
	Each    []Piece // that these are the first of; none for the first of all

	// Companions are the same query for the ranges that the dataset is compared
	// with; Begins has the first day of the range compared and of each companion.
	Companions []Query
	Begins     []period.Day
}

// Column is a piece with the id that its values go by.
type Column struct {
	ID string
	Is Piece
}

// Piece is SQL of the author with values between.
type Piece []Part

// Part is a text, or a value that is bound in its place.
type Part struct {
	Text  string
	Value *Value
}

// Value is what a parameter, or a part of one, came to: a string, a bool, a
// [frame.Number], a [period.Day], a [time.Time], a []string or, where nothing was
// chosen, nil or no strings.
type Value struct {
	Name string
	Is   any
}

// Condition is one thing that holds for every row.
type Condition struct {
	Is     Piece
	Within *Within // where set, Is is a day or moment that lies within
	Among  *Value  // where set, Is is one of these strings
}

// Within is the days or moments of a parameter.
type Within struct {
	Name    string // of the parameter
	Where   string // the piece as written, which a fault in a row names
	Moments bool
	Days    period.Range      // both ends count
	Spans   []period.Interval // of moments, whose ends do not count; none for no moment at all
}
