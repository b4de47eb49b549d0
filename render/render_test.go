package render

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/xuri/excelize/v2"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/core/table"
	"mantilla/render/document"
)

var dataset = report.Dataset{ID: "d", Columns: []report.Column{
	{ID: "name", Label: "Name", Kind: frame.Text},
	{ID: "kg", Label: "Weight", Kind: frame.Decimal, Scale: 3, Unit: "kg", Total: frame.Sum},
	{ID: "pay", Label: "Value", Kind: frame.Money, Scale: 2, Currency: "EUR", Total: frame.Sum},
	{ID: "day", Label: "Day, as said", Kind: frame.Date},
	{ID: "at", Label: "At", Kind: frame.Timestamp},
	{ID: "ok", Label: "OK", Kind: frame.Flag},
	{ID: "n", Label: "N", Kind: frame.Integer},
}}

// lay makes a sheet of rows that try every writer.
func lay(t *testing.T, changes ask.Changes) *sheet.Sheet {
	t.Helper()
	return layChanged(t, report.View{ID: "v", Title: "A [view]: of/too many letters for a name", Of: "d"}, changes)
}

func layView(t *testing.T, v report.View) *sheet.Sheet {
	t.Helper()
	return layChanged(t, v, ask.Changes{})
}

func layChanged(t *testing.T, v report.View, changes ask.Changes) *sheet.Sheet {
	t.Helper()
	var records []arrow.RecordBatch
	b := frame.NewBuilder(dataset.Schema(), 2,
		func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for i, name := range []string{"plain", `with "quotes", commas`, "two\r\nlines", "=1+1", "Øst Müll", ""} {
		b.Text(0, []byte(name))
		if i != 2 { // the third row has nothing but its name
			for col, v := range map[int]int64{1: int64(i)*1000 - 250, 2: 123456789, 3: 20740, 4: 1792891800_000_000,
				5: int64(i % 2), 6: 9_007_199_254_740_993} {
				if err := b.Int(col, v); err != nil {
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
	f, err := frame.New(dataset.Schema(), records...)
	if err != nil {
		t.Fatal(err)
	}
	s, err := sheet.Lay(t.Context(), kept.Of(f, table.Fresh{}), &dataset, &v, changes,
		ready.Setting{Cache: table.Fresh{}})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// write writes sheets in a format.
func write(w io.Writer, format string, o Options, sheets ...*sheet.Sheet) error {
	return writeIn(w, format, o, time.UTC, sheets...)
}

func writeIn(w io.Writer, format string, o Options, zone *time.Location, sheets ...*sheet.Sheet) error {
	f, err := FormatNamed(format)
	if err != nil {
		return err
	}
	at := time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC)
	d := &document.Document{Organisation: "Brackenfell Honey Cooperative", Title: "Made rows", Number: "R-000007",
		Sentence: "Rows of 2026.", AskedBy: "runa", RanAt: at, WrittenAt: at.In(time.FixedZone("", 3600)),
		Form:   shown.Form{Zone: zone},
		Seal:   strings.Repeat("ab", 32),
		Values: []document.Value{{Label: "Received", Says: "2026", Parameter: "received", Resolved: "2026-01-01/2026-12-31"}},
		Sheets: sheets}
	_, err = Write(context.Background(), w, d, f, o, nil)
	return err
}

func TestCSV(t *testing.T) {
	var out bytes.Buffer
	if err := write(&out, "csv", Options{Table: TableForm{Raw: true}}, lay(t, ask.Changes{})); err != nil {
		t.Fatal(err)
	}
	want := strings.Join([]string{
		`Name,"Weight, kg","Value, EUR","Day, as said",At,OK,N`,
		`plain,-0.250,1234567.89,2026-10-14,2026-10-25T01:30:00Z,no,9007199254740993`,
		`"with ""quotes"", commas",0.750,1234567.89,2026-10-14,2026-10-25T01:30:00Z,yes,9007199254740993`,
		"\"two\r\nlines\",,,,,,",
		`=1+1,2.750,1234567.89,2026-10-14,2026-10-25T01:30:00Z,yes,9007199254740993`,
		`Øst Müll,3.750,1234567.89,2026-10-14,2026-10-25T01:30:00Z,no,9007199254740993`,
		`"",4.750,1234567.89,2026-10-14,2026-10-25T01:30:00Z,yes,9007199254740993`,
		``,
	}, "\r\n")
	if out.String() != want {
		t.Errorf("got\n%s\nwant\n%s", out.String(), want)
	}
	if rows, err := csv.NewReader(&out).ReadAll(); err != nil || len(rows) != 7 {
		t.Errorf("the standard library reads %d lines, %v", len(rows), err)
	}
}

func TestCSVOfASortedSheet(t *testing.T) {
	var out bytes.Buffer
	if err := write(&out, "csv", Options{},
		lay(t, ask.Changes{Columns: []string{"kg"}, Sort: []string{"-kg"}})); err != nil {
		t.Fatal(err)
	}
	if want := "\"Weight, kg\"\r\n4.750\r\n3.750\r\n2.750\r\n0.750\r\n-0.250\r\n\r\n"; out.String() != want {
		t.Errorf("got %q", out.String())
	}
}

// failing accepts some bytes and then no more.
type failing int

func (f *failing) Write(p []byte) (int, error) {
	if *f -= failing(len(p)); *f < 0 {
		return 0, errors.New("no more room")
	}
	return len(p), nil
}

func TestWritersReportAFullDisk(t *testing.T) {
	for _, room := range []failing{0, 60} {
		left := room
		if err := write(&left, "csv", Options{}, lay(t, ask.Changes{})); err == nil ||
			!strings.Contains(err.Error(), "no more room") {
			t.Errorf("CSV into %d bytes: %v", room, err)
		}
		left = room
		if err := write(&left, "xlsx", Options{}, lay(t, ask.Changes{})); err == nil ||
			!strings.Contains(err.Error(), "no more room") {
			t.Errorf("XLSX into %d bytes: %v", room, err)
		}
	}
}

func TestXLSX(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := writeIn(&out, "xlsx", Options{}, berlin, lay(t, ask.Changes{})); err != nil {
		t.Fatal(err)
	}
	book, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	const name = "A (view)  of too many letters f"
	if got := book.GetSheetList(); len(got) != 2 || got[0] != name || got[1] != "How it was made" {
		t.Fatalf("worksheets %q", got)
	}
	for cell, want := range map[string]struct {
		shown string
		kind  excelize.CellType
	}{
		"A1": {"Name", excelize.CellTypeInlineString}, "B1": {"Weight, kg", excelize.CellTypeInlineString},
		"A3": {`with "quotes", commas`, excelize.CellTypeInlineString},
		"A5": {"=1+1", excelize.CellTypeInlineString}, // a text, not a formula
		"B2": {"-0.250", excelize.CellTypeUnset}, "B5": {"2.750", excelize.CellTypeUnset},
		"C2": {"1,234,567.89", excelize.CellTypeUnset},
		"D2": {"2026-10-14", excelize.CellTypeUnset},
		"E2": {"2026-10-25 02:30", excelize.CellTypeUnset}, // as it reads in the zone
		"F3": {"yes", excelize.CellTypeInlineString},
		"G2": {"9007199254740993", excelize.CellTypeInlineString}, // more digits than a spreadsheet holds
		"B4": {"", excelize.CellTypeUnset}, "B8": {"11.750", excelize.CellTypeUnset},
		"C8": {"6,172,839.45", excelize.CellTypeUnset},
	} {
		shown, err := book.GetCellValue(name, cell)
		kind, err2 := book.GetCellType(name, cell)
		if err := errors.Join(err, err2); err != nil || shown != want.shown || kind != want.kind {
			t.Errorf("%s: got %q of type %v, %v; want %q of type %v", cell, shown, kind, err, want.shown, want.kind)
		}
	}
	if formula, err := book.GetCellFormula(name, "A5"); err != nil || formula != "" {
		t.Errorf("a text became the formula %q, %v", formula, err)
	}
	panes, err := book.GetPanes(name)
	if err != nil || !panes.Freeze || panes.YSplit != 1 {
		t.Errorf("the headings do not stay: %+v, %v", panes, err)
	}
}
