package sqlite

import (
	"errors"
	"strings"
	"testing"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/model"
	"mantilla/source"
)

func TestLookingAtTables(t *testing.T) {
	f, path := open(t)
	c, err := sqlite3.Open(path)
	if err == nil {
		err = errors.Join(c.Exec(`create table "odd name" (id integer primary key, unit text not null references unit);
			create view heavy as select no, grams from lot where grams > 100`), c.Close())
	}
	if err != nil {
		t.Fatal(err)
	}
	found, err := f.Tables(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	by := map[string]source.Table{}
	for _, table := range found {
		names = append(names, table.Name)
		by[table.Name] = table
	}
	if got := strings.Join(names, ","); got != "heavy,lot,odd name,unit" {
		t.Errorf("tables %s", got)
	}
	if !by["heavy"].View || by["heavy"].Rows != -1 || by["lot"].Rows != 3 || by["lot"].View {
		t.Errorf("%+v", by)
	}
	odd := by["odd name"].Columns
	if len(odd) != 2 || !odd[0].Key || odd[0].Type != "INTEGER" || odd[1].References != "unit" || !odd[1].Required {
		t.Errorf("columns %+v", odd)
	}
	sample, err := f.Sample(t.Context(), "lot", 2)
	if err != nil || len(sample.Rows) != 2 || *sample.Rows[0][0] != "L1" || *sample.Rows[1][4] != "-3" {
		t.Errorf("sample %+v, %v", sample, err)
	}
	if sample, err = f.Sample(t.Context(), "lot", 10); err != nil || sample.Rows[2][3] != nil {
		t.Errorf("a cell without a value: %+v, %v", sample, err)
	}
	var missing *model.Missing
	if _, err := f.Sample(t.Context(), "lots", 2); !errors.As(err, &missing) || missing.Near[0] != "lot" {
		t.Errorf("a table that there is not: %v", err)
	}
	if _, err := f.Sample(t.Context(), `lot"; drop table lot; --`, 2); !errors.As(err, &missing) {
		t.Errorf("a name that is none: %v", err)
	}
}

// What SQLite does not know is told with what was probably meant, without the source's
// own preface.
func TestMisnamedIsToldWithTheNearest(t *testing.T) {
	f, _ := open(t)
	for _, c := range []struct{ column, from, says string }{
		{"l.gram", "lot l", "no such column: l.gram; did you mean grams?"},
		{"l.no", "lott l", "no such table: lott; did you mean lot?"},
		{"l.frobnicate", "lot l", "no such column: l.frobnicate"},
	} {
		set := report.Dataset{ID: "d", Columns: []report.Column{{ID: "x", Is: report.Piece{SQL: c.column}}}}
		q := query.Query{Dataset: &set, From: query.Piece{{Text: c.from}},
			Columns: []query.Column{{ID: "x", Is: query.Piece{{Text: c.column}}}}}
		if err := f.Prepare(t.Context(), q); err == nil || err.Error() != c.says {
			t.Errorf("%s of %s: %v", c.column, c.from, err)
		}
	}
}
