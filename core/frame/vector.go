package frame

import "github.com/apache/arrow-go/v18/arrow/decimal128"

// Vector is cells under computation, or figures: keys of groups, sums. Everything
// but text is an int64: an integer, the unscaled digits of a decimal, days or
// microseconds since 1970, or 0 and 1. Text is held by code where values repeat;
// Codes is nil where they do not.
type Vector struct {
	Nulls []bool // which cells have no value; nil when all have one
	Ints  []int64
	Codes []int32 // places in Texts
	Texts []string
	Wide  []decimal128.Num // instead of Ints, where a figure has more than 18 digits; only totals do

	bound uint64 // no cell is farther from 0; 0 when that is not known
}

// Null tells whether the cell has no value.
func (v *Vector) Null(row int) bool { return v.Nulls != nil && v.Nulls[row] }

// Text returns the cell of a text column; "" where there is no value.
func (v *Vector) Text(row int) string {
	if v.Codes == nil {
		return v.Texts[row]
	}
	if v.Nulls != nil && v.Nulls[row] {
		return ""
	}
	return v.Texts[v.Codes[row]]
}

// Digits returns the cell of a column that is not text, however wide.
func (v *Vector) Digits(row int) decimal128.Num {
	if v.Wide != nil {
		return v.Wide[row]
	}
	return decimal128.FromI64(v.Ints[row])
}

// Value returns a cell with the type that its field gives it.
func (v *Vector) Value(field Field, row int) Value {
	out := Value{Kind: field.Kind, Grain: field.Grain}
	switch {
	case v.Null(row):
		out.Null = true
	case field.Kind == Text:
		out.Text = v.Text(row)
	default:
		out.Number = Number{v.Digits(row), field.Scale}
		out.Text = field.nameOf(out.Int())
	}
	return out
}

// Bound returns a number that no cell is farther from 0 than, of a vector that
// is not wide; it is at least 1.
func (v *Vector) Bound() uint64 {
	if v.bound != 0 {
		return v.bound
	}
	return farthest(v.Ints)
}

func farthest(cells []int64) uint64 {
	least, greatest := extent(cells)
	return Stats{Least: least, Greatest: greatest}.Bound()
}

// Bytes returns about how much memory the cells take.
func (v *Vector) Bytes() int {
	n := len(v.Nulls) + 8*len(v.Ints) + 16*len(v.Wide) + 4*len(v.Codes) + 16*len(v.Texts)
	for _, t := range v.Texts {
		n += len(t)
	}
	return n
}
