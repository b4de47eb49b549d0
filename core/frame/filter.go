package frame

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Test is what a condition asks of a cell.
type Test uint8

// The tests of a condition. Cells without a value pass only Empty and IsNot.
const (
	Is       Test = iota // equal to one of the values
	IsNot                // equal to none of the values
	Contains             // text holds the value, whatever the case and accents
	AtLeast              // not before the value
	AtMost               // not after the value
	Empty                // has no value
	NotEmpty             // has a value
)

// Condition is one test of one column. Values of text columns stand in Texts,
// those of all others, as [Batch.Int] gives them, in Ints.
type Condition struct {
	Column string
	Test   Test
	Texts  []string
	Ints   []int64
}

// Selection is a list of row numbers; a nil selection is all rows in order.
type Selection []uint32

// Filter returns the rows that meet every condition, in order. No conditions
// select all rows. It fails when a column does not exist, when a test does not
// fit a column, or when a batch cannot be loaded.
func (f *Frame) Filter(conditions []Condition) (Selection, error) {
	if len(conditions) == 0 {
		return nil, nil
	}
	places := make([]int, len(conditions))
	for i, c := range conditions {
		at, err := f.column(c.Column)
		if err != nil {
			return nil, err
		}
		if err := c.fits(f.schema[at].Kind); err != nil {
			return nil, err
		}
		places[i] = at
	}
	found := make([]Selection, f.Batches())
	err := f.parallel(func(i int, b *Batch) error {
		pass := slices.Repeat([]bool{true}, b.Rows)
		for k, c := range conditions {
			c.mark(&b.columns[places[k]], pass)
		}
		n := 0
		for _, ok := range pass {
			if ok {
				n++
			}
		}
		found[i] = make(Selection, 0, n)
		for r, ok := range pass {
			if ok {
				found[i] = append(found[i], uint32(i*f.size+r))
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return append(Selection{}, slices.Concat(found...)...), nil
}

func (c Condition) fits(kind Kind) error {
	switch {
	case c.Test == Empty || c.Test == NotEmpty:
		return nil
	case c.Test == Contains && kind != Text:
		return fmt.Errorf("column %s holds %s, which cannot be searched for a text", c.Column, kind)
	case kind == Text && len(c.Texts) == 0, kind != Text && len(c.Ints) == 0:
		return fmt.Errorf("the filter on column %s has no value", c.Column)
	}
	return nil
}

// mark clears pass for the rows that fail the condition.
func (c Condition) mark(col *Vector, pass []bool) {
	switch c.Test {
	case Empty, NotEmpty:
		for r := range pass {
			null := col.Nulls != nil && col.Nulls[r]
			pass[r] = pass[r] && null == (c.Test == Empty)
		}
		return
	}
	if col.Texts != nil || col.Ints == nil {
		c.markTexts(col, pass)
	} else {
		for r, v := range col.Ints {
			pass[r] = pass[r] && c.meetsInt(v)
		}
	}
	if c.Test != IsNot && col.Nulls != nil {
		for r, null := range col.Nulls {
			pass[r] = pass[r] && !null
		}
	}
}

// markTexts asks each distinct text once.
func (c Condition) markTexts(col *Vector, pass []bool) {
	sought := make([]string, len(c.Texts))
	for i, t := range c.Texts {
		sought[i] = Fold(t)
	}
	if col.Codes == nil {
		for r, t := range col.Texts {
			pass[r] = pass[r] && c.meetsText(t, sought)
		}
		return
	}
	met := make([]bool, len(col.Texts))
	for i, t := range col.Texts {
		met[i] = c.meetsText(t, sought)
	}
	for r, code := range col.Codes {
		null := col.Nulls != nil && col.Nulls[r]
		pass[r] = pass[r] && (null && c.Test == IsNot || !null && met[code])
	}
}

func (c Condition) meetsText(t string, folded []string) bool {
	switch c.Test {
	case Contains:
		return strings.Contains(Fold(t), folded[0])
	case AtLeast:
		return compareTexts(Fold(t), t, folded[0], c.Texts[0]) >= 0
	case AtMost:
		return compareTexts(Fold(t), t, folded[0], c.Texts[0]) <= 0
	}
	for _, v := range c.Texts {
		if v == t {
			return c.Test == Is
		}
	}
	return c.Test == IsNot
}

func (c Condition) meetsInt(v int64) bool {
	switch c.Test {
	case AtLeast:
		return v >= c.Ints[0]
	case AtMost:
		return v <= c.Ints[0]
	}
	for _, w := range c.Ints {
		if v == w {
			return c.Test == Is
		}
	}
	return c.Test == IsNot
}

// Fold returns a text without case and accents, for comparing as people do.
func Fold(t string) string {
	for i := range len(t) {
		if t[i] >= 0x80 {
			return undecomposed.Replace(strings.ToLower(unmarked(t)))
		}
	}
	return strings.ToLower(t)
}

// unmarked returns a text without the marks on its letters.
func unmarked(t string) string {
	var b strings.Builder
	b.Grow(len(t))
	for _, r := range norm.NFD.String(t) {
		if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// undecomposed are letters that Unicode does not take apart into a letter and
// a mark, but people type without it.
var undecomposed = strings.NewReplacer("ø", "o", "æ", "ae", "œ", "oe", "ß", "ss", "ł", "l", "đ", "d", "ð", "d", "þ",
	"th")

// compareTexts orders texts without case and accents first, exactly second.
func compareTexts(foldedA, a, foldedB, b string) int {
	if c := strings.Compare(foldedA, foldedB); c != 0 {
		return c
	}
	return strings.Compare(a, b)
}

// Mark sets hits, by row number, for the selected rows whose cell meets a
// test. Each distinct value of a batch is asked once.
func (f *Frame) Mark(within Selection, col int, meets func(Value) bool, hits []bool) error {
	in := make([]bool, 0)
	if within != nil {
		in = make([]bool, f.rows)
		for _, row := range within {
			in[row] = true
		}
	}
	field := f.schema[col]
	for i := range f.Batches() {
		b, err := f.load(i)
		if err != nil {
			return err
		}
		v, start := &b.columns[col], i*f.size
		byText, byInt := make([]int8, len(v.Texts)), map[int64]bool{}
		for r := range b.Rows {
			if within != nil && !in[start+r] || v.Null(r) || hits[start+r] {
				continue
			}
			if field.Kind != Text {
				hit, known := byInt[v.Ints[r]]
				if !known {
					hit = meets(v.Value(field, r))
					byInt[v.Ints[r]] = hit
				}
				hits[start+r] = hit
				continue
			}
			code := r
			if v.Codes != nil {
				code = int(v.Codes[r])
			}
			if byText[code] == 0 {
				byText[code] = -1
				if meets(v.Value(field, r)) {
					byText[code] = 1
				}
			}
			hits[start+r] = byText[code] > 0
		}
	}
	return nil
}

// NonZero tells of every row whether any of the columns, which hold numbers,
// has a value other than 0.
func (f *Frame) NonZero(columns []int) ([]bool, error) {
	out := make([]bool, f.rows)
	err := f.parallel(func(i int, b *Batch) error {
		rows := out[i*f.size:]
		for _, col := range columns {
			v := &b.columns[col]
			for r, x := range v.Ints {
				if x != 0 && !v.Null(r) {
					rows[r] = true
				}
			}
		}
		return nil
	})
	return out, err
}
