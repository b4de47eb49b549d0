package frame

import (
	"cmp"
	"math/rand/v2"
	"slices"
	"testing"
)

// manyFrame has more rows than are gathered one by one.
func manyFrame(t *testing.T) *Frame {
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
	many, err := f.Take(order, []int{2, 0, 3})
	if err != nil {
		t.Fatal(err)
	}
	for first := 0; first < len(order); first += 100 {
		count := min(100, len(order)-first)
		few, err := f.Take(order[first:first+count], []int{2, 0, 3})
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
	for _, key := range []Key{{Column: "kg"}, {Column: "kg", Descending: true}, {Column: "far"},
		{Column: "far", Descending: true, NullsFirst: true}, {Column: "region"}} {
		got, err := f.Sort(nil, []Key{key})
		if err != nil {
			t.Fatal(err)
		}
		col := groupSchema.Index(key.Column)
		values := make([]Value, f.Rows())
		for i := range f.Batches() {
			b, err := f.Batch(i)
			if err != nil {
				t.Fatal(err)
			}
			for r := range b.Rows {
				values[i*1000+r] = b.Value(col, r)
			}
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
			case x.Kind == Text:
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
	all, err := f.Group(nil, []int{0, 1})
	if err != nil {
		t.Fatal(err)
	}
	for op := Sum; op < Ratio; op++ {
		m := Measure{Column: 2, Op: op, Percent: Exact(75, 0)}
		field, figures, err := all.Measure(m)
		if err != nil {
			t.Fatal(err)
		}
		for group := range all.Levels[1].Len() {
			own, err := f.Group(slices.Sorted(slices.Values(all.RowsOf(1, group))), nil)
			if err != nil {
				t.Fatal(err)
			}
			_, again, err := own.Measure(m)
			if err != nil {
				t.Fatal(err)
			}
			if a, b := figures[1].Value(field, group), again[0].Value(field, 0); a != b {
				t.Errorf("%s of group %d is %s, of its rows alone %s", op, group, a, b)
			}
		}
	}
	sorted, err := f.Sort(nil, []Key{{Column: "kg"}})
	if err != nil {
		t.Fatal(err)
	}
	gathered := all.Gather(sorted)
	if !slices.Equal(slices.Sorted(slices.Values(gathered)), slices.Sorted(slices.Values(all.Order()))) {
		t.Error("gathering in another order loses rows")
	}
}

func TestMark(t *testing.T) {
	f := build(t, groupSchema, 2, groupRows...)
	hits := make([]bool, f.Rows())
	if err := f.Mark(nil, 0, func(v Value) bool { return v.Text == "North" }, hits); err != nil {
		t.Fatal(err)
	}
	if err := f.Mark(Selection{1, 3}, 2, func(v Value) bool { return v.Int() > 0 }, hits); err != nil {
		t.Fatal(err)
	}
	if !slices.Equal(hits, []bool{true, false, true, true, true, false}) {
		t.Errorf("marked %v", hits)
	}
}
