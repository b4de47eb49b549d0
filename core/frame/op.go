package frame

import (
	"fmt"
	"slices"
	"strings"
)

// Op is a way to make one figure of many cells.
type Op uint8

// The figures that can be made of a column. Cells without a value count for
// none of them.
const (
	NoTotal    Op = iota
	Sum           // numbers only; the sum of no values has no value
	Avg           // numbers only; see [Op.Field] for its places
	Min           // the smallest value, the first day, the first text
	Max           // the largest value, the last day, the last text
	Count         // how many rows have a value
	Distinct      // how many different values there are
	Median        // numbers only: the middle value, or half way between two
	Percentile    // numbers only: the value below which a percentage of the others lie
	Stddev        // numbers only: the sample standard deviation; of two values at least
	First         // the first row's value
	Last          // the last row's value
	Ratio         // computed from other totals
	NonZero       // numbers only: how many rows have a value other than 0
)

var opNames = [...]string{"none", "sum", "avg", "min", "max", "count", "distinct", "median", "percentile", "stddev",
	"first", "last", "ratio", "non-zero"}

func (o Op) String() string { return opNames[o] }

// OpNamed returns the total of a column with that name.
func OpNamed(name string) (Op, error) {
	known := slices.DeleteFunc(slices.Clone(opNames[:Ratio]), func(n string) bool { return n == "percentile" })
	if at := slices.Index(opNames[:Ratio], name); at >= 0 && Op(at) != Percentile {
		return Op(at), nil
	}
	return 0, fmt.Errorf("%q is not a total; use %s", name, strings.Join(known[1:], ", "))
}

// MarshalText writes a total by its name, so that what is kept does not depend on
// the order of the totals.
func (o Op) MarshalText() ([]byte, error) { return []byte(o.String()), nil }

// UnmarshalText reads a total by its name.
func (o *Op) UnmarshalText(text []byte) error {
	at := slices.Index(opNames[:], string(text))
	if at < 0 {
		return fmt.Errorf("%q is not a total", text)
	}
	*o = Op(at)
	return nil
}

// Fits returns an error when a column has no such figure.
func (o Op) Fits(field Field) error {
	if slices.Contains([]Op{Sum, Avg, Median, Percentile, Stddev, NonZero}, o) &&
		(!field.Kind.Numeric() || field.Names != nil) {
		return fmt.Errorf("a %s column has no %s", field.Kind, o)
	}
	return nil
}

// Field returns what the figures of a column are. Averages, medians, percentiles
// and deviations are rounded half away from zero: money to its own places, other
// numbers to two places more than the column has.
func (o Op) Field(of Field) Field {
	switch o {
	case Count, Distinct, NonZero:
		return Field{Name: of.Name, Kind: Integer}
	case Avg, Median, Percentile, Stddev:
		if of.Kind != Money {
			of.Kind, of.Scale = Decimal, of.Scale+2
		}
	}
	return of
}

// Key is one column to sort by. Rows without a value stand last, or first when
// NullsFirst is set, whichever way the others run.
type Key struct {
	Column     string
	Descending bool
	NullsFirst bool
}
