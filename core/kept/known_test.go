package kept

import (
	"context"
	"sync/atomic"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// TestWhatIsKnownSparesLoading holds that batches which cannot meet a filter, and totals
// of all rows, need no cells.
func TestWhatIsKnownSparesLoading(t *testing.T) {
	plain := numbers(t, 10, func() (values []int64) {
		for i := range 1000 {
			values = append(values, int64(i))
		}
		return values
	}()...)
	var loaded atomic.Int64
	f := plain.rows
	lengths := make([]int, f.Batches())
	for i := range lengths {
		from, to := f.Span(i)
		lengths[i] = to - from
	}
	k := Of(frame.Lazy(f.Schema(), lengths, func(ctx context.Context, batch, col int) (*frame.Column, error) {
		loaded.Add(1)
		return f.Column(ctx, batch, col)
	}, f.Stats), table.Fresh{})
	for _, c := range []struct {
		condition table.Condition
		rows      int
		most      int64 // columns that are loaded
	}{
		{table.Condition{Column: "n", Test: table.Is, Ints: []int64{515}}, 1, 1},
		{table.Condition{Column: "n", Test: table.Is, Ints: []int64{5, 995}}, 2, 100},
		{table.Condition{Column: "n", Test: table.AtLeast, Ints: []int64{980}}, 20, 2},
		{table.Condition{Column: "n", Test: table.AtMost, Ints: []int64{9}}, 10, 1},
		{table.Condition{Column: "n", Test: table.Is, Ints: []int64{5000}}, 0, 0},
		{table.Condition{Column: "n", Test: table.Empty}, 0, 0},
	} {
		loaded.Store(0)
		n, err := k.Count(t.Context(), table.Where{Conditions: []table.Condition{c.condition}})
		if err != nil || n != c.rows || loaded.Load() > c.most {
			t.Errorf("%+v: %d rows of %d loaded columns, %v", c.condition, n, loaded.Load(), err)
		}
	}
	loaded.Store(0)
	sum := table.Measure{Op: frame.Sum}
	g, err := k.Groups(t.Context(), table.Where{}, nil, []table.Measure{sum, {Op: frame.Count}, {Op: frame.Avg}})
	if err != nil || loaded.Load() > 0 {
		t.Fatalf("%d columns were loaded for totals, %v", loaded.Load(), err)
	}
	for i, want := range []string{"499500", "1000", "499.50"} {
		if got := g.Levels[0].Figures[i].Value(g.Fields[i], 0).String(); got != want {
			t.Errorf("%s is %s, not %s", g.Measures[i].Op, got, want)
		}
	}
}
