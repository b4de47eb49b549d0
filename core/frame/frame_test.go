package frame

import (
	"reflect"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"
)

var testSchema = Schema{{Name: "name", Kind: Text}, {Name: "n", Kind: Integer}, {Name: "kg", Kind: Decimal, Scale: 3},
	{Name: "pay", Kind: Money, Scale: 2, Currency: "EUR"}, {Name: "day", Kind: Date}, {Name: "at", Kind: Timestamp},
	{Name: "ok", Kind: Flag}}

// build makes a frame with batches of size rows; nil cells have no value.
func build(t testing.TB, schema Schema, size int, rows ...[]any) *Frame {
	t.Helper()
	var records []arrow.RecordBatch
	b := NewBuilder(schema, size, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, row := range rows {
		for col, cell := range row {
			switch v := cell.(type) {
			case string:
				b.Text(col, []byte(v))
			case int:
				if err := b.Int(col, int64(v)); err != nil {
					t.Fatal(err)
				}
			}
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

var testRows = [][]any{
	{"Éa", 3, 12500, 100, 20000, 1_000_000, 1},
	{"ash", nil, -250, 100, 20001, nil, 0},
	{nil, 1, nil, nil, nil, 2_000_000, nil},
	{"Birch", 3, 999_999_999_999_999_999, -5, 19999, 1_500_000, 1},
	{"ash", 2, 0, 7, 20000, 0, 0},
}

func TestBuilderKeepsEveryKindAndNull(t *testing.T) {
	for _, size := range []int{1, 2, 3, 100} {
		f := build(t, testSchema, size, testRows...)
		var rows []*Batch
		var at []int
		for i := range f.Batches() {
			b, err := f.Batch(t.Context(), i, nil)
			if err != nil {
				t.Fatal(err)
			}
			for r := range b.Rows {
				rows, at = append(rows, b), append(at, r)
			}
		}
		want := [][]string{
			{"Éa", "3", "12.500", "1.00", "2024-10-04", "1970-01-01T00:00:01Z", "yes"},
			{"ash", "", "-0.250", "1.00", "2024-10-05", "", "no"},
			{"", "1", "", "", "", "1970-01-01T00:00:02Z", ""},
			{"Birch", "3", "999999999999999.999", "-0.05", "2024-10-03", "1970-01-01T00:00:01.5Z", "yes"},
			{"ash", "2", "0.000", "0.07", "2024-10-04", "1970-01-01T00:00:00Z", "no"},
		}
		for r, row := range want {
			for c, text := range row {
				if got := rows[r].Value(c, at[r]); got.String() != text || got.Null != (testRows[r][c] == nil) {
					t.Errorf("batches of %d, row %d, %s: got %q, null %v; want %q", size, r, testSchema[c].Name, got, got.Null, text)
				}
			}
		}
	}
}

func TestBuilderRefusesTooManyDigits(t *testing.T) {
	b := NewBuilder(testSchema, 10, nil)
	if err := b.Int(2, 1_000_000_000_000_000_000); err == nil {
		t.Error("a decimal of 19 digits was taken")
	}
	if err := b.Int(1, 1_000_000_000_000_000_000); err != nil {
		t.Errorf("an integer has no such limit: %v", err)
	}
}

func TestSchemaSurvivesArrow(t *testing.T) {
	var record arrow.RecordBatch
	b := NewBuilder(testSchema, 10, func(r arrow.RecordBatch) error { record = r; return nil })
	if err := b.EndRow(); err != nil {
		t.Fatal(err)
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	got, err := SchemaOf(record.Schema())
	if err != nil || !reflect.DeepEqual(got, testSchema) {
		t.Errorf("got %v, %v", got, err)
	}
}

func TestDivideRoundsHalfAwayFromZero(t *testing.T) {
	for _, c := range []struct {
		digits, count int64
		places        int32
		want          string
	}{{10, 4, 1, "0.3"}, {-10, 4, 1, "-0.3"}, {1, 3, 4, "0.0333"}, {1005, 10, 1, "10.1"}, {7, 7, 0, "0"},
		{15, 1, 0, "2"}} {
		if got := Exact(c.digits, 1).Divide(c.count, c.places).String(); got != c.want {
			t.Errorf("%d tenths by %d to %d places: got %s, want %s", c.digits, c.count, c.places, got, c.want)
		}
	}
}

func TestParseNumber(t *testing.T) {
	good := []struct {
		text  string
		scale int32
		want  int64
	}{{"12", 2, 1200}, {"-12.50", 2, -1250}, {"+3", 0, 3}, {".5", 1, 5}, {"-.5", 1, -5}, {"1.500", 1, 15}, {" 7 ", 0, 7},
		{"0.00", 2, 0}}
	for _, c := range good {
		if got, err := ParseNumber(c.text, c.scale); err != nil || got != c.want {
			t.Errorf("%q: got %d, %v; want %d", c.text, got, err, c.want)
		}
	}
	for _, text := range []string{"", "-", ".", "1,5", "1e3", "1-2", "0x1", "1.2.3", "1.25", "99999999999999999999", "--1",
		"١"} {
		if got, err := ParseNumber(text, 1); err == nil {
			t.Errorf("%q was read as %d", text, got)
		}
	}
}

// FuzzParseNumber checks that what is read is written back as the same number.
func FuzzParseNumber(f *testing.F) {
	for _, seed := range []string{"1", "-0.001", "+12.5", "999999999999999999", "1.", "-.0"} {
		f.Add(seed, uint8(3))
	}
	f.Fuzz(func(t *testing.T, text string, places uint8) {
		scale := int32(places % 6)
		v, err := ParseNumber(text, scale)
		if err != nil {
			return
		}
		plain := string(AppendPlain(nil, Decimal, scale, v))
		if back, err := ParseNumber(plain, scale); err != nil || back != v || plain != Exact(v, scale).String() {
			t.Errorf("%q was read as %d, written as %q (%s) and read back as %d, %v", text, v, plain, Exact(v, scale), back, err)
		}
	})
}
