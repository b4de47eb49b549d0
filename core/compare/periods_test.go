package compare

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
)

var read = frame.Schema{{Name: "town", Kind: frame.Text}, {Name: "name", Kind: frame.Text},
	{Name: "amount", Kind: frame.Money, Scale: 2, Currency: "EUR"}}

var layout = Layout{Key: []int{0}, Measure: []bool{false, false, true}}

type line struct {
	town, name string
	cents      int64
	none       bool // no amount
}

func table(t testing.TB, lines []line) *frame.Frame {
	t.Helper()
	var records []arrow.RecordBatch
	b := frame.NewBuilder(read, 3, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, l := range lines {
		b.Text(0, []byte(l.town))
		b.Text(1, []byte(l.name))
		if !l.none {
			if err := b.Int(2, l.cents); err != nil {
				t.Fatal(err)
			}
		}
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := frame.New(read, records...)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// compared returns the rows of a comparison as text.
func compared(t testing.TB, frames ...*frame.Frame) []string {
	t.Helper()
	schema := append(frame.Schema{}, read...)
	for i := range frames[1:] {
		n := i + 2
		schema = append(schema, frame.Field{Name: fmt.Sprint("amount", n), Kind: frame.Money, Scale: 2},
			frame.Field{Name: fmt.Sprint("change", n), Kind: frame.Money, Scale: 2},
			frame.Field{Name: fmt.Sprint("percent", n), Kind: frame.Decimal, Scale: 1})
	}
	var out []string
	b := frame.NewBuilder(schema, 100, func(r arrow.RecordBatch) error {
		f, err := frame.New(schema, r)
		if err != nil {
			return err
		}
		batch, err := f.Batch(t.Context(), 0, nil)
		if err != nil {
			return err
		}
		for row := range batch.Rows {
			var cells []string
			for c := range schema {
				cells = append(cells, batch.Value(c, row).String())
			}
			out = append(out, strings.Join(cells, "|"))
		}
		return nil
	})
	if err := Periods(t.Context(), frames, layout, b); err != nil {
		t.Fatal(err)
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	return out
}

func TestPeriods(t *testing.T) {
	now := table(t, []line{{"Ashton", "A", 15000, false}, {"Marr", "M", 200, false}, {"Weir", "W", 0, true},
		{"Ford", "F", 100, false}})
	before := table(t,
		[]line{{"Marr", "M old", 300, false}, {"Ashton", "A", 10000, false}, {"Lorn", "L", -50, false},
			{"Ford", "F", 0, false}})
	older := table(t, []line{{"Weir", "W", 1, false}})
	got := compared(t, now, before, older)
	want := []string{
		"Ashton|A|150.00|100.00|50.00|50.0||150.00|",
		"Marr|M|2.00|3.00|-1.00|-33.3||2.00|",
		"Weir|W|||||0.01|-0.01|-100.0",  // nothing known of the period before
		"Ford|F|1.00|0.00|1.00|||1.00|", // no percentage of nothing
		"Lorn|L||-0.50|0.50|100.0|||",   // the sign is that of the change
	}
	if len(got) != len(want) {
		t.Fatalf("got %d rows: %q", len(got), got)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("row %d is %q, want %q", i, got[i], want[i])
		}
	}
}

// TestChangesAddUp holds that the changes of all rows together are the change
// of the totals, whatever the rows.
func TestChangesAddUp(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for range 50 {
		var sums [2]int64
		var frames []*frame.Frame
		for p := range 2 {
			var lines []line
			for i := range r.IntN(40) + 1 {
				if r.IntN(3) > 0 {
					cents := r.Int64N(200_000) - 50_000
					sums[p] += cents
					lines = append(lines, line{town: fmt.Sprint("town ", i), cents: cents})
				}
			}
			frames = append(frames, table(t, lines))
		}
		total := int64(0)
		for _, row := range compared(t, frames...) {
			change := strings.Split(row, "|")[4]
			if change == "" {
				continue
			}
			cents, err := frame.ParseNumber(change, 2)
			if err != nil {
				t.Fatal(err)
			}
			total += cents
		}
		if total != sums[0]-sums[1] {
			t.Errorf("the changes add up to %d, the totals differ by %d", total, sums[0]-sums[1])
		}
	}
}

func TestPercentRoundsHalfAwayFromZero(t *testing.T) {
	for _, c := range []struct {
		change, from int64
		want         string
	}{{1, 3, "33.3"}, {-1, 3, "-33.3"}, {1, 2000, "0.1"}, {-1, 2000, "-0.1"}, {49, 100_000, "0.0"}, {5, -10, "50.0"},
		{1, 0, ""}} {
		v := func(cents int64) frame.Value {
			return frame.Value{Kind: frame.Money, Number: frame.Exact(cents, 2)}
		}
		if got := Percent(v(c.change), v(c.from)).String(); got != c.want {
			t.Errorf("%d of %d: got %q, want %q", c.change, c.from, got, c.want)
		}
	}
}
