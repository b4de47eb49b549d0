package grid

import (
	"bytes"
	"math/big"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal128"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/apache/arrow-go/v18/arrow/memory"
	"github.com/parquet-go/parquet-go"
)

// told is what a file hands on: its columns with their types, and its rows.
func told(t *testing.T, data []byte) string {
	t.Helper()
	f, err := Open(data, Form{Decimal: "comma", Dates: "dmy"}) // which such files do not ask for
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	var out []string
	for _, c := range f.Columns() {
		text := c.Heading
		if c.Type != "" {
			text += " " + c.Type
		}
		if c.Scale > 0 {
			text += "/" + string(rune('0'+c.Scale))
		}
		out = append(out, text)
	}
	lines := []string{strings.Join(out, ", ")}
	if err := f.Each("", func(place Place, row []string) error {
		lines = append(lines, place.String()+": "+strings.Join(row, "|"))
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	return strings.Join(lines, "\n")
}

var noon = time.Date(1969, 2, 28, 12, 0, 0, 5000, time.UTC)

func TestParquetIsRead(t *testing.T) {
	type row struct {
		Place  string     `parquet:"place,dict"`
		Amount int64      `parquet:"amount,decimal(2:18)"`
		Wide   [16]byte   `parquet:"wide,decimal(3:38)"`
		Day    int32      `parquet:"day,date"`
		At     time.Time  `parquet:"at,timestamp(microsecond)"`
		Open   bool       `parquet:"open"`
		Jars   *int32     `parquet:"jars,optional"`
		Moist  float64    `parquet:"moist"`
		Gone   *time.Time `parquet:"gone,optional,timestamp(millisecond)"`
	}
	var wide [16]byte
	new(big.Int).Sub(new(big.Int).Lsh(big.NewInt(1), 128), big.NewInt(1234)).FillBytes(wide[:]) // -1234
	jars := int32(7)
	var data bytes.Buffer
	w := parquet.NewGenericWriter[row](&data)
	if _, err := w.Write([]row{
		{"Łórrin 🐝", -1, wide, -307, noon, true, &jars, 0.30000000000000004, nil},
		{"", 123456, [16]byte{15: 9}, 20_000, noon, false, nil, 17.25, &noon}}); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	want := "place text, amount decimal/2, wide decimal/3, day date, at timestamp, open flag, jars integer, " +
		"moist, gone timestamp\n" +
		"the headings: place|amount|wide|day|at|open|jars|moist|gone\n" +
		"row 1: Łórrin 🐝|-0.01|-1.234|1969-02-28|1969-02-28T12:00:00.000005Z|true|7|0.30000000000000004|\n" +
		"row 2: |1234.56|0.009|2024-10-04|1969-02-28T12:00:00.000005Z|false||17.25|1969-02-28T12:00:00Z"
	if got := told(t, data.Bytes()); got != want {
		t.Errorf("read as\n%s, want\n%s", got, want)
	}
	f, err := Open(data.Bytes(), Form{})
	if err != nil {
		t.Fatal(err)
	}
	if n, err := f.Number("0.30000000000000004", 2); err != nil || n != 30 {
		t.Errorf("a binary fraction is read as %d, %v", n, err)
	}
	for _, at := range []int{5, data.Len() / 3, data.Len() / 2, data.Len() - 9} { // whatever a byte says, nothing ends
		broken := bytes.Clone(data.Bytes())
		for i := at; i < min(at+4, len(broken)); i++ {
			broken[i] ^= 0x5a
		}
		if f, err := Open(broken, Form{}); err == nil {
			_ = f.Each("", func(Place, []string) error { return nil }) // it may be read, or told to be damaged
		}
	}
	if _, err := Open(data.Bytes()[:40], Form{}); err == nil ||
		!strings.Contains(err.Error(), "it is no Parquet file that can be read") {
		t.Errorf("half a file is answered by %v", err)
	}
}

func TestValuesWithinValuesAreRefused(t *testing.T) {
	type row struct {
		Names []string `parquet:"names,list"`
	}
	var data bytes.Buffer
	w := parquet.NewGenericWriter[row](&data)
	if _, err := w.Write([]row{{[]string{"a", "b"}}}); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(data.Bytes(), Form{}); err == nil || !strings.Contains(err.Error(),
		"the column names holds several values, and a cell has one") {
		t.Errorf("%v", err)
	}
}

func TestArrowIsRead(t *testing.T) {
	schema := arrow.NewSchema([]arrow.Field{{Name: "place", Type: arrow.BinaryTypes.String, Nullable: true},
		{Name: "amount", Type: &arrow.Decimal128Type{Precision: 18, Scale: 2}},
		{Name: "day", Type: arrow.FixedWidthTypes.Date32}, {Name: "at", Type: arrow.FixedWidthTypes.Timestamp_us},
		{Name: "open", Type: arrow.FixedWidthTypes.Boolean}, {Name: "jars", Type: arrow.PrimitiveTypes.Int16},
		{Name: "moist", Type: arrow.PrimitiveTypes.Float64}}, nil)
	b := array.NewRecordBuilder(memory.DefaultAllocator, schema)
	b.Field(0).(*array.StringBuilder).AppendValues([]string{"Hollin", ""}, []bool{true, false})
	b.Field(1).(*array.Decimal128Builder).AppendValues(
		[]decimal128.Num{decimal128.FromI64(-1), decimal128.FromI64(5)}, nil)
	b.Field(2).(*array.Date32Builder).AppendValues([]arrow.Date32{-307, 20_000}, nil)
	b.Field(3).(*array.TimestampBuilder).AppendValues([]arrow.Timestamp{arrow.Timestamp(noon.UnixMicro()), 0}, nil)
	b.Field(4).(*array.BooleanBuilder).AppendValues([]bool{true, false}, nil)
	b.Field(5).(*array.Int16Builder).AppendValues([]int16{7, -7}, nil)
	b.Field(6).(*array.Float64Builder).AppendValues([]float64{1e6, 17.25}, nil)
	var data seekable
	w, err := ipc.NewFileWriter(&data, ipc.WithSchema(schema))
	if err != nil {
		t.Fatal(err)
	}
	if err := w.Write(b.NewRecordBatch()); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	want := "place text, amount decimal/2, day date, at timestamp, open flag, jars integer, moist\n" +
		"the headings: place|amount|day|at|open|jars|moist\n" +
		"row 1: Hollin|-0.01|1969-02-28|1969-02-28T12:00:00.000005Z|true|7|1000000\n" +
		"row 2: |0.05|2024-10-04|1970-01-01T00:00:00Z|false|-7|17.25"
	if got := told(t, data.Bytes()); got != want {
		t.Errorf("read as\n%s, want\n%s", got, want)
	}
	if _, err := Open(data.Bytes()[:data.Len()-20], Form{}); err == nil {
		t.Error("half a file is read")
	}
}

// seekable is a buffer that is only written at its end.
type seekable struct{ bytes.Buffer }

func (s *seekable) Seek(int64, int) (int64, error) { return int64(s.Len()), nil }

func TestJSONLinesAreRead(t *testing.T) {
	got := told(t, []byte("\ufeff{\"place\": \"Łórrin\", \"net\": 12.5, \"open\": true}\r\n\n"+
		"{\"jars\": 1.5e3, \"place\": null, \"tags\": [\"a\", {\"b\": 1}]}\n"))
	want := "place, net, open, jars, tags\n" + "the headings: place|net|open|jars|tags\n" +
		"line 1: Łórrin|12.5|true||\n" + `line 3: |||1500|["a", {"b": 1}]`
	if got != want {
		t.Errorf("read as\n%s, want\n%s", got, want)
	}
	for text, want := range map[string]string{
		"{\"a\": 1}\n{\"a\": }":      "line 2: it is no JSON object: invalid character '}'",
		"{\"a\": 1}\n[1]":            "line 2: it is no JSON object: it begins with \"[1]\"",
		"{\"a\": 1} {\"a\": 2}":      "line 1: it is no JSON object: something follows the object",
		"{\"a\": 1,\n \"b\": 2}":     "line 1: it is no JSON object: ",
		"{\"a\": \"\\ud800\xff\"}\n": "",
	} {
		_, err := Open([]byte(text), Form{})
		if want == "" && err != nil || want != "" && (err == nil || !strings.Contains(err.Error(), want)) {
			t.Errorf("%q is answered by %v", text, err)
		}
	}
}
