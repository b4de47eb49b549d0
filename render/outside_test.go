package render

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/apache/arrow-go/v18/arrow/memory"
	parquet "github.com/apache/arrow-go/v18/parquet/file"
	"github.com/apache/arrow-go/v18/parquet/pqarrow"
	"github.com/xuri/excelize/v2"

	"mantilla/core/ask"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/render/paper"
)

// tool runs a program that the tests need.
func tool(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.CommandContext(t.Context(), name, args...).CombinedOutput()
	if err != nil {
		t.Fatalf("%s %v: %v\n%s", name, args, err, out)
	}
	return string(out)
}

// file writes sheets into a file.
func file(t *testing.T, name, format string, o Options, sheets ...*sheet.Sheet) string {
	t.Helper()
	var b bytes.Buffer
	if err := write(&b, format, o, sheets...); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// asCSV opens a workbook in an office program and reads what it shows.
func asCSV(t *testing.T, path string) [][]string {
	t.Helper()
	dir := t.TempDir()
	tool(t, "soffice", "-env:UserInstallation=file://"+filepath.Join(dir, "home"), "--headless", "--convert-to",
		"csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true", "--outdir", dir, path)
	text, err := os.ReadFile(filepath.Join(dir, strings.TrimSuffix(filepath.Base(path), ".xlsx")+".csv"))
	if err != nil {
		t.Fatal(err)
	}
	r := csv.NewReader(bytes.NewReader(text))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	return rows
}

// TestAnotherProgramComputesTheSameTotals opens a grouped workbook in an office
// program, once with the totals that were written and once without, so that it
// has to compute them.
func TestAnotherProgramComputesTheSameTotals(t *testing.T) {
	all := 3
	grouped := lay(t, ask.Changes{Group: []string{"ok", "day"}, Open: &all})
	path := file(t, "written.xlsx", "xlsx", Options{}, grouped)
	book, err := excelize.OpenFile(path)
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	name := book.GetSheetList()[0]
	rows, err := book.GetRows(name)
	if err != nil {
		t.Fatal(err)
	}
	formulas := 0
	for r := range rows {
		for c := range rows[r] {
			cell, _ := excelize.CoordinatesToCellName(c+1, r+1)
			if f, err := book.GetCellFormula(name, cell); err == nil && strings.HasPrefix(f, "SUBTOTAL(9,") {
				formulas++
				if err := book.SetCellValue(name, cell, nil); err != nil {
					t.Fatal(err)
				}
				if err := book.SetCellFormula(name, cell, f); err != nil {
					t.Fatal(err)
				}
			}
		}
	}
	if formulas < 10 {
		t.Errorf("only %d totals are formulas", formulas)
	}
	bare := filepath.Join(t.TempDir(), "bare.xlsx")
	if err := book.SaveAs(bare); err != nil {
		t.Fatal(err)
	}
	written, computed := asCSV(t, path), asCSV(t, bare)
	if len(written) != len(computed) || len(written) != grouped.Lines+2 {
		t.Fatalf("%d lines written, %d computed, %d laid out", len(written), len(computed), grouped.Lines)
	}
	for i := range written {
		if !slices.Equal(written[i], computed[i]) {
			t.Errorf("line %d: written %q, computed %q", i+1, written[i], computed[i])
		}
	}
	if last := written[len(written)-1]; !slices.Contains(last, "11.750") || !slices.Contains(last, "6,172,839.45") {
		t.Errorf("the total is %q", last)
	}
	if level, err := book.GetRowOutlineLevel(name, 4); err != nil || level == 0 {
		t.Errorf("line 4 is not in an outline: %d, %v", level, err)
	}
}

func TestWorkbookTellsWhereItComesFrom(t *testing.T) {
	path := file(t, "two.xlsx", "xlsx", Options{Told: true}, lay(t, ask.Changes{}),
		lay(t, ask.Changes{Filters: []string{"kg>=1"}}))
	book, err := excelize.OpenFile(path)
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	names := book.GetSheetList()
	if len(names) != 3 || names[0] == names[1] {
		t.Fatalf("worksheets %q", names)
	}
	made, err := book.GetRows("How it was made")
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range [][]string{{"Received", "2026"}, {"Result", "R-000007"}, {"Run by", "runa"},
		{"Seal", strings.Repeat("ab", 32) + ", of the whole result; this is an extract"},
		{"What was done to it", "Of which weight at least 1: 3 of 6 rows."}} {
		if !slices.ContainsFunc(made, func(row []string) bool { return slices.Equal(row, want) }) {
			t.Errorf("%q is not told in %q", want, made)
		}
	}
	if first, err := book.GetCellValue(names[0], "A1"); err != nil || first != "Made rows" {
		t.Errorf("the first line is %q, %v", first, err)
	}
}

func TestPDFReadsWell(t *testing.T) {
	path := file(t, "rows.pdf", "pdf", Options{}, lay(t, ask.Changes{}))
	if out := tool(t, "qpdf", "--check", path); !strings.Contains(out, "No syntax or stream encoding errors") {
		t.Error(out)
	}
	text := tool(t, "pdftotext", "-layout", path, "-")
	for _, want := range []string{"Made rows", "Rows of 2026.", "Weight, kg", "Øst Müll", "1,234,567.89", "−0.250",
		"Total", "6,172,839.45", "R-000007", "seal abababababab", "Page 1 of 1"} {
		if !strings.Contains(text, want) {
			t.Errorf("%q is not in\n%s", want, text)
		}
	}
	fonts := tool(t, "pdffonts", path)
	if n := len(regexp.MustCompile(`Identity-H +yes +(yes|no) +yes`).FindAllString(fonts, -1)); n != 2 {
		t.Errorf("not both fonts are embedded with their letters:\n%s", fonts)
	}
}

// TestPDFIsTagged has the structure of a file read by another's program: what is
// read aloud, as what, and that nothing of a page is left out.
func TestPDFIsTagged(t *testing.T) {
	chart := report.View{
		ID:     "c",
		Title:  "Weights",
		Of:     "d",
		Show:   report.Chart,
		Drawn:  "bar",
		Levels: []string{"day"},
		Cells:  []string{"kg"},
	}
	path := file(t, "rows.pdf", "pdf", Options{Page: paper.Setting{Cover: true}}, lay(t, ask.Changes{}),
		layView(t, chart))
	if out := tool(t, "qpdf", "--check", path); !strings.Contains(out, "No syntax or stream encoding errors") {
		t.Error(out)
	}
	if says := tool(t, "pdfinfo", "-rawdates", path); !strings.Contains(says, "D:20261015130000+01'00") {
		t.Errorf("made at another time:\n%s", says)
	}
	if says := tool(t, "pdfinfo", path); !regexp.MustCompile(`Tagged: +yes`).MatchString(says) {
		t.Error(says)
	}
	read := regexp.MustCompile(`\s+`).ReplaceAllString(tool(t, "pdfinfo", "-struct-text", path), " ")
	for _, want := range []string{`Document P (block)`, `H1 (block) "Made rows`,
		`TR TH: /Scope /Row "Result" TD "R-000007"`,
		`Sect H2 (block) "A [view]: of/too many letters for a name" Table (block) TR TH: /Scope /Column "Name" TH: ` +
			`/Scope /Column "Weight, kg"`,
		`TR TD "Øst Müll" TD`, `TD "Total" TD`, `H2 (block) "Weights" Figure "`} {
		if !strings.Contains(read, want) {
			t.Errorf("%s is not in\n%s", want, read)
		}
	}
	open := tool(t, "qpdf", "--qdf", "--object-streams=disable", path, "-")
	if begun, ended := strings.Count(open, " BDC\n")+strings.Count(open, " BMC\n"),
		strings.Count(open, "EMC\n"); begun != ended || begun < 60 {
		t.Errorf("%d contents begin and %d end", begun, ended)
	}
	alt := ""
	for _, letter := range "Weights: Weight, kg: 14 Oct 2026" {
		alt += fmt.Sprintf("%04x", letter)
	}
	if !strings.Contains(open, "/Alt <feff"+alt) && !strings.Contains(open, "/Alt (Weights: Weight, kg: 14 Oct 2026") {
		t.Error("nothing tells what the chart shows")
	}
	if pages := strings.Count(open, "/Type /Page\n"); strings.Count(open, "/StructParents") != pages || pages != 2 {
		t.Errorf("%d of %d pages are in the structure", strings.Count(open, "/StructParents"), pages)
	}
}

func TestArchiveOpensElsewhere(t *testing.T) {
	rows := lay(t, ask.Changes{})
	path := file(t, "locked.zip", "csv", Options{Password: "Grüße & 1"}, rows)
	tool(t, "7z", "t", "-pGrüße & 1", path)
	if out, err := exec.Command("7z", "t", "-pwrong", path).CombinedOutput(); err == nil {
		t.Errorf("another password opens it: %s", out)
	}
	if out := tool(t, "7z", "l", "-slt", "-pGrüße & 1", path); !strings.Contains(out, "Method = AES-256 Deflate") &&
		!regexp.MustCompile(`Method = AES-256`).MatchString(out) {
		t.Error(out)
	}
	dir := t.TempDir()
	tool(t, "7z", "x", "-pGrüße & 1", "-o"+dir, path)
	got, err := os.ReadFile(filepath.Join(dir, "Made rows.csv"))
	var plain bytes.Buffer
	if err := errors.Join(err, write(&plain, "csv", Options{}, rows)); err != nil || !bytes.Equal(got, plain.Bytes()) {
		t.Errorf("packed and unpacked it is %q, %v", got, err)
	}
	// Several views that do not fit one file are packed too.
	several := file(t, "several.zip", "csv", Options{}, rows, lay(t, ask.Changes{Columns: []string{"kg"}}))
	r, err := zip.OpenReader(several)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Close()
	if len(r.File) != 2 || r.File[0].Name == r.File[1].Name {
		t.Errorf("files %v and %v", r.File[0].Name, r.File[1].Name)
	}
}

func TestParquetReadByAnother(t *testing.T) {
	read, err := parquet.OpenParquetFile(file(t, "rows.parquet", "parquet", Options{}, lay(t, ask.Changes{})), false)
	if err != nil {
		t.Fatal(err)
	}
	defer read.Close()
	arrows, err := pqarrow.NewFileReader(read, pqarrow.ArrowReadProperties{}, memory.DefaultAllocator)
	if err != nil {
		t.Fatal(err)
	}
	table, err := arrows.ReadTable(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer table.Release()
	if table.NumRows() != 6 {
		t.Fatalf("%d rows", table.NumRows())
	}
	column := func(i int) arrow.Array { return table.Column(i).Data().Chunk(0) }
	if got := column(0).(*array.String).Value(1); got != `with "quotes", commas` {
		t.Errorf("the second name is %q", got)
	}
	if !column(1).IsNull(2) || column(0).IsNull(5) || column(0).(*array.String).Value(5) != "" {
		t.Errorf("nothing and an empty text: %v and %v", column(1), column(0))
	}
	if got := column(6).(*array.Int64).Value(0); got != 9_007_199_254_740_993 {
		t.Errorf("a long number is %d", got)
	}
	if got := column(3).(*array.Date32).Value(0); got != 20740 {
		t.Errorf("the day is %d", got)
	}
	schema := table.Schema()
	if kind := schema.Field(2).Type.String(); kind != "decimal(18, 2)" {
		t.Errorf("money is %s", kind)
	}
	if heading, _ := schema.Field(0).Metadata.GetValue("heading"); heading == "" {
		t.Error("the heading of the first column is not told")
	}
	if seal := read.MetaData().KeyValueMetadata().FindValue("seal"); seal == nil {
		t.Error("the seal of the result is not told")
	}
	var names []string
	for _, f := range schema.Fields() {
		names = append(names, f.Name)
	}
	var want []string
	for _, c := range lay(t, ask.Changes{}).Columns {
		want = append(want, c.ID)
	}
	if !slices.Equal(names, want) {
		t.Errorf("columns %v, of the sheet %v", names, want)
	}
}

func TestArrowKeepsTypes(t *testing.T) {
	text, err := os.ReadFile(file(t, "rows.arrow", "arrow", Options{}, lay(t, ask.Changes{})))
	if err != nil {
		t.Fatal(err)
	}
	r, err := ipc.NewFileReader(bytes.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	defer r.Close()
	rows := 0
	for i := range r.NumRecords() {
		record, err := r.RecordBatch(i)
		if err != nil {
			t.Fatal(err)
		}
		if rows == 0 && record.Column(1).(*array.Decimal128).Value(0).ToString(3) != "-0.250" {
			t.Errorf("the first weight is %v", record.Column(1))
		}
		rows += int(record.NumRows())
	}
	if rows != 6 || r.Schema().Field(4).Type.String() != "timestamp[us, tz=UTC]" {
		t.Errorf("%d rows of %v", rows, r.Schema())
	}
	if at := r.Schema().Metadata().FindKey("seal"); at < 0 {
		t.Error("the seal is not told")
	}
}

func TestJSONHoldsEveryPlace(t *testing.T) {
	var b bytes.Buffer
	if err := write(&b, "json", Options{}, lay(t, ask.Changes{})); err != nil {
		t.Fatal(err)
	}
	var got struct {
		Result string
		Values map[string]string
		Views  []struct {
			Columns []column
			Rows    [][]any
		}
	}
	decoder := json.NewDecoder(bytes.NewReader(b.Bytes()))
	decoder.UseNumber()
	if err := decoder.Decode(&got); err != nil {
		t.Fatal(err)
	}
	first := got.Views[0].Rows[0]
	if got.Result != "R-000007" || got.Values["received"] != "2026-01-01/2026-12-31" ||
		first[6] != json.Number("9007199254740993") || first[1] != json.Number("-0.250") || first[5] != false ||
		first[3] != "2026-10-14" {
		t.Errorf("%+v", got)
	}
	b.Reset()
	if err := write(&b, "ndjson", Options{}, lay(t, ask.Changes{})); err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSpace(b.String()), "\n")
	if len(lines) != 6 ||
		lines[0] != `{"name":"plain","kg":-0.250,"pay":1234567.89,"day":"2026-10-14","at":"2026-10-25T01:30:00Z",`+
			`"ok":false,"n":9007199254740993}` {
		t.Errorf("%d lines, the first %s", len(lines), lines[0])
	}
}
