package drafting_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/library/drafting"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// A preview is cut as a run is, keeps nothing, and stops with its reader.
func TestPreviewsKeepNothing(t *testing.T) {
	l := office(t)
	aron := librarytest.SignIn(t, l, "aron")
	d, err := aron.Drafting.Begin(t.Context(),
		drafting.Beginning{Copy: "intake-lots", Report: "lots-again", Title: "Lots"})
	if err != nil {
		t.Fatal(err)
	}
	p, err := aron.Drafting.Preview(t.Context(), d.Number, "", map[string]string{"received": "2026-Q3"})
	if err != nil || !p.Rows.Cut || p.Sheet.Rows != 200 || !strings.Contains(p.Rows.Sentence, "1 July") ||
		!strings.Contains(p.Rows.Statements[0].Text, "from lot join keeper") {
		t.Errorf("%+v, %v", p, err)
	}
	few, err := aron.Drafting.Preview(t.Context(), d.Number, "all_columns", map[string]string{"received": "2026-07-01",
		"unit": "Hollin"})
	if err != nil || few.Rows.Cut || few.Sheet.View.ID != "all_columns" {
		t.Errorf("%+v, %v", few, err)
	}
	compared, err := aron.Drafting.Begin(t.Context(), drafting.Beginning{Copy: "orders-by-grouping"})
	if err != nil {
		t.Fatal(err)
	}
	if p, err := aron.Drafting.Preview(t.Context(), compared.Number, "", map[string]string{
		"days": "2026-09 against year before"}); err != nil || p.Sheet.Rows == 0 || len(p.Rows.Statements) < 2 {
		t.Errorf("a comparison: %v, %v", p, err)
	}
	if results, err := aron.Reading.Results(t.Context(), model.ResultWish{Limit: 10}); err != nil || len(results) != 0 {
		t.Errorf("%d results, %v", len(results), err)
	}
	gone, leave := context.WithCancel(t.Context())
	leave()
	if _, err := aron.Drafting.Preview(gone, d.Number, "", nil); err == nil {
		t.Error("a reader who left gets rows")
	}
	endless := strings.Replace(d.Text, "    from: |\n      lot join",
		"    from: |\n      (with recursive n(i) as (select 1 union all "+
			"select i + 1 from n) select * from n) join lot on lot.lot_no = n.i join", 1)
	endless = strings.Replace(endless, "select * from n) join", "select * from n) n join", 1)
	if endless == d.Text {
		t.Fatal("nothing was changed")
	}
	if _, err := aron.Drafting.PutDraft(t.Context(), d.Number,
		drafting.Change{Text: endless, Revision: d.Revision}); err != nil {
		t.Fatal(err)
	}
	begun := time.Now()
	if _, err := aron.Drafting.Preview(t.Context(), d.Number, "", nil); err == nil ||
		!strings.Contains(err.Error(), "took longer") ||
		time.Since(begun) > 15*time.Second {
		t.Errorf("endless SQL: %v after %s", err, time.Since(begun))
	}
}

// Whatever table an author begins from, the definition is right and can be run.
func TestEveryTableBeginsAReport(t *testing.T) {
	l := office(t)
	aron := librarytest.SignIn(t, l, "aron")
	tables, err := aron.Drafting.Tables(t.Context(), "coop", "")
	if err != nil || len(tables) < 20 {
		t.Fatalf("%d tables, %v", len(tables), err)
	}
	for i, table := range tables {
		d, err := aron.Drafting.Begin(t.Context(), drafting.Beginning{Title: fmt.Sprintf("Table %d", i), Source: "coop",
			Table: table.Name})
		if err != nil {
			t.Errorf("%s: %v", table.Name, err)
			continue
		}
		if _, err := aron.Drafting.Preview(t.Context(), d.Number, "", nil); err != nil {
			t.Errorf("%s: %v in\n%s", table.Name, err, d.Text)
		}
	}
	used, err := aron.Drafting.Tables(t.Context(), "coop", "elimin")
	if err != nil || len(used) != 1 || !slices.Contains(used[0].UsedBy, "consolidation-trail") {
		t.Errorf("%+v, %v", used, err)
	}
	var missing *model.Missing
	for _, b := range []drafting.Beginning{{Title: "x", Source: "coop", Table: "keepr"},
		{Title: "x", Source: "cop", Table: "lot"},
		{Title: "x", Source: "coop", Table: "lot", Columns: []string{"no"}}, {Copy: "intake-lot"}} {
		if _, err := aron.Drafting.Begin(t.Context(), b); !errors.As(err, &missing) || len(missing.Near) == 0 {
			t.Errorf("%+v: %v", b, err)
		}
	}
}
