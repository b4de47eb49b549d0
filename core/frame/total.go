package frame

import (
	"fmt"
	"math/bits"
	"strings"

	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// Op is a way to total a column.
type Op uint8

// The totals of a column. Rows without a value count for none of them.
const (
	NoTotal  Op = iota
	Sum         // numbers only; the sum of no values has no value
	Avg         // numbers only; see [Frame.Total] for its places
	Min         // the smallest value, the first day, the first text
	Max         // the largest value, the last day, the last text
	Count       // how many rows have a value
	Distinct    // how many different values there are
	Ratio       // computed from the totals of two other columns
)

var opNames = [...]string{"none", "sum", "avg", "min", "max", "count", "distinct", "ratio"}

func (o Op) String() string { return opNames[o] }

// OpNamed returns the total with that name.
func OpNamed(name string) (Op, error) {
	for o, n := range opNames[:Ratio] {
		if n == name {
			return Op(o), nil
		}
	}
	return 0, fmt.Errorf("%q is not a total; use %s", name, strings.Join(opNames[1:Ratio], ", "))
}

// Fits returns an error when a column of that kind has no such total.
func (o Op) Fits(kind Kind) error {
	if (o == Sum || o == Avg) && !kind.Numeric() {
		return fmt.Errorf("a %s column has no %s", kind, o)
	}
	return nil
}

// Total computes one total of a column over the selected rows. Sums are exact
// in 128 bits, which 18-digit cells cannot overflow. An average is rounded half
// away from zero: money to its own places, other numbers to two places more
// than the column has.
func (f *Frame) Total(within Selection, name string, op Op) (Value, error) {
	col, err := f.column(name)
	if err != nil {
		return Value{}, err
	}
	field := f.schema[col]
	if err := op.Fits(field.Kind); err != nil {
		return Value{}, fmt.Errorf("column %s: %w", name, err)
	}
	t := totaller{op: op, text: field.Kind == Text}
	err = f.each(within, func(b *Batch, rows []uint32, start int) { t.add(&b.columns[col], rows, start, b.Rows) })
	if err != nil {
		return Value{}, err
	}
	return t.value(field), nil
}

// each calls visit once for every run of selected rows in the same batch; rows
// is nil when the whole batch is meant.
func (f *Frame) each(within Selection, visit func(b *Batch, rows []uint32, start int)) error {
	if within == nil {
		for i := range f.Batches() {
			b, err := f.load(i)
			if err != nil {
				return err
			}
			visit(b, nil, i*f.size)
		}
		return nil
	}
	for len(within) > 0 {
		at, n := int(within[0])/f.size, 1
		for n < len(within) && int(within[n])/f.size == at {
			n++
		}
		b, err := f.load(at)
		if err != nil {
			return err
		}
		visit(b, within[:n], at*f.size)
		within = within[n:]
	}
	return nil
}

// totaller gathers what any total needs; the sum is kept as two 64-bit halves.
type totaller struct {
	op       Op
	text     bool
	count    int64
	lo       uint64
	hi       int64
	min, max int64
	first    string
	last     string
	seenInts map[int64]struct{}
	seen     map[string]struct{}
}

func (t *totaller) add(c *column, rows []uint32, start, n int) {
	if rows == nil {
		for r := range n {
			t.addCell(c, r)
		}
		return
	}
	for _, row := range rows {
		t.addCell(c, int(row)-start)
	}
}

func (t *totaller) addCell(c *column, r int) {
	if c.nulls != nil && c.nulls[r] {
		return
	}
	t.count++
	if t.op == Count {
		return
	}
	if t.text {
		t.addText(c, r)
		return
	}
	v := c.ints[r]
	switch t.op {
	case Sum, Avg:
		var carry uint64
		t.lo, carry = bits.Add64(t.lo, uint64(v), 0)
		t.hi += v>>63 + int64(carry)
	case Min, Max:
		if t.count == 1 {
			t.min, t.max = v, v
		}
		t.min, t.max = min(t.min, v), max(t.max, v)
	case Distinct:
		if t.seenInts == nil {
			t.seenInts = map[int64]struct{}{}
		}
		t.seenInts[v] = struct{}{}
	}
}

func (t *totaller) addText(c *column, r int) {
	text := ""
	if c.codes == nil {
		text = c.texts[r]
	} else {
		text = c.texts[c.codes[r]]
	}
	if t.op == Distinct {
		if t.seen == nil {
			t.seen = map[string]struct{}{}
		}
		t.seen[text] = struct{}{}
		return
	}
	if t.count == 1 {
		t.first, t.last = text, text
	}
	if text != t.first && compareTexts(Fold(text), text, Fold(t.first), t.first) < 0 {
		t.first = text
	}
	if text != t.last && compareTexts(Fold(text), text, Fold(t.last), t.last) > 0 {
		t.last = text
	}
}

func (t *totaller) value(field Field) Value {
	v := Value{Kind: field.Kind, Null: t.count == 0 && t.op != Count && t.op != Distinct}
	if v.Null {
		return v
	}
	sum := Number{decimal128.New(t.hi, t.lo), field.Scale}
	switch t.op {
	case Sum:
		v.Number = sum
	case Avg:
		places := field.Scale
		if field.Kind != Money {
			v.Kind, places = Decimal, places+2
		}
		v.Number = sum.Divide(t.count, places)
	case Min:
		v.Text, v.Number = t.first, Exact(t.min, field.Scale)
	case Max:
		v.Text, v.Number = t.last, Exact(t.max, field.Scale)
	case Count:
		v = Value{Kind: Integer, Number: Exact(t.count, 0)}
	case Distinct:
		v = Value{Kind: Integer, Number: Exact(int64(len(t.seenInts)+len(t.seen)), 0)}
	}
	return v
}
