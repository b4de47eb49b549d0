package frame

import "github.com/apache/arrow-go/v18/arrow/decimal128"

// Figures collects the cells of a vector, which becomes wide when one is.
type Figures struct{ vector Vector }

// NewFigures makes room for n figures, which are 0.
func NewFigures(n int) *Figures { return &Figures{Vector{Ints: make([]int64, n)}} }

// Vector returns the figures.
func (f *Figures) Vector() Vector { return f.vector }

// None leaves a figure without a value.
func (f *Figures) None(i int) {
	if f.vector.Nulls == nil {
		f.vector.Nulls = make([]bool, max(len(f.vector.Ints), len(f.vector.Wide)))
	}
	f.vector.Nulls[i] = true
}

// Set sets the digits of a figure.
func (f *Figures) Set(i int, digits decimal128.Num) {
	low := int64(digits.LowBits())
	switch {
	case f.vector.Wide != nil:
		f.vector.Wide[i] = digits
	case digits == decimal128.FromI64(low):
		f.vector.Ints[i] = low
	default:
		f.vector.Wide = make([]decimal128.Num, len(f.vector.Ints))
		for at, x := range f.vector.Ints {
			f.vector.Wide[at] = decimal128.FromI64(x)
		}
		f.vector.Wide[i], f.vector.Ints = digits, nil
	}
}

// VectorOf makes a vector of single values of a field; numbers are brought to
// its places. It is wide where a value has more than 18 digits.
func VectorOf(field Field, values []Value) Vector {
	if field.Kind == Text {
		v := Vector{Texts: make([]string, len(values)), Nulls: make([]bool, len(values))}
		for i, x := range values {
			v.Texts[i], v.Nulls[i] = x.Text, x.Null
		}
		return v
	}
	f := NewFigures(len(values))
	for i, x := range values {
		if x.Null {
			f.None(i)
		} else {
			f.Set(i, x.Number.To(field.Scale).Digits)
		}
	}
	return f.vector
}
