package frame

import (
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// Vector is a run of cells of one column. Everything but text is an int64: an
// integer, the unscaled digits of a decimal, days or microseconds since 1970,
// or 0 and 1. Text is held by code where values repeat; Codes is nil where
// they do not.
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
		if at := out.Int(); field.Names != nil && at >= 0 && at < int64(len(field.Names)) {
			out.Text = field.Names[at]
		}
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
	low, high := int64(0), int64(0)
	for _, c := range cells {
		low, high = min(low, c), max(high, c)
	}
	return max(uint64(high), -uint64(low), 1)
}

// decode reads the cells of an Arrow array.
func (v *Vector) decode(a arrow.Array) error {
	if a.NullN() > 0 {
		v.Nulls = make([]bool, a.Len())
		for i := range v.Nulls {
			v.Nulls[i] = a.IsNull(i)
		}
	}
	switch a := a.(type) {
	case *array.String:
		v.Texts = textsOf(a)
	case *array.Dictionary:
		texts, ok := a.Dictionary().(*array.String)
		if !ok {
			return fmt.Errorf("dictionary of %s is not one of text", a.DataType())
		}
		v.Texts = textsOf(texts)
		switch codes := a.Indices().(type) {
		case *array.Int8:
			v.Codes = widen[int32](codes.Int8Values())
		case *array.Int16:
			v.Codes = widen[int32](codes.Int16Values())
		case *array.Int32:
			v.Codes = codes.Int32Values()
		default:
			return fmt.Errorf("dictionary codes of %s are not known", a.DataType())
		}
	case *array.Int8:
		v.Ints, v.bound = widen[int64](a.Int8Values()), 1<<7
	case *array.Int16:
		v.Ints, v.bound = widen[int64](a.Int16Values()), 1<<15
	case *array.Int32:
		v.Ints, v.bound = widen[int64](a.Int32Values()), 1<<31
	case *array.Int64:
		v.Ints, v.bound = a.Int64Values(), farthest(a.Int64Values())
	case *array.Decimal32:
		v.Ints, v.bound = widen[int64](a.Values()), limit32
	case *array.Decimal64:
		v.Ints = widen[int64](a.Values())
		v.bound = farthest(v.Ints)
	case *array.Date32:
		v.Ints = widen[int64](a.Date32Values())
	case *array.Timestamp:
		v.Ints = widen[int64](a.TimestampValues())
	case *array.Boolean:
		v.Ints = make([]int64, a.Len())
		for i := range v.Ints {
			if a.Value(i) {
				v.Ints[i] = 1
			}
		}
	default:
		return fmt.Errorf("an Arrow array of %s has no column type", a.DataType())
	}
	return nil
}

func widen[T int32 | int64, F ~int8 | ~int16 | ~int32 | ~int64](cells []F) []T {
	out := make([]T, len(cells))
	for i, c := range cells {
		out[i] = T(c)
	}
	return out
}

func textsOf(a *array.String) []string {
	texts := make([]string, a.Len())
	for i := range texts {
		texts[i] = a.Value(i)
	}
	return texts
}

func (v *Vector) size() int {
	n := len(v.Nulls) + 8*len(v.Ints) + 16*len(v.Wide) + 4*len(v.Codes) + 16*len(v.Texts)
	for _, t := range v.Texts {
		n += len(t)
	}
	return n
}
