package statement

import (
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"mantilla/core/frame"
	"mantilla/core/report"
)

var (
	euros    = frame.Field{Kind: frame.Money, Scale: 2, Currency: "EUR"}
	declared = report.Statement{Title: "The bank's statement", Reversed: true, File: report.StatementFile{Day: "booked",
		Amount: "amount", Reference: "reference", Text: "text", Currency: "currency", Separator: "semicolon",
		Decimal: "point", Dates: "iso"}}
)

// told writes lines as day amount reference text, and the days that are covered.
func told(l Lines) string {
	var out strings.Builder
	fmt.Fprintf(&out, "%s to %s", l.First, l.Until)
	for _, it := range l.Items {
		fmt.Fprintf(&out, "; %s %d %s %s", it.Day, it.Amount, it.Reference, it.Text)
	}
	return out.String()
}

func TestCSV(t *testing.T) {
	comma := declared
	comma.File.Decimal, comma.File.Dates, comma.Reversed, comma.File.Currency = "comma", "dmy", false, ""
	for _, c := range []struct {
		text, want string
		by         report.Statement
	}{
		{text: "booked;reference;text;amount;currency\r\n2025-10-07;B1;PAYOUT;-1862.70;EUR\r\n;;;;\r\n" +
			"2025-10-09;X;\"A; B\";12;eur\r\n", by: declared,
			want: "2025-10-07 to 2025-10-09; 2025-10-07 186270 B1 PAYOUT; 2025-10-09 -1200 X A; B"},
		{text: "\xef\xbb\xbfAccount of the cooperative\n\nTEXT;Amount; Booked ;Reference\n" +
			"Honig f\xfcr K;1.234,5;7.10.2025;B 1\n" +
			"x;-0,05 ;31.10.25;\n", by: comma,
			want: "2025-10-07 to 2025-10-31; 2025-10-07 123450 B 1 Honig für K; 2025-10-31 -5  x"},
	} {
		l, err := Read([]byte(c.text), &c.by, euros)
		if err != nil || told(l) != c.want {
			t.Errorf("%v: %s\nand not %s", err, told(l), c.want)
		}
	}
}

// Everything that is wrong is told at once, with its place.
func TestWhatIsNoStatement(t *testing.T) {
	head := "booked;reference;text;amount;currency\n"
	bare := declared
	bare.File = report.StatementFile{}
	for text, want := range map[string]string{
		head + "2025-10-07;B1;x;1.234;EUR\nmorning;B2;y;1;EUR\n2025-10-08;;;1;USD\n": `line 2: amount: "1.234" ` +
			`is no number ` +
			`with at most 2 decimals; line 3: booked: "morning" is no day; they are declared to be written as 2026-10-14; ` +
			`line 4: it is in USD, and the report's amounts are in EUR`,
		head:                                    "there is no line in it",
		"booked;amount\n2025-10-07;1\n":         `line 1: there is no column "reference"; line 1: there is no column "text"`,
		"hello":                                 `no headings "booked" and "amount" with semicolon between`,
		"PK\x03\x04no":                          "no spreadsheet",
		"<html></html>":                         "no statement in camt.053",
		"<Document":                             "no XML",
		head + "\"2025-10-07;B1;x;1;EUR\n":      "no CSV",
		head + strings.Repeat("x;;;1;EUR\n", 9): "and 1 more like these",
	} {
		if l, err := Read([]byte(text), &declared, euros); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, %v\nand not %s", text, l, err, want)
		}
	}
	if _, err := Read([]byte(head), &bare, euros); err == nil || !strings.Contains(err.Error(), "camt.053 alone") {
		t.Error(err)
	}
}

// A spreadsheet's days and amounts are numbers or texts, below a heading of its own, on any sheet.
func TestXLSX(t *testing.T) {
	book := excelize.NewFile()
	defer book.Close()
	if _, err := book.NewSheet("Lines"); err != nil {
		t.Fatal(err)
	}
	for row, cells := range [][]any{{"Account"}, {"text", "Booked", "Amount", "reference", "currency"},
		{"PAYOUT", time.Date(2025, 10, 7, 0, 0, 0, 0, time.UTC), -186270.67, "B1", "EUR"},
		{"FEE", "2025-10-08", "1,234.50", 4711, ""}} {
		if err := book.SetSheetRow("Lines", fmt.Sprintf("A%d", row+1), &cells); err != nil {
			t.Fatal(err)
		}
	}
	var file bytes.Buffer
	if err := book.Write(&file); err != nil {
		t.Fatal(err)
	}
	l, err := Read(file.Bytes(), &declared, euros)
	if want := "2025-10-07 to 2025-10-08; 2025-10-07 18627067 B1 PAYOUT; 2025-10-08 -123450 4711 FEE"; err != nil ||
		told(l) != want {
		t.Errorf("%v: %s\nand not %s", err, told(l), want)
	}
	decimal := declared
	decimal.File.Decimal = "comma"
	if l, err = Read(file.Bytes(), &decimal, euros); err == nil || l.Items[0].Amount != 18627067 ||
		!strings.Contains(err.Error(), `sheet Lines, row 4: amount: "1,234.50"`) {
		t.Errorf("a number of a spreadsheet has no decimal sign, a text has the declared one: %v, %s", err, told(l))
	}
}

func TestCamt(t *testing.T) {
	data, err := os.ReadFile("testdata/statement.xml")
	if err != nil {
		t.Fatal(err)
	}
	l, err := Read(data, &declared, euros)
	want := "2025-11-01 to 2025-11-30; 2025-11-04 1250 B202510-2 REST OF B202510-2; 2025-11-05 100000 B202511-1 first; " +
		"2025-11-05 50050 B202511-2 second; 2025-11-28 -99 INTEREST-1 INTEREST"
	if err != nil || told(l) != want {
		t.Errorf("%v: %s\nand not %s", err, told(l), want)
	}
	for _, c := range []struct{ was, is, want string }{
		{"<Amt Ccy=\"EUR\">12.50</Amt>", "<Amt Ccy=\"EUR\">13.50</Amt>",
			"come to 8486.99 and not to its closing balance 8487.99"},
		{"<Amt Ccy=\"EUR\">12.50</Amt>", "<Amt Ccy=\"SEK\">12.50</Amt>", "statement S-11, entry 1: it is in SEK"},
		{"<CdtDbtInd>CRDT</CdtDbtInd>", "<CdtDbtInd>NONE</CdtDbtInd>", `"NONE" says neither`},
		{"<Dt>2025-11-04</Dt>", "<Dt>November</Dt>", `"November" is no day`},
	} {
		if !bytes.Contains(data, []byte(c.was)) {
			t.Fatalf("%s is not there", c.was)
		}
		broken := bytes.Replace(data, []byte(c.was), []byte(c.is), 1)
		if _, err := Read(broken, &declared, euros); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%v and not %s", err, c.want)
		}
	}
}
