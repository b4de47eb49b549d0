package kept

import (
	"cmp"
	"context"
	"math/rand/v2"
	"slices"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/table"
)

var testSchema = frame.Schema{{Name: "name", Kind: frame.Text}, {Name: "n", Kind: frame.Integer},
	{Name: "kg", Kind: frame.Decimal, Scale: 3},
	{Name: "pay", Kind: frame.Money, Scale: 2, Currency: "EUR"}, {Name: "day", Kind: frame.Date},
	{Name: "at", Kind: frame.Timestamp},
	{Name: "ok", Kind: frame.Flag}}

// build makes a table of batches of size rows; nil cells have no value.
func build(t testing.TB, schema frame.Schema, size int, rows ...[]any) *Table {
	t.Helper()
	return Of(frametest.Rows(schema, size, rows...), table.Fresh{})
}

var testRows = [][]any{
	{"Éa", 3, 12500, 100, 20000, 1_000_000, 1},
	{"ash", nil, -250, 100, 20001, nil, 0},
	{nil, 1, nil, nil, nil, 2_000_000, nil},
	{"Birch", 3, 999_999_999_999_999_999, -5, 19999, 1_500_000, 1},
	{"ash", 2, 0, 7, 20000, 0, 0},
}

// total computes one figure of a column over the selected rows.
func (k *Table) total(ctx context.Context, within Selection, name string, op frame.Op) (frame.Value, error) {
	col, err := k.column(name)
	if err != nil {
		return frame.Value{}, err
	}
	g, err := k.group(ctx, within, nil)
	if err != nil {
		return frame.Value{}, err
	}
	of, err := g.measured(ctx, []table.Measure{{Column: col, Op: op}})
	if err != nil {
		return frame.Value{}, err
	}
	return of.Levels[0].Figures[0].Value(of.Fields[0], 0), nil
}

// conditioned returns the rows that meet conditions.
func (k *Table) conditioned(t *testing.T, conditions []table.Condition) (Selection, error) {
	t.Helper()
	return k.selected(t.Context(), table.Where{Conditions: conditions})
}

// measure computes one figure of every group.
func (g *grouping) measure(ctx context.Context, m table.Measure) (frame.Field, []frame.Vector, error) {
	own := *g
	own.levels = slices.Clone(g.levels)
	of, err := own.measured(ctx, []table.Measure{m})
	if err != nil {
		return frame.Field{}, nil, err
	}
	field, levels, _ := of.Figures(m)
	return field, levels, nil
}

// rowsOf returns the row numbers of one group.
func (g *grouping) rowsOf(t *testing.T, level, group int) Selection {
	t.Helper()
	order, err := g.gathered(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	l := &g.levels[level]
	return order[l.Rows[group]:l.Rows[group+1]]
}

func TestFilter(t *testing.T) {
	cases := []struct {
		name       string
		conditions []table.Condition
		want       Selection
	}{
		{"none", nil, nil},
		{"text is", []table.Condition{{Column: "name", Test: table.Is, Texts: []string{"ash"}}}, Selection{1, 4}},
		{"text is one of", []table.Condition{{Column: "name", Test: table.Is, Texts: []string{"Birch", "Éa"}}},
			Selection{0, 3}},
		{"text is not, and empty is not either",
			[]table.Condition{{Column: "name", Test: table.IsNot, Texts: []string{"ash"}}},
			Selection{0, 2, 3}},
		{"contains without case and accents",
			[]table.Condition{{Column: "name", Test: table.Contains, Texts: []string{"EA"}}},
			Selection{0}},
		{"text from on", []table.Condition{{Column: "name", Test: table.AtLeast, Texts: []string{"b"}}}, Selection{0, 3}},
		{"number at least", []table.Condition{{Column: "n", Test: table.AtLeast, Ints: []int64{2}}}, Selection{0, 3, 4}},
		{"number at most, empties fail", []table.Condition{{Column: "kg", Test: table.AtMost, Ints: []int64{0}}},
			Selection{1, 4}},
		{"number is none of", []table.Condition{{Column: "n", Test: table.IsNot, Ints: []int64{3, 2}}}, Selection{1, 2}},
		{"empty", []table.Condition{{Column: "n", Test: table.Empty}}, Selection{1}},
		{"not empty", []table.Condition{{Column: "day", Test: table.NotEmpty}}, Selection{0, 1, 3, 4}},
		{"two at once", []table.Condition{{Column: "ok", Test: table.Is, Ints: []int64{0}},
			{Column: "n", Test: table.NotEmpty}}, Selection{4}},
		{"nothing is left", []table.Condition{{Column: "n", Test: table.AtLeast, Ints: []int64{99}}}, Selection{}},
	}
	for _, size := range []int{2, 100} {
		f := build(t, testSchema, size, testRows...)
		for _, c := range cases {
			got, err := f.conditioned(t, c.conditions)
			if err != nil || !slices.Equal(got, c.want) || (got == nil) != (c.want == nil) {
				t.Errorf("%s, batches of %d: got %v, %v; want %v", c.name, size, got, err, c.want)
			}
		}
	}
}

func TestFilterRefuses(t *testing.T) {
	f := build(t, testSchema, 10, testRows...)
	for _, c := range []table.Condition{{Column: "nome", Test: table.Empty},
		{Column: "n", Test: table.Contains, Texts: []string{"1"}},
		{Column: "n", Test: table.Is}, {Column: "name", Test: table.AtMost}} {
		if got, err := f.conditioned(t, []table.Condition{c}); err == nil {
			t.Errorf("%+v selected %v", c, got)
		}
	}
}

func TestSort(t *testing.T) {
	cases := []struct {
		name   string
		within Selection
		keys   []frame.Key
		want   Selection
	}{
		{"text without case and accents, nulls last", nil, []frame.Key{{Column: "name"}}, Selection{1, 4, 3, 0, 2}},
		{"text descending, nulls still last", nil, []frame.Key{{Column: "name", Descending: true}}, Selection{0, 3, 1, 4, 2}},
		{"nulls first", nil, []frame.Key{{Column: "n", NullsFirst: true}}, Selection{1, 2, 4, 0, 3}},
		{"stable", nil, []frame.Key{{Column: "ok"}}, Selection{1, 4, 0, 3, 2}},
		{"negative decimals", nil, []frame.Key{{Column: "pay"}}, Selection{3, 4, 0, 1, 2}},
		{"two keys", nil, []frame.Key{{Column: "n", Descending: true}, {Column: "kg"}}, Selection{0, 3, 4, 2, 1}},
		{"within", Selection{0, 2, 4}, []frame.Key{{Column: "day"}, {Column: "kg"}}, Selection{4, 0, 2}},
	}
	for _, size := range []int{2, 100} {
		f := build(t, testSchema, size, testRows...)
		for _, c := range cases {
			got, err := f.sort(t.Context(), c.within, c.keys)
			if err != nil || !slices.Equal(got, c.want) {
				t.Errorf("%s, batches of %d: got %v, %v; want %v", c.name, size, got, err, c.want)
			}
		}
	}
	if _, err := build(t, testSchema, 2, testRows...).sort(t.Context(), nil, []frame.Key{{Column: "nome"}}); err == nil {
		t.Error("sorted by a column that does not exist")
	}
}

// TestSortAgreesWithTheStandardLibrary compares with slices.SortStableFunc on
// random rows of wide and narrow numbers.
func TestSortAgreesWithTheStandardLibrary(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	schema := frame.Schema{{Name: "wide", Kind: frame.Integer}, {Name: "narrow", Kind: frame.Integer}}
	rows := make([][]any, 5000)
	for i := range rows {
		rows[i] = []any{int(r.Uint64()), r.IntN(7) - 3}
	}
	f := build(t, schema, 700, rows...)
	got, err := f.sort(t.Context(), nil, []frame.Key{{Column: "narrow", Descending: true}, {Column: "wide"}})
	if err != nil {
		t.Fatal(err)
	}
	want := make(Selection, len(rows))
	for i := range want {
		want[i] = uint32(i)
	}
	slices.SortStableFunc(want, func(a, b uint32) int {
		return cmp.Or(cmp.Compare(rows[b][1].(int), rows[a][1].(int)), cmp.Compare(rows[a][0].(int), rows[b][0].(int)))
	})
	if !slices.Equal(got, want) {
		t.Error("the orders differ")
	}
}

func TestTotal(t *testing.T) {
	f := build(t, testSchema, 2, testRows...)
	cases := []struct {
		within Selection
		column string
		op     frame.Op
		want   string
	}{
		{nil, "n", frame.Sum, "9"}, {nil, "n", frame.Avg, "2.25"}, {nil, "n", frame.Min, "1"}, {nil, "n", frame.Max, "3"},
		{nil, "n", frame.Count, "4"},
		{nil, "n", frame.Distinct, "3"},
		{nil, "kg", frame.Sum, "1000000000000012.249"}, {Selection{0, 1}, "kg", frame.Avg, "6.12500"},
		{nil, "pay", frame.Avg, "0.51"},
		{nil, "name", frame.Min, "ash"}, {nil, "name", frame.Max, "Éa"}, {nil, "name", frame.Distinct, "3"},
		{nil, "day", frame.Min, "2024-10-03"},
		{nil, "ok", frame.Count, "4"}, {nil, "at", frame.Max, "1970-01-01T00:00:02Z"},
		{Selection{}, "n", frame.Sum, ""}, {Selection{}, "n", frame.Count, "0"}, {Selection{2}, "kg", frame.Max, ""},
		{Selection{4, 3}, "n", frame.Sum, "5"},
	}
	for _, c := range cases {
		got, err := f.total(t.Context(), c.within, c.column, c.op)
		if err != nil || got.String() != c.want || got.Null != (c.want == "") {
			t.Errorf("%s of %s within %v: got %q, %v; want %q", c.op, c.column, c.within, got, err, c.want)
		}
	}
	if _, err := f.total(t.Context(), nil, "name", frame.Sum); err == nil {
		t.Error("texts were added up")
	}
}

func TestSumDoesNotOverflow(t *testing.T) {
	rows := make([][]any, 40)
	for i := range rows {
		rows[i] = []any{999_999_999_999_999_999}
	}
	f := build(t, frame.Schema{{Name: "v", Kind: frame.Decimal, Scale: 2}}, 7, rows...)
	got, err := f.total(t.Context(), nil, "v", frame.Sum)
	if err != nil || got.String() != "399999999999999999.60" { // 40 times 9 999 999 999 999 999.99
		t.Errorf("got %s, %v", got, err)
	}
	for i := range rows {
		rows[i] = []any{-999_999_999_999_999_999}
	}
	if got, err = build(t, frame.Schema{{Name: "v", Kind: frame.Decimal, Scale: 2}}, 7, rows...).total(t.Context(), nil,
		"v",
		frame.Sum); got.String() != "-399999999999999999.60" {
		t.Errorf("got %s, %v", got, err)
	}
}
