package mask_test

import (
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/mask"
	"mantilla/core/report"
)

// made are three people, two batches of them.
func made(t *testing.T) (*frame.Frame, *report.Dataset) {
	t.Helper()
	d := &report.Dataset{ID: "staff", Columns: []report.Column{
		{ID: "no", Kind: frame.Integer},
		{ID: "name", Kind: frame.Text, Code: "no", Personal: &report.Personal{Mask: report.MaskPseudonym, Clear: "author"}},
		{ID: "town", Kind: frame.Text, Personal: &report.Personal{Mask: report.MaskPart, Clear: "librarian"}},
		{ID: "born", Kind: frame.Date, Personal: &report.Personal{Clear: "author"}},
		{ID: "first", Kind: frame.Text, Formula: "left(name, 1)",
			Personal: &report.Personal{Mask: report.MaskWhole, Clear: "author"}},
	}}
	schema := frame.Schema{d.Columns[0].Field(), d.Columns[1].Field(), d.Columns[2].Field(), d.Columns[3].Field()}
	var records []arrow.RecordBatch
	out := frame.NewBuilder(schema, 2, func(r arrow.RecordBatch) error {
		r.Retain()
		records = append(records, r)
		return nil
	})
	for i, row := range [][]string{{"Orla Fenn", "Pell Cross"}, {"Imre Dask", ""}, {"Orla Fenn", "Marr"}} {
		if err := out.Int(0, int64(i)); err != nil {
			t.Fatal(err)
		}
		out.String(1, row[0])
		if row[1] != "" {
			out.String(2, row[1])
		}
		if err := out.Int(3, 1000); err != nil {
			t.Fatal(err)
		}
		if err := out.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := out.Close(); err != nil {
		t.Fatal(err)
	}
	rows, err := frame.New(schema, records...)
	if err != nil {
		t.Fatal(err)
	}
	return rows, d
}

// TestColumnsAreHiddenByRole looks at what each role is shown.
func TestColumnsAreHiddenByRole(t *testing.T) {
	_, d := made(t)
	for role, want := range map[string]string{"": "name town no", "author": "town", "librarian": ""} {
		hidden := mask.Columns(d, func(p *report.Personal) bool { return role == "librarian" || p.Clear == role })
		var got []string
		for _, id := range []string{"name", "town", "no", "born", "first"} {
			if hidden[id] != "" {
				got = append(got, id)
			}
		}
		if strings.Join(got, " ") != want {
			t.Errorf("from the role %q there is hidden %v, want %s", role, hidden, want)
		}
	}
}

// TestCellsAreHidden hides columns of rows in several batches, and reads every cell.
func TestCellsAreHidden(t *testing.T) {
	rows, d := made(t)
	hidden := mask.Columns(d, func(*report.Personal) bool { return false })
	over := mask.Over(rows, hidden, []byte("a key"))
	var cells []string
	for i := range over.Batches() {
		b, err := over.Batch(t.Context(), i, nil)
		if err != nil {
			t.Fatal(err)
		}
		for row := range b.Rows {
			if !b.Null(0, row) || b.Int(3, row) != 1000 {
				t.Errorf("row %d: the code of a hidden name is shown, or what is not hidden is not", row)
			}
			cells = append(cells, b.Text(1, row)+"|"+b.Text(2, row))
		}
		if _, known := over.Stats(i, 1); known {
			t.Error("what is known of a hidden column before it is read tells what is in it")
		}
	}
	orla, imre := mask.Text("Orla Fenn", report.MaskPseudonym, []byte("a key")), cells[1]
	if got := strings.Join(cells, " "); got != orla+"|P… C… "+imre+" "+orla+"|M…" || strings.HasPrefix(imre, orla) {
		t.Errorf("cells are %s", got)
	}
	if other := mask.Text("Orla Fenn", report.MaskPseudonym, []byte("another")); other == orla {
		t.Error("a pseudonym does not depend on its key")
	}
	if got := mask.Text("Orla", report.MaskWhole, nil); got != mask.Hidden {
		t.Errorf("hidden wholly it is %q", got)
	}
	if again := mask.Over(rows, nil, nil); again != rows {
		t.Error("with nothing hidden it is another frame")
	}
}
