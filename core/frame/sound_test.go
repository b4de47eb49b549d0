package frame

import (
	"context"
	"errors"
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/rescue"
)

// numbers is a frame of one whole-number column.
func numbers(t testing.TB, size int, values ...int64) *Frame {
	t.Helper()
	schema := Schema{{Name: "n", Kind: Integer}}
	var records []arrow.RecordBatch
	b := NewBuilder(schema, size, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, v := range values {
		if err := b.Int(0, v); err != nil {
			t.Fatal(err)
		}
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := New(schema, records...)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func TestAPanicOfParallelWorkIsAnErrorOfItsCaller(t *testing.T) {
	f := numbers(t, 1, 1, 2, 3, 4, 5).With(Schema{{Name: "bad", Kind: Integer}}, func(i int, b *Batch) ([]Vector, error) {
		return []Vector{{Ints: []int64{[]int64{1, 2}[i]}}}, nil // there are five batches
	})
	_, err := f.Total(nil, "bad", Sum)
	var p *rescue.Panic
	if !errors.As(err, &p) {
		t.Errorf("the total is %v", err)
	}
	if _, err := f.Sort(nil, []Key{{Column: "bad"}}); !errors.As(err, &p) {
		t.Errorf("the order is %v", err)
	}
}

func TestAFrameStopsWithItsContext(t *testing.T) {
	ctx, stop := context.WithCancelCause(context.Background())
	why := errors.New("the reader left")
	var loaded atomic.Int64
	f := numbers(t, 1, 1, 2, 3, 4, 5, 6, 7, 8).With(Schema{{Name: "m", Kind: Integer}},
		func(i int, b *Batch) ([]Vector, error) {
			if loaded.Add(1); i == 0 {
				stop(why)
			}
			return []Vector{*b.Vector(0)}, nil
		})
	if _, err := f.Within(ctx).Total(nil, "m", Sum); !errors.Is(err, why) {
		t.Errorf("the total is %v", err)
	}
	if loaded.Load() > 5 {
		t.Errorf("%d batches were loaded after the end", loaded.Load())
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
		got, err := numbers(t, 7, values...).Total(nil, "n", Stddev)
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

func TestNonZeroAndAny(t *testing.T) {
	f := numbers(t, 2, 0, 3, 0, 0, -1)
	marked, err := f.NonZero([]int{0})
	if err != nil || fmt.Sprint(marked) != "[false true false false true]" {
		t.Fatalf("%v, %v", marked, err)
	}
	g, err := f.Group(Selection{0, 1, 2, 3}, []int{0})
	if err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(g.Any(marked)); got != "[[true] [false true]]" {
		t.Errorf("got %s", got)
	}
	if !strings.Contains(fmt.Sprint(g.Levels[1].Keys.Ints), "[0 3]") {
		t.Errorf("groups %v", g.Levels[1].Keys.Ints)
	}
}
