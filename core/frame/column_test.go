package frame

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"
)

func TestColumnsAreAsNarrowAsTheirCells(t *testing.T) {
	for _, c := range []struct {
		cells []int64
		bytes int // of a cell
	}{
		{[]int64{-128, 127}, 1}, {[]int64{0, 128}, 2}, {[]int64{-32768, 5}, 2}, {[]int64{1, 40_000}, 4},
		{[]int64{math.MinInt32, math.MaxInt32}, 4}, {[]int64{1 << 31}, 8}, {[]int64{math.MinInt64, math.MaxInt64}, 8},
	} {
		col := ColumnOf(Vector{Ints: c.cells})
		if col.Bytes() != c.bytes*len(c.cells) {
			t.Errorf("%v takes %d bytes", c.cells, col.Bytes())
		}
		var room []int64
		for r, x := range col.Ints(&room) {
			if x != c.cells[r] || col.Int(r) != x {
				t.Errorf("%v reads back as %d and %d", c.cells, x, col.Int(r))
			}
		}
	}
}

// TestStatsAreThoseOfTheCells compares what is known of random cells with what they are,
// before and after they were an Arrow array.
func TestStatsAreThoseOfTheCells(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		width, n := r.IntN(62)+1, r.IntN(300)+1
		holes := r.IntN(3) == 0
		schema := Schema{{Name: "n", Kind: Integer}}
		var record arrow.RecordBatch
		b := NewBuilder(schema, 1000, func(r arrow.RecordBatch) error { record = r; return nil })
		sum, nulls, sorted := new(big.Int), 0, true
		least, greatest := int64(math.MaxInt64), int64(math.MinInt64)
		before := int64(math.MinInt64)
		for range n {
			if holes && r.IntN(4) == 0 {
				nulls, sorted = nulls+1, false
			} else {
				x := r.Int64N(1<<width) - 1<<(width-1)
				if err := b.Int(0, x); err != nil {
					t.Fatal(err)
				}
				sum.Add(sum, big.NewInt(x))
				least, greatest = min(least, x), max(greatest, x)
				sorted, before = sorted && x >= before, x
			}
			if err := b.EndRow(); err != nil {
				t.Fatal(err)
			}
		}
		if err := b.Close(); err != nil {
			t.Fatal(err)
		}
		if nulls == n {
			continue
		}
		c, err := Decode(record.Column(0), nil)
		if err != nil {
			t.Fatal(err)
		}
		s := c.Stats
		if s.Least != least || s.Greatest != greatest || s.Nulls != nulls || s.Sorted != sorted ||
			s.Sum().BigInt().Cmp(sum) != 0 {
			t.Fatalf("of %d cells of %d bits: %+v; want %d to %d, %d nulls, sorted %t, sum %s", n, width, s, least, greatest,
				nulls, sorted, sum)
		}
		known, err := Decode(record.Column(0), &s)
		if err != nil || known.Stats != s || known.Bytes() != c.Bytes() {
			t.Fatalf("decoded by what is known: %+v, %d bytes, %v", known.Stats, known.Bytes(), err)
		}
	}
}

func TestStatsOfTexts(t *testing.T) {
	for _, c := range []struct {
		v           Vector
		first, last string
		sorted      bool
	}{
		{Vector{Texts: []string{"b", "a", "c"}}, "a", "c", false},
		{Vector{Texts: []string{"a", "a", "b"}}, "a", "b", true},
		{Vector{Texts: []string{"", "x"}, Nulls: []bool{true, false}}, "x", "x", false},
		{Vector{Texts: []string{"b", "a"}, Codes: []int32{1, 1, 0}}, "a", "b", true},
		{Vector{Texts: []string{"b", "a"}, Codes: []int32{0, 1, 0}}, "a", "b", false},
	} {
		col := ColumnOf(c.v)
		if s := col.Stats; s.First != c.first || s.Last != c.last || s.Sorted != c.sorted {
			t.Errorf("%+v: %+v", c.v, s)
		}
	}
}

func TestLongTextsMakeShortBatches(t *testing.T) {
	var rows []int64
	b := NewBuilder(Schema{{Name: "t", Kind: Text}}, 100, func(r arrow.RecordBatch) error {
		rows = append(rows, r.NumRows())
		return nil
	})
	long := make([]byte, mostText/2+1)
	for range 5 {
		b.Text(0, long)
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil || len(rows) != 3 || rows[0] != 2 || rows[2] != 1 {
		t.Errorf("batches of %v rows, %v", rows, err)
	}
}
