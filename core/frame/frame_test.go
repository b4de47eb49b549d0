package frame

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
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
		b, err := f.Take([]uint32{0, 1, 2, 3, 4}, nil)
		if err != nil {
			t.Fatal(err)
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
				if got := b.Value(c, r); got.String() != text || got.Null != (testRows[r][c] == nil) {
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

func TestFilter(t *testing.T) {
	cases := []struct {
		name       string
		conditions []Condition
		want       Selection
	}{
		{"none", nil, nil},
		{"text is", []Condition{{Column: "name", Test: Is, Texts: []string{"ash"}}}, Selection{1, 4}},
		{"text is one of", []Condition{{Column: "name", Test: Is, Texts: []string{"Birch", "Éa"}}}, Selection{0, 3}},
		{"text is not, and empty is not either", []Condition{{Column: "name", Test: IsNot, Texts: []string{"ash"}}},
			Selection{0, 2, 3}},
		{"contains without case and accents", []Condition{{Column: "name", Test: Contains, Texts: []string{"EA"}}},
			Selection{0}},
		{"text from on", []Condition{{Column: "name", Test: AtLeast, Texts: []string{"b"}}}, Selection{0, 3}},
		{"number at least", []Condition{{Column: "n", Test: AtLeast, Ints: []int64{2}}}, Selection{0, 3, 4}},
		{"number at most, empties fail", []Condition{{Column: "kg", Test: AtMost, Ints: []int64{0}}}, Selection{1, 4}},
		{"number is none of", []Condition{{Column: "n", Test: IsNot, Ints: []int64{3, 2}}}, Selection{1, 2}},
		{"empty", []Condition{{Column: "n", Test: Empty}}, Selection{1}},
		{"not empty", []Condition{{Column: "day", Test: NotEmpty}}, Selection{0, 1, 3, 4}},
		{"two at once", []Condition{{Column: "ok", Test: Is, Ints: []int64{0}}, {Column: "n", Test: NotEmpty}}, Selection{4}},
		{"nothing is left", []Condition{{Column: "n", Test: AtLeast, Ints: []int64{99}}}, Selection{}},
	}
	for _, size := range []int{2, 100} {
		f := build(t, testSchema, size, testRows...)
		for _, c := range cases {
			got, err := f.Filter(c.conditions)
			if err != nil || !slices.Equal(got, c.want) || (got == nil) != (c.want == nil) {
				t.Errorf("%s, batches of %d: got %v, %v; want %v", c.name, size, got, err, c.want)
			}
		}
	}
}

func TestFilterRefuses(t *testing.T) {
	f := build(t, testSchema, 10, testRows...)
	for _, c := range []Condition{{Column: "nome", Test: Empty}, {Column: "n", Test: Contains, Texts: []string{"1"}},
		{Column: "n", Test: Is}, {Column: "name", Test: AtMost}} {
		if got, err := f.Filter([]Condition{c}); err == nil {
			t.Errorf("%+v selected %v", c, got)
		}
	}
}

func TestSort(t *testing.T) {
	cases := []struct {
		name   string
		within Selection
		keys   []Key
		want   Selection
	}{
		{"text without case and accents, nulls last", nil, []Key{{Column: "name"}}, Selection{1, 4, 3, 0, 2}},
		{"text descending, nulls still last", nil, []Key{{Column: "name", Descending: true}}, Selection{0, 3, 1, 4, 2}},
		{"nulls first", nil, []Key{{Column: "n", NullsFirst: true}}, Selection{1, 2, 4, 0, 3}},
		{"stable", nil, []Key{{Column: "ok"}}, Selection{1, 4, 0, 3, 2}},
		{"negative decimals", nil, []Key{{Column: "pay"}}, Selection{3, 4, 0, 1, 2}},
		{"two keys", nil, []Key{{Column: "n", Descending: true}, {Column: "kg"}}, Selection{0, 3, 4, 2, 1}},
		{"within", Selection{0, 2, 4}, []Key{{Column: "day"}, {Column: "kg"}}, Selection{4, 0, 2}},
	}
	for _, size := range []int{2, 100} {
		f := build(t, testSchema, size, testRows...)
		for _, c := range cases {
			got, err := f.Sort(c.within, c.keys)
			if err != nil || !slices.Equal(got, c.want) {
				t.Errorf("%s, batches of %d: got %v, %v; want %v", c.name, size, got, err, c.want)
			}
		}
	}
	if _, err := build(t, testSchema, 2, testRows...).Sort(nil, []Key{{Column: "nome"}}); err == nil {
		t.Error("sorted by a column that does not exist")
	}
}

// TestSortAgreesWithTheStandardLibrary compares with slices.SortStableFunc on
// random rows of wide and narrow numbers.
func TestSortAgreesWithTheStandardLibrary(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	schema := Schema{{Name: "wide", Kind: Integer}, {Name: "narrow", Kind: Integer}}
	rows := make([][]any, 5000)
	for i := range rows {
		rows[i] = []any{int(r.Uint64()), r.IntN(7) - 3}
	}
	f := build(t, schema, 700, rows...)
	got, err := f.Sort(nil, []Key{{Column: "narrow", Descending: true}, {Column: "wide"}})
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
		op     Op
		want   string
	}{
		{nil, "n", Sum, "9"}, {nil, "n", Avg, "2.25"}, {nil, "n", Min, "1"}, {nil, "n", Max, "3"}, {nil, "n", Count, "4"},
		{nil, "n", Distinct, "3"},
		{nil, "kg", Sum, "1000000000000012.249"}, {Selection{0, 1}, "kg", Avg, "6.12500"}, {nil, "pay", Avg, "0.51"},
		{nil, "name", Min, "ash"}, {nil, "name", Max, "Éa"}, {nil, "name", Distinct, "3"}, {nil, "day", Min, "2024-10-03"},
		{nil, "ok", Count, "4"}, {nil, "at", Max, "1970-01-01T00:00:02Z"},
		{Selection{}, "n", Sum, ""}, {Selection{}, "n", Count, "0"}, {Selection{2}, "kg", Max, ""},
		{Selection{4, 3}, "n", Sum, "5"},
	}
	for _, c := range cases {
		got, err := f.Total(c.within, c.column, c.op)
		if err != nil || got.String() != c.want || got.Null != (c.want == "") {
			t.Errorf("%s of %s within %v: got %q, %v; want %q", c.op, c.column, c.within, got, err, c.want)
		}
	}
	if _, err := f.Total(nil, "name", Sum); err == nil {
		t.Error("texts were added up")
	}
}

func TestSumDoesNotOverflow(t *testing.T) {
	rows := make([][]any, 40)
	for i := range rows {
		rows[i] = []any{999_999_999_999_999_999}
	}
	f := build(t, Schema{{Name: "v", Kind: Decimal, Scale: 2}}, 7, rows...)
	got, err := f.Total(nil, "v", Sum)
	if err != nil || got.String() != "399999999999999999.60" { // 40 times 9 999 999 999 999 999.99
		t.Errorf("got %s, %v", got, err)
	}
	for i := range rows {
		rows[i] = []any{-999_999_999_999_999_999}
	}
	if got, err = build(t, Schema{{Name: "v", Kind: Decimal, Scale: 2}}, 7, rows...).Total(nil, "v",
		Sum); got.String() != "-399999999999999999.60" {
		t.Errorf("got %s, %v", got, err)
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

func TestFold(t *testing.T) {
	for text, want := range map[string]string{"Éa": "ea", "ASH": "ash", "Müll": "mull", "Østby": "ostby", "": ""} {
		if got := Fold(text); got != want {
			t.Errorf("%q: got %q, want %q", text, got, want)
		}
	}
}

func ExampleFrame_Sort() {
	var records []arrow.RecordBatch
	b := NewBuilder(Schema{{Name: "kg", Kind: Decimal, Scale: 1}}, BatchRows,
		func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, tenths := range []int64{125, 70, 301} {
		_ = b.Int(0, tenths)
		_ = b.EndRow()
	}
	_ = b.Close()
	f, _ := New(Schema{{Name: "kg", Kind: Decimal, Scale: 1}}, records...)
	order, _ := f.Sort(nil, []Key{{Column: "kg", Descending: true}})
	rows, _ := f.Take(order, nil)
	for r := range rows.Rows {
		fmt.Println(rows.Value(0, r))
	}
	// Output:
	// 30.1
	// 12.5
	// 7.0
}
