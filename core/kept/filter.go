package kept

import (
	"context"
	"math"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// filter returns the rows that meet every condition, in order. It fails when a
// column does not exist, when a test does not fit a column, or when a column cannot
// be loaded.
func (k *Table) filter(ctx context.Context, where table.Where) (Selection, error) {
	tests := make([]test, len(where.Conditions))
	for i, c := range where.Conditions {
		at, err := k.column(c.Column)
		if err != nil {
			return nil, err
		}
		if err := c.Fits(k.rows.Schema()[at].Kind); err != nil {
			return nil, err
		}
		tests[i] = ready(c, at)
	}
	found := make([]Selection, k.rows.Batches())
	all := make([]scratch, rescue.Workers)
	err := rescue.Spread(ctx, k.rows.Batches(), func(w, i int) error {
		if slices.ContainsFunc(tests, func(t test) bool { return t.excludes(k.rows.Stats(i, t.col)) }) {
			return nil
		}
		from, to := k.rows.Span(i)
		pass := slices.Repeat([]bool{true}, to-from)
		for _, t := range tests {
			c, err := k.rows.Column(ctx, i, t.col)
			if err != nil {
				return err
			}
			t.mark(c, pass, &all[w])
		}
		if err := k.markFilled(ctx, i, where.Filled, pass); err != nil {
			return err
		}
		found[i] = numbersOf(pass, from)
		return nil
	})
	if err != nil {
		return nil, err
	}
	return append(Selection{}, slices.Concat(found...)...), nil
}

// numbersOf returns the numbers of the rows that passed, of which the first has the
// number from.
func numbersOf(pass []bool, from int) Selection {
	n := 0
	for _, ok := range pass {
		if ok {
			n++
		}
	}
	out := make(Selection, 0, n)
	for r, ok := range pass {
		if ok {
			out = append(out, uint32(from+r))
		}
	}
	return out
}

// test is a condition made ready.
type test struct {
	table.Condition
	col    int
	folded []string
	texts  map[string]bool
	ints   map[int64]bool
}

func ready(c table.Condition, col int) test {
	t := test{Condition: c, col: col, texts: map[string]bool{}, ints: map[int64]bool{}}
	for _, text := range c.Texts {
		t.folded = append(t.folded, fold.Text(text))
		t.texts[text] = true
	}
	for _, n := range c.Ints {
		t.ints[n] = true
	}
	return t
}

// excludes tells whether no row of a batch can meet the condition.
func (t *test) excludes(s frame.Stats, known bool) bool {
	if !known {
		return false
	}
	switch {
	case t.Test == table.Empty:
		return s.Nulls == 0
	case t.Test == table.Is && len(t.Ints) > 0:
		return slices.Min(t.Ints) > s.Greatest || slices.Max(t.Ints) < s.Least
	case t.Test == table.Is && len(t.Texts) > 0:
		return slices.Min(t.Texts) > s.Last || slices.Max(t.Texts) < s.First
	case t.Test == table.AtLeast && len(t.Ints) > 0:
		return s.Greatest < t.Ints[0]
	case t.Test == table.AtMost && len(t.Ints) > 0:
		return s.Least > t.Ints[0]
	}
	return false
}

// mark clears pass for the rows that fail the condition.
func (t *test) mark(c *frame.Column, pass []bool, s *scratch) {
	if t.Test == table.Empty || t.Test == table.NotEmpty {
		for r := range pass {
			pass[r] = pass[r] && c.Null(r) == (t.Test == table.Empty)
		}
		return
	}
	var before []bool
	if c.Nulls != nil {
		before = slices.Clone(pass)
	}
	if c.Texts != nil {
		t.markTexts(c, pass, s)
	} else {
		ints := c.Ints(&s.ints)
		t.markInts(ints, pass)
	}
	for r, null := range c.Nulls { // whatever stands in the place of their value
		if null {
			pass[r] = before[r] && t.Test == table.IsNot
		}
	}
}

func (t *test) markInts(cells []int64, pass []bool) {
	low, high := int64(math.MinInt64), int64(math.MaxInt64)
	switch {
	case t.Test == table.AtLeast:
		low = t.Ints[0]
	case t.Test == table.AtMost:
		high = t.Ints[0]
	case t.Test == table.Is && len(t.Ints) == 1:
		low, high = t.Ints[0], t.Ints[0]
	default:
		for r, x := range cells {
			pass[r] = pass[r] && t.ints[x] == (t.Test == table.Is)
		}
		return
	}
	for r, x := range cells {
		pass[r] = pass[r] && x >= low && x <= high
	}
}

// markTexts asks each distinct text once.
func (t *test) markTexts(c *frame.Column, pass []bool, s *scratch) {
	if !c.Coded {
		for r, text := range c.Texts {
			pass[r] = pass[r] && (c.Null(r) || t.meets(text))
		}
		return
	}
	met := make([]bool, max(len(c.Texts), 1))
	for i, text := range c.Texts {
		met[i] = t.meets(text)
	}
	codes := c.Codes(&s.codes)
	for r, code := range codes {
		pass[r] = pass[r] && (c.Null(r) || met[code])
	}
}

func (t *test) meets(text string) bool {
	switch t.Test {
	case table.Contains:
		return strings.Contains(fold.Text(text), t.folded[0])
	case table.AtLeast:
		return fold.Compare(fold.Text(text), text, t.folded[0], t.Texts[0]) >= 0
	case table.AtMost:
		return fold.Compare(fold.Text(text), text, t.folded[0], t.Texts[0]) <= 0
	}
	return t.texts[text] == (t.Test == table.Is)
}

// markFilled clears pass for the rows of which all of the columns are 0 or have no
// value; no columns clear none.
func (k *Table) markFilled(ctx context.Context, batch int, columns []int, pass []bool) error {
	if len(columns) == 0 {
		return nil
	}
	some := make([]bool, len(pass))
	for _, col := range columns {
		c, err := k.rows.Column(ctx, batch, col)
		if err != nil {
			return err
		}
		for r, x := range c.Ints(nil) { // 0 where there is no value
			some[r] = some[r] || x != 0
		}
	}
	for r := range pass {
		pass[r] = pass[r] && some[r]
	}
	return nil
}
