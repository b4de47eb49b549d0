package starter_test

import (
	"fmt"
	"strings"
	"testing"

	"mantilla/core/definition"
	"mantilla/core/report"
	"mantilla/core/starter"
)

func quote(name string) string { return `"` + name + `"` }

func read(t *testing.T, text string) *report.Definition {
	t.Helper()
	shared, faults := definition.ParseShared([]byte("parameters:\n  - {id: unit, type: unit, many: true, from: units}\n"))
	if faults != nil {
		t.Fatal(faults)
	}
	d, faults := definition.Parse([]byte(text), definition.Defaults{Currency: "EUR", Shared: shared})
	if faults != nil {
		t.Fatalf("%v in\n%s", faults, text)
	}
	return d
}

func lots() starter.Wish {
	return starter.Wish{Report: "lots", Title: "Lots: all", Category: "Intake", Source: "coop", Table: "lot", Quote: quote,
		Many: true, Units: "units", Shared: map[string]starter.Shared{"units": {ID: "unit", Many: true}},
		Columns: []starter.Column{
			{Name: "lot_no", Type: "text", Key: true, Values: []string{"L1", "L2"}},
			{Name: "site_id", Type: "text", List: "units", Values: []string{"S1"}},
			{Name: "grade", Type: "text", List: "grades", Values: []string{"A", "B"}},
			{Name: "keeper_no", Type: "text", List: "keepers", Large: true, Values: []string{"1"}},
			{Name: "received_on", Type: "text", Values: []string{"2026-09-01"}},
			{Name: "entered_at", Type: "text", Values: []string{"2026-09-01T10:00:00Z"}},
			{Name: "price_cents", Type: "integer", Values: []string{"950"}},
			{Name: "share", Type: "real", Values: []string{"0.5", "1", "0.125"}},
			{Name: "net_g", Type: "integer", Values: []string{"12500"}},
			{Name: "checked", Type: "integer", Values: []string{"0", "1", "1"}},
			{Name: "order", Type: "text"},
		}}
}

func TestADefinitionFromColumnsIsRight(t *testing.T) {
	text := starter.Text(lots())
	d := read(t, text)
	var columns []string
	for _, c := range d.Datasets[0].Columns {
		columns = append(columns, fmt.Sprintf("%s %s %d %s %s", c.ID, c.Kind, c.Scale, c.Label, c.Total))
	}
	want := `lot_no text 0 Lot no. none
site_id text 0 Site none
grade text 0 Grade none
keeper_no text 0 Keeper no. none
received date 0 Received none
entered timestamp 0 Entered none
price money 2 Price sum
share decimal 3 Share sum
net_g integer 0 Net g sum
checked flag 0 Checked none
order text 0 Order none`
	if got := strings.Join(columns, "\n"); got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
	var parameters []string
	for _, p := range d.Parameters {
		parameters = append(parameters, fmt.Sprintf("%s %s %v", p.ID, p.Type, p.Required))
	}
	if got := strings.Join(parameters, ", "); got !=
		"unit unit false, grade choice false, keeper_no entity false, received range true, entered range false" {
		t.Errorf("parameters %s", got)
	}
	if d.Datasets[0].Scope.SQL != "lot.site_id" || d.Datasets[0].Key[0] != "lot_no" || d.View("by_site_id") == nil {
		t.Errorf("scope %q, key %v in\n%s", d.Datasets[0].Scope.SQL, d.Datasets[0].Key, text)
	}
	if !strings.Contains(text, `lot."order"`) {
		t.Errorf("a word of SQL is a name:\n%s", text)
	}
}

// Whatever a table and its columns are called, the definition can be read.
func TestAnyNamesMakeADefinition(t *testing.T) {
	for _, name := range []string{"a", "Größe in €", "7", "yes", "it's", "a: b", "#", "x_on", "_", "x y", "{", "no",
		`a"b`} {
		w := lots()
		w.Table, w.Title, w.Category = name, name, name
		w.Columns = []starter.Column{{Name: name, Values: []string{"2026-01-01"}}, {Name: name, Values: []string{"x"}}}
		d := read(t, starter.Text(w))
		if d.Title != name || len(d.Datasets[0].Columns) != 2 {
			t.Errorf("%q: %q", name, d.Title)
		}
	}
}

func ExampleText() {
	fmt.Print(starter.Text(starter.Wish{Report: "buyers", Title: "Buyers", Category: "Trade", Source: "coop",
		Table: "buyer",
		Columns: []starter.Column{{Name: "no", Type: "text", Key: true, Values: []string{"B1"}},
			{Name: "terms_days", Type: "integer", Values: []string{"30"}}}}))
	// Output:
	// report: buyers
	// title: Buyers
	// category: Trade
	// depth: lines
	// about: Rows of buyer. Say here what they are for.
	// source: coop
	// datasets:
	//   rows:
	//     from: buyer
	//     key: [no]
	//     columns:
	//       - {id: no, is: buyer.no, type: text, label: 'No'}
	//       - {id: terms_days, is: buyer.terms_days, type: integer, label: Terms days, total: sum}
	// views:
	//   rows: {title: Buyer, of: rows, columns: [no, terms_days], sort: [no]}
	// page: [rows]
}

// TestDeclaredTypesCount tells kinds by types that leave no doubt, unless values show that the
// engine lets any cell hold anything.
func TestDeclaredTypesCount(t *testing.T) {
	d := read(t, starter.Text(starter.Wish{Report: "sales", Title: "Sales", Category: "Sales", Source: "shop",
		Table: "sale",
		Quote: quote, Columns: []starter.Column{
			{Name: "sold_on", Type: "date", Values: []string{"2026-01-02"}},
			{Name: "at", Type: "timestamp with time zone", Values: []string{"2026-01-01 10:00:00+00",
				"2026-01-01 10:00:00.25+01"}},
			{Name: "paid", Type: "boolean", Values: []string{"t", "f"}},
			{Name: "amount", Type: "numeric(12,4)", Values: []string{"10", "12"}},
			{Name: "weight", Type: "numeric", Values: []string{"10", "12.125"}},
			{Name: "told", Type: "date", Values: []string{"yesterday"}},
			{Name: "rank", Type: "decimal", Values: []string{"first"}},
		}}))
	var columns []string
	for _, c := range d.Datasets[0].Columns {
		columns = append(columns, fmt.Sprintf("%s %s %d %s", c.ID, c.Kind, c.Scale, c.Stored))
	}
	if got, want := strings.Join(columns, ", "), "sold date 0 smallest, at timestamp 0 smallest, paid flag 0 smallest, "+
		"amount decimal 4 decimal, weight decimal 3 decimal, told text 0 smallest, rank text 0 smallest"; got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
}
