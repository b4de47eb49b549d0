package frame

import (
	"context"
	"errors"
	"math"
	"math/rand/v2"
	"testing"
)

// Rows are found in their batches, whatever lengths these have.
func TestRowsAreFoundInTheirBatches(t *testing.T) {
	for _, lengths := range [][]int{{4, 4, 4, 2}, {1}, {0, 3, 0, 5}, {7, 1, 1, 9, 30}, {3, 0, 0}} {
		f := Lazy(testSchema, lengths, nil, nil)
		row := 0
		for batch, n := range lengths {
			from, to := f.Span(batch)
			if to-from != n || from != row {
				t.Errorf("%v: batch %d spans %d to %d", lengths, batch, from, to)
			}
			for range n {
				if got := f.BatchOf(row); got != batch {
					t.Errorf("%v: row %d is found in batch %d and not %d", lengths, row, got, batch)
				}
				row++
			}
		}
		if f.Rows() != row || f.Batches() != len(lengths) {
			t.Errorf("%v: %d rows in %d batches", lengths, f.Rows(), f.Batches())
		}
	}
}

// Columns are loaded once they are asked for, and no others; what fails or is left says so.
func TestColumnsAreLoadedWhenTheyAreAskedFor(t *testing.T) {
	var loaded []int
	broken := errors.New("the blob is damaged")
	f := Lazy(testSchema[:3], []int{2, 2}, func(_ context.Context, batch, col int) (*Column, error) {
		loaded = append(loaded, batch*10+col)
		if col == 2 {
			return nil, broken
		}
		return ColumnOf(Vector{Ints: []int64{int64(batch), int64(col)}}), nil
	}, nil)
	more := f.With(Schema{{Name: "twice", Kind: Integer}}, func(_ context.Context, batch, col int) (*Column, error) {
		return ColumnOf(Vector{Ints: []int64{int64(2 * batch), int64(col)}}), nil
	})
	b, err := more.Batch(t.Context(), 1, []int{3, 1})
	if err != nil {
		t.Fatal(err)
	}
	if len(loaded) != 1 || loaded[0] != 11 || b.Int(3, 0) != 2 || b.Int(1, 1) != 1 {
		t.Errorf("loaded %v; cells %d, %d", loaded, b.Int(3, 0), b.Int(1, 1))
	}
	if _, err := more.Batch(t.Context(), 0, nil); !errors.Is(err, broken) {
		t.Errorf("a damaged column: %v", err)
	}
	if _, known := more.Stats(0, 0); known {
		t.Error("something is known of a column that was not loaded")
	}
	left := errors.New("the reader left")
	ctx, cancel := context.WithCancelCause(t.Context())
	cancel(left)
	if _, err := more.Column(ctx, 0, 0); !errors.Is(err, left) {
		t.Errorf("after the reader left: %v", err)
	}
}

// A batch of fewer columns, or within a wider schema, has the same cells.
func TestBatchesOfOtherColumns(t *testing.T) {
	f := build(t, testSchema, 10, testRows...)
	b, err := f.Batch(t.Context(), 0, nil)
	if err != nil {
		t.Fatal(err)
	}
	few := b.Columns([]int{4, 0})
	wide := few.Spread([]int{4, 0}, testSchema)
	for row := range b.Rows {
		for at, col := range []int{4, 0} {
			if few.Value(at, row) != b.Value(col, row) || wide.Value(col, row) != b.Value(col, row) {
				t.Errorf("row %d, column %d: %v and %v instead of %v", row, col, few.Value(at, row), wide.Value(col, row),
					b.Value(col, row))
			}
		}
	}
	if few.Schema()[0].Name != testSchema[4].Name || len(wide.Schema()) != len(testSchema) || few.Rows != b.Rows {
		t.Error("the columns are not called as they were")
	}
}

// Cells come back from a column as they went into it, however narrow it makes them, and a column
// tells the truth of them.
func TestColumnsGiveBackTheirCells(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for round := range 300 {
		reach := []int64{1, 100, 200, 40_000, 1 << 20, 1 << 33, math.MaxInt64}[round%7]
		n := 1 + r.IntN(50)
		v := Vector{Ints: make([]int64, n)}
		if r.IntN(2) == 0 {
			v.Nulls = make([]bool, n)
		}
		for i := range v.Ints {
			v.Ints[i] = r.Int64N(reach)
			if r.IntN(2) == 0 {
				v.Ints[i] = -v.Ints[i]
			}
			if v.Nulls != nil {
				if v.Nulls[i] = r.IntN(4) == 0; v.Nulls[i] {
					v.Ints[i] = 0
				}
			}
		}
		c := ColumnOf(v)
		var room []int64
		ints := c.Ints(&room)
		for i := range v.Ints {
			if c.Null(i) != v.Null(i) || !c.Null(i) && (c.Int(i) != v.Ints[i] || ints[i] != v.Ints[i]) {
				t.Fatalf("round %d: cell %d of %v is %d, %d", round, i, v.Ints, c.Int(i), ints[i])
			}
			if size := uint64(max(v.Ints[i], -v.Ints[i])); !v.Null(i) && size > c.Bound() {
				t.Fatalf("round %d: %d is farther from 0 than %d", round, v.Ints[i], c.Bound())
			}
		}
		if again := c.Vector(); again.Bytes() <= 0 || c.Bytes() <= 0 || c.Rows() != n {
			t.Fatalf("round %d: %d rows of %d bytes", round, c.Rows(), c.Bytes())
		}
	}
}
