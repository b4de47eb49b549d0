package flightsql

import (
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/memory"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/source"
)

var (
	whole  = report.Column{ID: "x", Kind: frame.Integer}
	places = report.Column{ID: "x", Kind: frame.Decimal, Scale: 2, Stored: "decimal"}
	money  = report.Column{ID: "x", Kind: frame.Money, Scale: 2, Stored: "decimal"}
	day    = report.Column{ID: "x", Kind: frame.Date}
	moment = report.Column{ID: "x", Kind: frame.Timestamp}
	flag   = report.Column{ID: "x", Kind: frame.Flag}
	text   = report.Column{ID: "x", Kind: frame.Text}
)

// TestCells are read from every type of Arrow that has their kind.
func TestCells(t *testing.T) {
	seconds := &arrow.TimestampType{Unit: arrow.Second}
	nanos := &arrow.TimestampType{Unit: arrow.Nanosecond, TimeZone: "Europe/Paris"}
	either := arrow.DenseUnionOf([]arrow.Field{{Name: "n", Type: arrow.PrimitiveTypes.Int64, Nullable: true},
		{Name: "t", Type: arrow.BinaryTypes.String, Nullable: true}}, []arrow.UnionTypeCode{0, 1})
	for _, c := range []struct {
		of   arrow.DataType
		json string
		as   report.Column
		want string
	}{
		{arrow.PrimitiveTypes.Int8, `[1, null, -7]`, whole, "1 ∅ -7"},
		{arrow.PrimitiveTypes.Int32, `[1, null, -7]`, whole, "1 ∅ -7"},
		{arrow.PrimitiveTypes.Uint64, `[9223372036854775807]`, whole, "9223372036854775807"},
		{arrow.PrimitiveTypes.Int64, `[3]`, places, "3.00"},
		{&arrow.Decimal128Type{Precision: 38, Scale: 2}, `["1.25", null, "-0.01"]`, places, "1.25 ∅ -0.01"},
		{&arrow.Decimal128Type{Precision: 38, Scale: 4}, `["1.2500"]`, places, "1.25"},
		{&arrow.Decimal128Type{Precision: 38, Scale: 4}, `["1.2550", "-1.2550"]`, money, "1.26 -1.26"},
		{&arrow.Decimal128Type{Precision: 38, Scale: 0}, `["7"]`, whole, "7"},
		{&arrow.Decimal256Type{Precision: 60, Scale: 2}, `["1.25"]`, places, "1.25"},
		{arrow.PrimitiveTypes.Float64, `[1.1, 3]`, places, "1.10 3.00"},
		{arrow.PrimitiveTypes.Float32, `[1.1]`, places, "1.10"},
		{arrow.PrimitiveTypes.Date32, `["1899-12-31"]`, day, "1899-12-31"},
		{arrow.PrimitiveTypes.Date64, `["2024-02-29"]`, day, "2024-02-29"},
		{arrow.PrimitiveTypes.Date32, `["2024-02-29"]`, moment, "2024-02-29T00:00:00Z"},
		{seconds, `["2026-09-01 00:00:00"]`, day, "2026-09-01"},
		{seconds, `["1969-12-31 23:59:59"]`, moment, "1969-12-31T23:59:59Z"},
		{nanos, `["2026-09-01T05:30:00.123456789Z"]`, moment, "2026-09-01T05:30:00.123456Z"},
		{arrow.BinaryTypes.String, `["2026-09-01", null]`, day, "2026-09-01 ∅"},
		{arrow.BinaryTypes.LargeString, `["2026-09-01T05:30:00Z"]`, moment, "2026-09-01T05:30:00Z"},
		{arrow.FixedWidthTypes.Boolean, `[true, false, null]`, flag, "yes no ∅"},
		{arrow.PrimitiveTypes.Int16, `[1, 0]`, flag, "yes no"},
		{arrow.BinaryTypes.StringView, `["Ø", "", null]`, text, "Ø  ∅"},
		{arrow.PrimitiveTypes.Int64, `[12]`, text, "12"},
		{arrow.FixedWidthTypes.Timestamp_us, `["2026-09-01T05:30:00Z"]`, text, "2026-09-01T05:30:00Z"},
		{either, `[[0, 7], [1, "8"], [0, null]]`, whole, "7 8 ∅"},
		{either, `[[0, 7], [1, "b"]]`, text, "7 b"},
	} {
		a, _, err := array.FromJSON(memory.DefaultAllocator, c.of, strings.NewReader(c.json))
		if err != nil {
			t.Fatalf("%s of %s: %v", c.json, c.of, err)
		}
		if got, err := poured(t, a, c.as); err != nil || got != c.want {
			t.Errorf("%s of %s as %s is %q, %v; want %q", c.json, c.of, c.as.Kind, got, err, c.want)
		}
	}
}

// TestWhatIsNoCell is told with its row and column.
func TestWhatIsNoCell(t *testing.T) {
	for _, c := range []struct {
		of   arrow.DataType
		json string
		as   report.Column
		says string
	}{
		{arrow.BinaryTypes.String, `["1", "x"]`, whole, `row 2, column x: "x" is not a whole number`},
		{&arrow.TimestampType{Unit: arrow.Second}, `["2026-09-01 05:30:00"]`, day, "is not a day"},
		{&arrow.Decimal128Type{Precision: 38, Scale: 4}, `["1.2345"]`, places, "row 1, column x"},
		{&arrow.Decimal128Type{Precision: 38, Scale: 2}, `["1000000000000000000000.00"]`, places, "digits"},
		{arrow.PrimitiveTypes.Int64, `[2]`, flag, "neither yes nor no"},
		{arrow.PrimitiveTypes.Uint64, `[18446744073709551615]`, whole, "is not a whole number"},
	} {
		a, _, err := array.FromJSON(memory.DefaultAllocator, c.of, strings.NewReader(c.json))
		if err != nil {
			t.Fatal(err)
		}
		if got, err := poured(t, a, c.as); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s of %s as %s is %q, %v", c.json, c.of, c.as.Kind, got, err)
		}
	}
}

// poured pours an array as a column, in batches of two rows, and writes its cells.
func poured(t *testing.T, a arrow.Array, as report.Column) (string, error) {
	t.Helper()
	columns := []report.Column{as}
	schema := report.SchemaOf(columns)
	var records []arrow.RecordBatch
	sink := source.NewSink(schema, 2, func(r arrow.RecordBatch) error { records = append(records, r); return nil },
		func(int64) error { return nil })
	of := arrow.NewSchema([]arrow.Field{{Name: "x", Type: a.DataType(), Nullable: true}}, nil)
	if err := pour(array.NewRecordBatch(of, []arrow.Array{a}, int64(a.Len())), columns, sink); err != nil {
		return "", err
	}
	if err := sink.Close(); err != nil {
		return "", err
	}
	f, err := frame.New(schema, records...)
	if err != nil {
		return "", err
	}
	var cells []string
	for i := range f.Batches() {
		b, err := f.Batch(t.Context(), i, nil)
		if err != nil {
			return "", err
		}
		for r := range b.Rows {
			if v := b.Value(0, r); v.Null {
				cells = append(cells, "∅")
			} else {
				cells = append(cells, v.String())
			}
		}
	}
	return strings.Join(cells, " "), nil
}
