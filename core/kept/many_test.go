package kept

import (
	"cmp"
	"iter"
	"math/rand/v2"
	"slices"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// manyFrame has more rows than are gathered one by one.
func manyFrame(t *testing.T) *Table {
	t.Helper()
	r := rand.New(rand.NewPCG(13, 14))
	rows := make([][]any, 3*manyRows)
	for i := range rows {
		rows[i] = []any{[]string{"a", "b", "c"}[r.IntN(3)], r.IntN(50), r.IntN(1000) - 500, r.IntN(3) << 40}
		if i%7 == 0 {
			rows[i][i/7%4] = nil
		}
	}
	return build(t, groupSchema, 1000, rows...)
}

func TestManyRowsAreTakenAsFewAre(t *testing.T) {
	f := manyFrame(t)
	order := make([]uint32, f.Rows())
	for i := range order {
		order[i] = uint32(i)
	}
	rand.New(rand.NewPCG(15, 16)).Shuffle(len(order), func(i, j int) { order[i], order[j] = order[j], order[i] })
	many, err := f.Take(t.Context(), order, []int{2, 0, 3})
	if err != nil {
		t.Fatal(err)
	}
	for first := 0; first < len(order); first += 100 {
		count := min(100, len(order)-first)
		few, err := f.Take(t.Context(), order[first:first+count], []int{2, 0, 3})
		if err != nil {
			t.Fatal(err)
		}
		for r := range count {
			for c := range 3 {
				if a, b := many.Value(c, first+r), few.Value(c, r); a != b {
					t.Fatalf("row %d, column %d: %+v and %+v", first+r, c, a, b)
				}
			}
		}
	}
}

func TestSortingIsStableHoweverManyRows(t *testing.T) {
	f := manyFrame(t)
	for _, key := range []frame.Key{{Column: "kg"}, {Column: "kg", Descending: true}, {Column: "far"},
		{Column: "far", Descending: true, NullsFirst: true}, {Column: "region"}} {
		got, err := f.sort(t.Context(), nil, []frame.Key{key})
		if err != nil {
			t.Fatal(err)
		}
		col := groupSchema.Index(key.Column)
		values := make([]frame.Value, f.Rows())
		all, err := f.Take(t.Context(), slices.Collect(numbered(f.Rows())), nil)
		if err != nil {
			t.Fatal(err)
		}
		for r := range values {
			values[r] = all.Value(col, r)
		}
		want := make(Selection, f.Rows())
		for i := range want {
			want[i] = uint32(i)
		}
		slices.SortStableFunc(want, func(a, b uint32) int {
			x, y := values[a], values[b]
			switch {
			case x.Null || y.Null:
				first := map[bool]int{true: -1, false: 1}[key.NullsFirst]
				return first * (map[bool]int{true: 1}[x.Null] - map[bool]int{true: 1}[y.Null])
			case x.Kind == frame.Text:
				return cmp.Compare(x.Text, y.Text)
			case key.Descending:
				return y.Number.Compare(x.Number)
			}
			return x.Number.Compare(y.Number)
		})
		if !slices.Equal(got, want) {
			t.Errorf("by %+v the order is not that of a stable sort", key)
		}
	}
}

func TestGroupsOfManyRowsAgreeWithFew(t *testing.T) {
	f := manyFrame(t)
	all, err := f.group(t.Context(), nil, []int{0, 1})
	if err != nil {
		t.Fatal(err)
	}
	for op := frame.Sum; op < frame.Ratio; op++ {
		m := table.Measure{Column: 2, Op: op, Percent: frame.Exact(75, 0)}
		field, figures, err := all.measure(t.Context(), m)
		if err != nil {
			t.Fatal(err)
		}
		for group := range all.levels[1].Len() {
			own, err := f.group(t.Context(), slices.Sorted(slices.Values(all.rowsOf(t, 1, group))), nil)
			if err != nil {
				t.Fatal(err)
			}
			_, again, err := own.measure(t.Context(), m)
			if err != nil {
				t.Fatal(err)
			}
			if a, b := figures[1].Value(field, group), again[0].Value(field, 0); a != b {
				t.Errorf("%s of group %d is %s, of its rows alone %s", op, group, a, b)
			}
		}
	}
	sorted, err := f.sort(t.Context(), nil, []frame.Key{{Column: "kg"}})
	if err != nil {
		t.Fatal(err)
	}
	gathered, err := all.gathered(t.Context(), sorted)
	if err != nil {
		t.Fatal(err)
	}
	plain, err := all.gathered(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	if !slices.Equal(slices.Sorted(slices.Values(gathered)), slices.Sorted(slices.Values(plain))) {
		t.Error("gathering in another order loses rows")
	}
}

// that is sought in cells of one kind.
type that struct {
	kind  frame.Kind
	holds func(frame.Value) bool
}

// In tells of the cells of the kind.
func (x that) In(f frame.Field) func(c *frame.Column, row int) bool {
	if f.Kind != x.kind {
		return nil
	}
	return func(c *frame.Column, row int) bool { return x.holds(c.Value(f, row)) }
}

func TestFind(t *testing.T) {
	f := build(t, groupSchema, 2, groupRows...)
	north := that{frame.Text, func(v frame.Value) bool { return v.Text == "North" }}
	positive := that{frame.Decimal, func(v frame.Value) bool { return v.Int() > 0 }}
	some := table.Where{Conditions: []table.Condition{{Column: "day", Test: table.Is, Ints: []int64{10}}}}
	for _, c := range []struct {
		order  table.Order
		sought table.Sought
		want   []uint32
	}{
		{table.Order{}, north, []uint32{0, 2, 4}},
		{table.Order{Where: some}, north, []uint32{0, 3}},
		{table.Order{Where: some}, positive, []uint32{0, 2, 3}},
		{table.Order{Keys: []frame.Key{{Column: "kg", Descending: true}}}, positive, []uint32{0, 1, 2, 3}},
		{table.Order{By: []int{0}}, north, []uint32{0, 1, 2}},
		{table.Order{}, that{frame.Flag, nil}, []uint32{}},
	} {
		got, err := f.Find(t.Context(), c.order, []int{0, 2}, c.sought)
		if err != nil || !slices.Equal(got, c.want) {
			t.Errorf("%+v: got %v, %v; want %v", c.order, got, err, c.want)
		}
	}
}

// numbered is the numbers below n.
func numbered(n int) iter.Seq[uint32] {
	return func(yield func(uint32) bool) {
		for i := range n {
			if !yield(uint32(i)) {
				return
			}
		}
	}
}

// TestTheFirstRowsOfAnOrderAreThoseOfTheWhole compares the rows found without sorting
// with the beginning of the sorted.
func TestTheFirstRowsOfAnOrderAreThoseOfTheWhole(t *testing.T) {
	f := manyFrame(t)
	some, err := f.filter(t.Context(),
		table.Where{Conditions: []table.Condition{{Column: "day", Test: table.AtLeast, Ints: []int64{20}}}})
	if err != nil {
		t.Fatal(err)
	}
	for _, keys := range [][]frame.Key{
		{{Column: "kg"}},
		{{Column: "kg", Descending: true}},
		{{Column: "region"}, {Column: "day", Descending: true}},
		{{Column: "region", Descending: true, NullsFirst: true}, {Column: "far"}, {Column: "kg"}},
		{{Column: "far", Descending: true}},
		{{Column: "far", NullsFirst: true}, {Column: "region"}},
	} {
		for _, within := range []Selection{nil, some, {}} {
			all, err := f.sort(t.Context(), within, keys)
			if err != nil {
				t.Fatal(err)
			}
			for _, most := range []int{1, 50, 3000, 20_000} {
				got, err := f.least(t.Context(), within, keys, most)
				if want := all[:min(most, len(all))]; err != nil || !slices.Equal(got, want) {
					t.Fatalf("the first %d by %v of %d rows are not those of the order (%v)", most, keys, len(within), err)
				}
			}
		}
	}
}
