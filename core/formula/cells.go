package formula

import (
	"errors"
	"slices"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/exact"
	"mantilla/core/frame"
)

// cells is a vector under computation: one cell may stand for all rows.
type cells struct {
	frame.Vector
	one bool
}

// spread returns cells with one for each row.
func (c cells) spread(rows int) cells {
	if !c.one {
		return c
	}
	out := cells{}
	if c.Vector.Null(0) {
		out.Nulls = slices.Repeat([]bool{true}, rows)
	}
	switch {
	case c.Texts != nil:
		out.Texts, out.Codes = []string{c.Texts[0]}, make([]int32, rows)
	case c.Wide != nil:
		out.Wide = slices.Repeat(c.Wide[:1], rows)
	default:
		out.Ints = slices.Repeat(c.Ints[:1], rows)
	}
	return out
}

// nulls returns where any of the operands has no value, or nil.
func nulls(operands ...cells) []bool {
	var out []bool
	for _, c := range operands {
		if c.Nulls == nil {
			continue
		}
		if out == nil {
			out = slices.Clone(c.Nulls)
			continue
		}
		for i, null := range c.Nulls {
			out[i] = out[i] || null
		}
	}
	return out
}

// pair computes two operands with as many cells each; one stays one where both
// are.
func pair(e *env, a, b node) (x, y cells, err error) {
	if x, err = a.eval(e); err != nil {
		return x, y, err
	}
	if y, err = b.eval(e); err != nil {
		return x, y, err
	}
	if x.one != y.one {
		x, y = x.spread(e.rows), y.spread(e.rows)
	}
	return x, y, nil
}

// errLarge says that a number does not fit.
var errLarge = errors.New("a number gets more digits than can be kept (18 in a row, 38 in a total); round it, or " +
	"divide before multiplying")

// bound returns a number that no cell is farther from 0 than; ok is false for
// wide cells.
func (c cells) bound() (most uint64, ok bool) {
	if c.Wide != nil {
		return 0, false
	}
	return c.Bound(), true
}

// wide returns the cells with 128 bits each.
func (c cells) wide() []decimal128.Num {
	if c.Wide != nil {
		return c.Wide
	}
	out := make([]decimal128.Num, len(c.Ints))
	for i, v := range c.Ints {
		out[i] = decimal128.FromI64(v)
	}
	return out
}

// within18 refuses numbers of more digits than a cell holds.
func (c cells) within18() error {
	if c.Bound() < frame.Limit {
		return nil
	}
	for i, v := range c.Ints {
		if !c.Null(i) && !frame.FitsDigits(v) {
			return errLarge
		}
	}
	return nil
}

// narrowed returns wide cells with 64 bits each, where all fit.
func (c cells) narrowed() (cells, error) {
	out := cells{one: c.one}
	out.Nulls, out.Ints = c.Nulls, make([]int64, len(c.Wide))
	for i, d := range c.Wide {
		if c.Null(i) {
			continue
		}
		if !(frame.Number{Digits: d}).Fits() {
			return out, errLarge
		}
		out.Ints[i] = int64(d.LowBits())
	}
	return out, nil
}

// scaled returns numbers with more places.
func (c cells) scaled(from, to int32) (cells, error) {
	if from >= to {
		return c, nil
	}
	out := cells{one: c.one}
	out.Nulls = c.Nulls
	if most, ok := c.bound(); ok {
		if factor, ok := exact.Tens(to - from); ok {
			if _, ok := exact.Product(most, factor); ok {
				out.Ints = make([]int64, len(c.Ints))
				for i, v := range c.Ints {
					out.Ints[i] = v * int64(factor)
				}
				return out, nil
			}
		}
	}
	var err error
	out.Wide, err = each(c.wide(), func(d decimal128.Num) (decimal128.Num, bool) {
		return exact.Times(d, decimal128.GetScaleMultiplier(int(to-from)))
	})
	return out, err
}

func each(in []decimal128.Num, change func(decimal128.Num) (decimal128.Num, bool)) ([]decimal128.Num, error) {
	out := make([]decimal128.Num, len(in))
	for i, d := range in {
		var ok bool
		if out[i], ok = change(d); !ok {
			return nil, errLarge
		}
	}
	return out, nil
}

// cleared returns the vector with 0 where there is no value, as frames have it.
func (c cells) cleared() frame.Vector {
	if c.Nulls == nil || c.Ints == nil {
		return c.Vector
	}
	out := c.Vector
	out.Ints = slices.Clone(out.Ints)
	for i, null := range out.Nulls {
		if null {
			out.Ints[i] = 0
		}
	}
	return out
}
