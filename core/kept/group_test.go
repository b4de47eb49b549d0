package kept

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/table"
)

var groupSchema = frame.Schema{{Name: "region", Kind: frame.Text}, {Name: "day", Kind: frame.Date},
	{Name: "kg", Kind: frame.Decimal, Scale: 1},
	{Name: "far", Kind: frame.Integer}}

var groupRows = [][]any{
	{"North", 10, 15, 7},
	{"South", 10, -5, 1 << 40},
	{"North", 11, nil, 7},
	{nil, 10, 30, nil},
	{"North", 10, 20, -(1 << 40)},
	{"south", nil, 45, 7},
}

// tree writes groups as one line each: indented path, size and figure.
func tree(t *testing.T, g *grouping, m table.Measure) string {
	t.Helper()
	field, figures, err := g.measure(t.Context(), m)
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	var write func(level, group int)
	write = func(level, group int) {
		l := &g.levels[level]
		name := "all"
		if level > 0 {
			name = l.Keys.Value(l.Field, group).String()
		}
		fmt.Fprintf(&b, "%s%s %d %s\n", strings.Repeat(" ", level), name, l.Size(group), figures[level].Value(field, group))
		if level+1 < len(g.levels) {
			for child := l.Children[group]; child < l.Children[group+1]; child++ {
				write(level+1, child)
			}
		}
	}
	write(0, 0)
	return b.String()
}

func TestGroupGathersInOrderLevelByLevel(t *testing.T) {
	for _, size := range []int{1, 4, 100} {
		f := build(t, groupSchema, size, groupRows...)
		g, err := f.group(t.Context(), nil, []int{0, 1})
		if err != nil {
			t.Fatal(err)
		}
		want := `all 6 10.5
 North 3 3.5
  1970-01-11 2 3.5
  1970-01-12 1 
 South 1 -0.5
  1970-01-11 1 -0.5
 south 1 4.5
   1 4.5
  1 3.0
  1970-01-11 1 3.0
`
		if got := tree(t, g, table.Measure{Column: 2, Op: frame.Sum}); got != want {
			t.Errorf("batches of %d: got\n%swant\n%s", size, got, want)
		}
		if got := g.rowsOf(t, 1, 0); !slices.Equal(got, Selection{0, 4, 2}) {
			t.Errorf("the rows of North are %v", got)
		}
	}
}

func TestMeasures(t *testing.T) {
	f := build(t, groupSchema, 2, groupRows...)
	for _, c := range []struct {
		column int
		op     frame.Op
		want   string // all, North, South, south, none
	}{
		{2, frame.Sum, "10.5 3.5 -0.5 4.5 3.0"},
		{2, frame.Count, "5 2 1 1 1"},
		{2, frame.Avg, "2.100 1.750 -0.500 4.500 3.000"},
		{2, frame.Min, "-0.5 1.5 -0.5 4.5 3.0"},
		{2, frame.Max, "4.5 2.0 -0.5 4.5 3.0"},
		{2, frame.First, "1.5 1.5 -0.5 4.5 3.0"},
		{2, frame.Last, "4.5 2.0 -0.5 4.5 3.0"},
		{2, frame.Median, "2.000 1.750 -0.500 4.500 3.000"},
		{2, frame.Stddev, "1.851 0.354   "},
		{2, frame.Distinct, "5 2 1 1 1"},
		{3, frame.Distinct, "3 2 1 1 0"},
		{3, frame.Max, "1099511627776 7 1099511627776 7 "},
		{1, frame.Min, "1970-01-11 1970-01-11 1970-01-11  1970-01-11"},
		{0, frame.Min, "North North South south "},
		{0, frame.Max, "south North South south "},
		{0, frame.First, "North North South south "},
		{0, frame.Distinct, "3 1 1 1 0"},
	} {
		for _, within := range []Selection{nil, {0, 1, 2, 3, 4, 5}} {
			g, err := f.group(t.Context(), within, []int{0})
			if err != nil {
				t.Fatal(err)
			}
			field, figures, err := g.measure(t.Context(), table.Measure{Column: c.column, Op: c.op})
			if err != nil {
				t.Fatal(err)
			}
			got := []string{figures[0].Value(field, 0).String()}
			for i := range g.levels[1].Len() {
				got = append(got, figures[1].Value(field, i).String())
			}
			if strings.Join(got, " ") != c.want {
				t.Errorf("%s of %s: got %q, want %q", c.op, groupSchema[c.column].Name, strings.Join(got, " "), c.want)
			}
		}
	}
}

func TestMeasuresOfNothing(t *testing.T) {
	f := build(t, groupSchema, 2, groupRows...)
	none := build(t, groupSchema, 2)
	for _, f := range []*Table{f, none} {
		g, err := f.group(t.Context(), Selection{}, []int{0, 1})
		if err != nil {
			t.Fatal(err)
		}
		for op := frame.Sum; op < frame.Ratio; op++ {
			field, figures, err := g.measure(t.Context(), table.Measure{Column: 2, Op: op})
			if err != nil {
				t.Fatal(err)
			}
			want := map[bool]string{true: "0"}[op == frame.Count || op == frame.Distinct]
			if got := figures[0].Value(field, 0).String(); got != want || len(figures) != 3 || g.levels[2].Len() != 0 {
				t.Errorf("%s of nothing is %q", op, got)
			}
		}
	}
}

func TestMeasureRefuses(t *testing.T) {
	f := build(t, groupSchema, 2, groupRows...)
	g, err := f.group(t.Context(), nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, op := range []frame.Op{frame.Sum, frame.Avg, frame.Median, frame.Percentile, frame.Stddev, frame.Ratio,
		frame.NoTotal} {
		if _, _, err := g.measure(t.Context(), table.Measure{Column: 0, Op: op}); err == nil {
			t.Errorf("a text has a %s", op)
		}
	}
	if _, err := f.group(t.Context(), nil, []int{9}); err == nil {
		t.Error("rows were grouped by a column that is not there")
	}
}

func TestPercentileInterpolates(t *testing.T) {
	rows := [][]any{}
	for _, x := range []int{40, 10, 30, 20} {
		rows = append(rows, []any{"x", 0, x, 0})
	}
	f := build(t, groupSchema, 3, rows...)
	g, err := f.group(t.Context(), nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	for percent, want := range map[int64]string{0: "1.000", 10: "1.300", 25: "1.750", 50: "2.500", 90: "3.700",
		100: "4.000"} {
		field, v, err := g.measure(t.Context(),
			table.Measure{Column: 2, Op: frame.Percentile, Percent: frame.Exact(percent, 0)})
		if got := v[0].Value(field, 0).String(); err != nil || got != want {
			t.Errorf("%d: got %s, %v; want %s", percent, got, err, want)
		}
	}
}

func TestSumsBeyond64BitsAreExact(t *testing.T) {
	const large = 999_999_999_999_999_999
	var rows [][]any
	for range 40 {
		rows = append(rows, []any{"x", 0, large, 0}, []any{"y", 0, -large, 0})
	}
	f := build(t, groupSchema, 7, rows...)
	g, err := f.group(t.Context(), nil, []int{0})
	if err != nil {
		t.Fatal(err)
	}
	want := "all 80 0.0\n x 40 3999999999999999996.0\n y 40 -3999999999999999996.0\n"
	if got := tree(t, g, table.Measure{Column: 2, Op: frame.Sum}); got != want {
		t.Errorf("got\n%s", got)
	}
}

// randomFrame makes rows whose texts, days and numbers repeat, with holes.
func randomFrame(t *testing.T, r *rand.Rand, n, size int) (*Table, [][]any) {
	t.Helper()
	schema := slices.Concat(groupSchema, frame.Schema{{Name: "site", Kind: frame.Text}})
	rows := make([][]any, n)
	hole := func(v any) any {
		if r.IntN(9) == 0 {
			return nil
		}
		return v
	}
	for i := range rows {
		rows[i] = []any{hole(fmt.Sprint("r", r.IntN(4))), hole(r.IntN(30)), hole(r.IntN(2000) - 1000), hole(r.IntN(3) << 40),
			hole(fmt.Sprint("s", r.IntN(n)))}
	}
	return build(t, schema, size, rows...), rows
}

func TestSubtotalsAddUpToTotals(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 60 {
		f, _ := randomFrame(t, r, 1+r.IntN(200), 1+r.IntN(50))
		within, err := f.conditioned(t,
			[]table.Condition{{Column: "kg", Test: table.AtLeast, Ints: []int64{int64(r.IntN(1500) - 1200)}}})
		if err != nil {
			t.Fatal(err)
		}
		by := [][]int{{0, 1}, {1, 0, 4}, {3, 4}, {4, 3, 1, 0}, nil}[r.IntN(5)]
		g, err := f.group(t.Context(), within, by)
		if err != nil {
			t.Fatal(err)
		}
		for _, op := range []frame.Op{frame.Sum, frame.Count} {
			field, figures, err := g.measure(t.Context(), table.Measure{Column: 2, Op: op})
			if err != nil {
				t.Fatal(err)
			}
			for level := range len(g.levels) - 1 {
				l := &g.levels[level]
				for group := range l.Len() {
					sum, size := frame.Exact(0, field.Scale), 0
					for child := l.Children[group]; child < l.Children[group+1]; child++ {
						sum = sum.Plus(figures[level+1].Value(field, child).Number, 1)
						size += g.levels[level+1].Size(child)
					}
					if own := figures[level].Value(field, group); own.Number.Compare(sum) != 0 || size != l.Size(group) {
						t.Fatalf("by %v, level %d, group %d: %s of %d rows, its parts %s of %d", by, level, group, own, l.Size(group),
							sum, size)
					}
				}
			}
		}
	}
}

func TestTheRowsOfAGroupHaveItsFigure(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 40 {
		f, _ := randomFrame(t, r, 1+r.IntN(120), 1+r.IntN(50))
		g, err := f.group(t.Context(), nil, []int{0, 1})
		if err != nil {
			t.Fatal(err)
		}
		for op := frame.Sum; op < frame.Ratio; op++ {
			field, figures, err := g.measure(t.Context(), table.Measure{Column: 2, Op: op, Percent: frame.Exact(30, 0)})
			if err != nil {
				t.Fatal(err)
			}
			level := r.IntN(3)
			group := r.IntN(g.levels[level].Len())
			rows := slices.Sorted(slices.Values(g.rowsOf(t, level, group)))
			own, err := f.group(t.Context(), rows, nil)
			if err != nil {
				t.Fatal(err)
			}
			_, again, err := own.measure(t.Context(), table.Measure{Column: 2, Op: op, Percent: frame.Exact(30, 0)})
			if err != nil {
				t.Fatal(err)
			}
			if a, b := figures[level].Value(field, group), again[0].Value(field, 0); a != b {
				t.Fatalf("%s of a group is %s, of its rows %s", op, a, b)
			}
		}
	}
}
