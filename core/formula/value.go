// Package formula is the calculation language of definitions, with SQL's
// spelling and SQL's rules for what has no value. So far it knows conditions
// over single values: the notes of a report use it.
package formula

import (
	"mantilla/core/frame"
	"mantilla/core/period"
)

// Type is the type of a value.
type Type string

// The types of values.
const (
	Text   Type = "text"
	Number Type = "number"
	Day    Type = "day"
	Flag   Type = "flag"
)

// Value is a value of one of the types, or Null.
type Value struct {
	Null   bool
	Text   string
	Number frame.Number
	Day    period.Day
	Flag   bool
}

// Names gives the types of the names that a formula may use.
type Names map[string]Type

// Values gives the values of names; one that is missing has no value.
type Values map[string]Value
