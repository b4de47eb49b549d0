package frame

import (
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
)

// Decode reads the cells of an Arrow array as a column. The array's memory is
// used where its cells are not narrower than they are kept. Known is what was found out
// about the cells when they were kept; where it is nil, they are looked through.
func Decode(a arrow.Array, known *Stats) (*Column, error) {
	c := &Column{rows: a.Len()}
	if a.NullN() > 0 {
		c.Nulls = nullsOf(a)
	}
	if err := c.decode(a); err != nil {
		return nil, err
	}
	c.clear()
	if known != nil {
		c.Stats = *known
		c.weigh()
		return c, nil
	}
	c.measure()
	return c, nil
}

// nullsOf tells which cells have no value, from the bits that tell which have one.
func nullsOf(a arrow.Array) []bool {
	nulls, bits, offset := make([]bool, a.Len()), a.NullBitmapBytes(), a.Data().Offset()
	for i := range nulls {
		at := offset + i
		nulls[i] = bits[at>>3]>>(at&7)&1 == 0
	}
	return nulls
}

func (c *Column) decode(a arrow.Array) error {
	switch a := a.(type) {
	case *array.String:
		c.Texts = textsOf(a)
	case *array.Dictionary:
		texts, ok := a.Dictionary().(*array.String)
		if !ok {
			return fmt.Errorf("dictionary of %s is not one of text", a.DataType())
		}
		c.Texts, c.Coded = textsOf(texts), true
		switch codes := a.Indices().(type) {
		case *array.Int8:
			c.bits8 = codes.Int8Values()
		case *array.Int16:
			c.bits16 = codes.Int16Values()
		case *array.Int32:
			c.bits32 = codes.Int32Values()
		default:
			return fmt.Errorf("dictionary codes of %s are not known", a.DataType())
		}
	case *array.Int8:
		c.bits8 = a.Int8Values()
	case *array.Int16:
		c.bits16 = a.Int16Values()
	case *array.Int32:
		c.bits32 = a.Int32Values()
	case *array.Int64:
		c.bits64 = a.Int64Values()
	case *array.Decimal32:
		c.narrow32(a.Data(), a.Len())
	case *array.Date32:
		c.narrow32(a.Data(), a.Len())
	case *array.Decimal64:
		c.narrow64(a.Data(), a.Len())
	case *array.Timestamp:
		c.narrow64(a.Data(), a.Len())
	case *array.Boolean:
		c.bits8 = make([]int8, a.Len())
		for i := range c.bits8 {
			if a.Value(i) {
				c.bits8[i] = 1
			}
		}
	default:
		return fmt.Errorf("an Arrow array of %s has no column type", a.DataType())
	}
	return nil
}

// narrow32 takes the values of an array of 32 bits each, whatever they mean.
func (c *Column) narrow32(data arrow.ArrayData, rows int) {
	cells := arrow.Int32Traits.CastFromBytes(data.Buffers()[1].Bytes())[data.Offset() : data.Offset()+rows]
	switch least, greatest := extent(cells); {
	case least >= -1<<7 && greatest < 1<<7:
		c.bits8 = narrow[int8](cells)
	case least >= -1<<15 && greatest < 1<<15:
		c.bits16 = narrow[int16](cells)
	default:
		c.bits32 = cells
	}
}

func (c *Column) narrow64(data arrow.ArrayData, rows int) {
	c.narrow(arrow.Int64Traits.CastFromBytes(data.Buffers()[1].Bytes())[data.Offset() : data.Offset()+rows])
}

// clear makes cells without a value 0, which not every engine's batches have.
func (c *Column) clear() {
	if c.Nulls == nil || c.Texts != nil && !c.Coded {
		return
	}
	switch {
	case c.bits8 != nil:
		c.bits8 = cleared(c.bits8, c.Nulls)
	case c.bits16 != nil:
		c.bits16 = cleared(c.bits16, c.Nulls)
	case c.bits32 != nil:
		c.bits32 = cleared(c.bits32, c.Nulls)
	default:
		c.bits64 = cleared(c.bits64, c.Nulls)
	}
}

// cleared copies cells only when one of them is not 0.
func cleared[T int8 | int16 | int32 | int64](cells []T, nulls []bool) []T {
	own := false
	for i, null := range nulls {
		if !null || cells[i] == 0 {
			continue
		}
		if !own {
			cells, own = append([]T(nil), cells...), true
		}
		cells[i] = 0
	}
	return cells
}

func textsOf(a *array.String) []string {
	texts := make([]string, a.Len())
	for i := range texts {
		texts[i] = a.Value(i)
	}
	return texts
}
