package kept

import (
	"context"
	"errors"
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"sync/atomic"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// numbers is a table of one whole-number column.
func numbers(t testing.TB, size int, values ...int64) *Table {
	t.Helper()
	var rows [][]any
	for _, v := range values {
		rows = append(rows, []any{v})
	}
	return build(t, frame.Schema{{Name: "n", Kind: frame.Integer}}, size, rows...)
}

// with is a table with a column that is made otherwise than by a formula.
func with(k *Table, make frame.Load) *Table {
	return Of(k.rows.With(frame.Schema{{Name: "made", Kind: frame.Integer}}, make), table.Fresh{})
}

func TestAPanicOfParallelWorkIsAnErrorOfItsCaller(t *testing.T) {
	f := with(numbers(t, 1, 1, 2, 3, 4, 5), func(_ context.Context, i, _ int) (*frame.Column, error) {
		return frame.ColumnOf(frame.Vector{Ints: []int64{[]int64{1, 2}[i]}}), nil // there are five batches
	})
	_, err := f.total(t.Context(), nil, "made", frame.Sum)
	var p *rescue.Panic
	if !errors.As(err, &p) {
		t.Errorf("the total is %v", err)
	}
	if _, err := f.sort(t.Context(), nil, []frame.Key{{Column: "made"}}); !errors.As(err, &p) {
		t.Errorf("the order is %v", err)
	}
}

// TestEveryCallStopsWithItsContext lets a reader leave as soon as a column is loaded.
func TestEveryCallStopsWithItsContext(t *testing.T) {
	why := errors.New("the reader left")
	values := make([]int64, 64)
	for i := range values {
		values[i] = int64(i)
	}
	where := table.Where{Conditions: []table.Condition{{Column: "made", Test: table.AtLeast, Ints: []int64{1}}}}
	order := table.Order{Keys: []frame.Key{{Column: "made"}}}
	for name, ask := range map[string]func(context.Context, table.Table) error{
		"count": func(ctx context.Context, k table.Table) error { _, err := k.Count(ctx, where); return err },
		"filled": func(ctx context.Context, k table.Table) error {
			_, err := k.Count(ctx, table.Where{Filled: []int{1}})
			return err
		},
		"groups": func(ctx context.Context, k table.Table) error {
			_, err := k.Groups(ctx, table.Where{}, []int{1}, nil)
			return err
		},
		"sums": func(ctx context.Context, k table.Table) error {
			_, err := k.Groups(ctx, table.Where{}, nil, []table.Measure{{Column: 1, Op: frame.Sum}})
			return err
		},
		"median": func(ctx context.Context, k table.Table) error {
			_, err := k.Groups(ctx, table.Where{}, nil, []table.Measure{{Column: 1, Op: frame.Median}})
			return err
		},
		"page": func(ctx context.Context, k table.Table) error { _, _, err := k.Page(ctx, order, 0, 5, nil); return err },
		"each": func(ctx context.Context, k table.Table) error {
			return k.Each(ctx, table.Order{}, []int{1}, func(*frame.Batch) error { return nil })
		},
		"find": func(ctx context.Context, k table.Table) error {
			_, err := k.Find(ctx, table.Order{}, []int{1}, that{frame.Integer, func(frame.Value) bool { return true }})
			return err
		},
		"take": func(ctx context.Context, k table.Table) error {
			_, err := k.Take(ctx, slices.Collect(numbered(64)), []int{1})
			return err
		},
	} {
		ctx, stop := context.WithCancelCause(t.Context())
		var loaded atomic.Int64
		k := with(numbers(t, 1, values...), func(_ context.Context, i, _ int) (*frame.Column, error) {
			if loaded.Add(1) >= 3 { // by whoever comes, since one that is interrupted within may come late
				stop(why)
			}
			return frame.ColumnOf(frame.Vector{Ints: []int64{values[i]}}), nil
		})
		if err := ask(ctx, k); !errors.Is(err, why) {
			t.Errorf("%s: %v", name, err)
		}
		if n := loaded.Load(); n > int64(3+rescue.Workers) {
			t.Errorf("%s: %d columns were loaded, most of them after the end", name, n)
		}
		stop(nil)
	}
}

// The deviation is compared with one in exact fractions, of numbers as large as
// cells hold.
func TestDeviationsOfLargeNumbersAreRightToTheLastPlace(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for _, near := range []int64{0, 1_000_000, 999_999_999_999_000_000, -999_999_999_999_000_000} {
		values := make([]int64, 50)
		for i := range values {
			values[i] = near + r.Int64N(1000)
		}
		got, err := numbers(t, 7, values...).total(t.Context(), nil, "n", frame.Stddev)
		if err != nil {
			t.Fatal(err)
		}
		if want := exactDeviation(values); got.String() != want {
			t.Errorf("near %d: %s, not %s", near, got, want)
		}
	}
}

// exactDeviation is the sample standard deviation to two places by the
// definition: the root of the mean square distance from the mean.
func exactDeviation(values []int64) string {
	mean := new(big.Rat)
	for _, v := range values {
		mean.Add(mean, new(big.Rat).SetInt64(v))
	}
	mean.Quo(mean, new(big.Rat).SetInt64(int64(len(values))))
	sum := new(big.Rat)
	for _, v := range values {
		d := new(big.Rat).Sub(new(big.Rat).SetInt64(v), mean)
		sum.Add(sum, d.Mul(d, d))
	}
	sum.Quo(sum, new(big.Rat).SetInt64(int64(len(values)-1)))
	root := new(big.Float).SetPrec(500).SetRat(sum)
	return fmt.Sprintf("%.2f", root.Sqrt(root))
}

func TestNonZeroAndFilled(t *testing.T) {
	f := numbers(t, 2, 0, 3, 0, 0, -1)
	if rows, err := f.selected(t.Context(), table.Where{Filled: []int{0}}); err != nil || fmt.Sprint(rows) != "[1 4]" {
		t.Fatalf("%v, %v", rows, err)
	}
	g, err := f.group(t.Context(), Selection{0, 1, 2, 3}, []int{0})
	if err != nil {
		t.Fatal(err)
	}
	_, counts, err := g.measure(t.Context(), table.Measure{Column: 0, Op: frame.NonZero})
	if err != nil || fmt.Sprint(counts[0].Ints, counts[1].Ints) != "[1] [0 1]" {
		t.Errorf("%v, %v", counts, err)
	}
	if fmt.Sprint(g.levels[1].Keys.Ints) != "[0 3]" {
		t.Errorf("groups %v", g.levels[1].Keys.Ints)
	}
}

// TestBatchesMayBeOfAnyLength asks rows in batches of all lengths what it asks those in
// one batch.
func TestBatchesMayBeOfAnyLength(t *testing.T) {
	whole := manyFrame(t)
	r := rand.New(rand.NewPCG(9, 9))
	var lengths []int
	for left := whole.Rows(); left > 0; {
		n := min(r.IntN(900), left)
		lengths, left = append(lengths, n), left-n
	}
	starts := []int{0}
	for _, n := range lengths {
		starts = append(starts, starts[len(starts)-1]+n)
	}
	uneven := Of(frame.Lazy(groupSchema, lengths, func(ctx context.Context, batch, col int) (*frame.Column, error) {
		var numbers []uint32
		for row := starts[batch]; row < starts[batch+1]; row++ {
			numbers = append(numbers, uint32(row))
		}
		b, err := whole.Take(ctx, numbers, []int{col})
		if err != nil {
			return nil, err
		}
		return frame.ColumnOf(*b.Column(0).Vector()), nil
	}, nil), table.Fresh{})
	where := table.Where{Conditions: []table.Condition{{Column: "day", Test: table.AtMost, Ints: []int64{30}}}}
	measures := []table.Measure{{Column: 2, Op: frame.Sum}, {Column: 3, Op: frame.Distinct}, {Column: 0, Op: frame.Last}}
	order := table.Order{Where: where, By: []int{0}, Keys: []frame.Key{{Column: "kg"}}}
	var told []string
	for _, k := range []*Table{whole, uneven} {
		g, err := k.Groups(t.Context(), where, []int{0, 1}, measures)
		if err != nil {
			t.Fatal(err)
		}
		_, numbers, err := k.Page(t.Context(), order, 100, 5000, nil)
		if err != nil {
			t.Fatal(err)
		}
		told = append(told, fmt.Sprintf("%+v %v", g.Levels, numbers))
	}
	if told[0] != told[1] {
		t.Error("rows in uneven batches give other figures or another order")
	}
}

// TestAskingChangesNoCells asks all that uses memory again, of batches of all widths, and
// holds that the rows are as they were.
func TestAskingChangesNoCells(t *testing.T) {
	values := []int64{1 << 40, -(1 << 41), 5, 1, 1 << 20, 7, 300, 2, 1 << 42, 3, 1, 2}
	f := numbers(t, 2, values...)
	keys := []frame.Key{{Column: "n", Descending: true}}
	where := table.Where{
		Conditions: []table.Condition{{Column: "n", Test: table.AtLeast, Ints: []int64{2}}},
		Filled:     []int{0},
	}
	measures := []table.Measure{{Op: frame.Sum}, {Op: frame.Max}, {Op: frame.Median}, {Op: frame.Distinct},
		{Op: frame.NonZero}}
	for range 2 {
		if _, err := f.Groups(t.Context(), where, []int{0}, measures); err != nil {
			t.Fatal(err)
		}
		if _, err := f.sort(t.Context(), nil, keys); err != nil {
			t.Fatal(err)
		}
		if _, err := f.least(t.Context(), nil, keys, 3); err != nil {
			t.Fatal(err)
		}
		b, err := f.Take(t.Context(), slices.Collect(numbered(len(values))), nil)
		if err != nil {
			t.Fatal(err)
		}
		for r, want := range values {
			if b.Int(0, r) != want {
				t.Errorf("row %d is %d, was %d", r, b.Int(0, r), want)
			}
		}
	}
}
