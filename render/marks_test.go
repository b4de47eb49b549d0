package render

import (
	"bytes"
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

// marked makes a sheet whose heavy rows are alerts, whose light weights call
// for attention, and whose names lead somewhere.
func marked(t *testing.T, v report.View) *sheet.Sheet {
	t.Helper()
	set := report.Dataset{ID: "d", Columns: []report.Column{
		{
			ID:    "name",
			Label: "Name",
			Kind:  frame.Text,
			Opens: &report.Opens{
				Report: "lot-history",
				With:   []report.Fill{{Parameter: "lot", From: "name"}, {Parameter: "since", From: ":received"}},
			},
		},
		{
			ID:    "kg",
			Label: "Weight",
			Kind:  frame.Decimal,
			Scale: 1,
			Unit:  "kg",
			Total: frame.Sum,
			Tones: []report.Tone{{When: "kg < 2", As: "attention"}},
		},
		{ID: "at", Label: "Where", Kind: frame.Text, Opens: &report.Opens{Address: "https://example.org/{at}"}}}}
	var records []arrow.RecordBatch
	b := frame.NewBuilder(set.Schema(), 10, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for i, kg := range []int64{10, 35, 60} {
		b.Text(0, []byte([]string{"L-1", "L-2", "L-3"}[i]))
		b.Text(2, []byte("a b"))
		if err := b.Int(1, kg); err != nil {
			t.Fatal(err)
		}
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := frame.New(set.Schema(), records...)
	if err != nil {
		t.Fatal(err)
	}
	v.ID, v.Of, v.Title, v.Tones = "v", "d", "Marked", []report.Tone{{When: "kg > 5", As: "alert"}}
	s, err := sheet.Lay(t.Context(), kept.Of(f, table.Fresh{}), &set, &v, ask.Changes{},
		ready.Setting{Cache: table.Fresh{}})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// TestMarksAreWordsWithLooks holds that a spreadsheet tells tones in words and
// gives what they speak of its looks by them.
func TestMarksAreWordsWithLooks(t *testing.T) {
	var out bytes.Buffer
	if err := write(&out, "xlsx", Options{}, marked(t, report.View{Show: report.Table})); err != nil {
		t.Fatal(err)
	}
	book, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	rows, err := book.GetRows("Marked")
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range map[int]string{0: "Marks", 1: "attention: Weight, kg", 3: "alert: line"} {
		if len(rows[i]) < 4 || rows[i][3] != want {
			t.Errorf("line %d is %q, want %q at its end", i+1, rows[i], want)
		}
	}
	looks, err := book.GetConditionalFormats("Marked")
	if err != nil {
		t.Fatal(err)
	}
	said := ""
	for place, all := range looks {
		for _, f := range all {
			said += place + " " + f.Criteria + "\n"
		}
	}
	for _, want := range []string{`A2:C4 ISNUMBER(SEARCH("alert: line",$D2))`,
		`B2:B4 ISNUMBER(SEARCH("attention: Weight, kg",$D2))`} {
		if !strings.Contains(strings.ReplaceAll(said, " =", " "), want) {
			t.Errorf("%q is not among\n%s", want, said)
		}
	}
	link, err := book.GetCellFormula("Marked", "C2")
	if err != nil || link != `HYPERLINK("https://example.org/a%20b","a b")` {
		t.Errorf("the link is %s, %v", link, err)
	}
}

// TestTableAsPeopleReadIt holds what pages, web pages and texts are made of.
func TestTableAsPeopleReadIt(t *testing.T) {
	d := document.Document{
		Form:   shown.Form{Zone: time.UTC},
		Base:   "https://reports.example.org",
		Values: []document.Value{{Parameter: "received", Resolved: "2026-01-01/2026-12-31"}},
	}
	table := d.Read(marked(t, report.View{Show: report.Table, Blanks: []string{"Seen by"}}))
	if len(table.Heads) != 4 || table.Heads[1].Text != "Weight, kg" || !table.Heads[1].Right || !table.Heads[3].Blank ||
		strings.Join(table.Total, "|") != "Total|10.5||" {
		t.Errorf("%+v, total %q", table.Heads, table.Total)
	}
	var lines []document.Line
	if err := table.Each(t.Context(),
		func(l []document.Line) error { lines = append(lines, l...); return nil }); err != nil {
		t.Fatal(err)
	}
	if len(lines) != 3 || lines[0].Tones[1] != "attention" || lines[2].Tone != "alert" || lines[1].Cells[1] != "3.5" {
		t.Errorf("%+v", lines)
	}
	lot := "https://reports.example.org/open/lot-history?lot=L-1&since=2026-01-01%2F2026-12-31"
	if a := lines[0].Addresses; a[0] != lot || a[1] != "" || a[2] != "https://example.org/a%20b" {
		t.Errorf("%q", a)
	}
	stacked := d.Read(marked(t,
		report.View{
			Show:    report.Crosstab,
			Down:    []string{"name"},
			Across:  []string{"at"},
			Cells:   []string{"kg"},
			Stacked: true,
		}))
	if len(stacked.Heads) != 4 || stacked.Heads[1].Text != "Measure" || stacked.Heads[2].Text != "a b" ||
		stacked.Heads[3].Text != "Total" {
		t.Errorf("%+v", stacked.Heads)
	}
	across := d.Read(marked(t,
		report.View{Show: report.Crosstab, Down: []string{"name"}, Across: []string{"at"}, Cells: []string{"kg"}}))
	if across.Over() != 1 || across.Heads[1].Over[0] != "a b" || across.Heads[2].Over[0] != "Total" ||
		across.Total[0] != "Total" {
		t.Errorf("%+v", across.Heads)
	}
}
