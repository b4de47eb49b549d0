package report

import (
	"context"
	"strings"
	"testing"
	"time"

	"mantilla/core/param"
	"mantilla/core/period"
)

var shared = read("shared.yaml")

// orders switches, groups, compares and cuts.
var orders = read("orders.yaml")

func parseShared(t *testing.T, text string) *Shared {
	t.Helper()
	s, faults := ParseShared([]byte(text))
	if faults != nil {
		t.Fatal(faults)
	}
	return s
}

func parseOrders(t *testing.T, text string) *Definition {
	t.Helper()
	d, faults := Parse([]byte(text), Defaults{Currency: "EUR", Shared: parseShared(t, shared)})
	if faults != nil {
		t.Fatal(faults)
	}
	return d
}

type places struct{}

func (places) Match(_ context.Context, _, typed string) ([]param.Entry, error) {
	return []param.Entry{{Code: typed, Label: typed}}, nil
}
func (places) Near(context.Context, string, string) ([]param.Entry, error)         { return nil, nil }
func (places) Below(_ context.Context, _ string, codes []string) ([]string, error) { return codes, nil }
func (places) Out(context.Context, string, []string, map[string][]string) ([]string, error) {
	return nil, nil
}

func resolve(t *testing.T, d *Definition, typed map[string]string) param.Values {
	t.Helper()
	c := period.At(time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC), time.UTC, 0)
	values, faults, err := param.Resolve(t.Context(), d.Parameters, typed, param.Setting{Calendar: c, Lists: places{}})
	if err != nil || faults != nil {
		t.Fatal(err, faults)
	}
	return values
}

func TestComparedColumns(t *testing.T) {
	d := parseOrders(t, orders)
	d = d.Settle(resolve(t, d,
		map[string]string{"placed": "2026-09 against previous period and year before", "levels": "town", "basis": "sent",
			"shown": "amount; town"}))
	var said []string
	for _, c := range d.Dataset("orders").Columns {
		said = append(said, c.ID+"="+c.Label)
	}
	want := "town=Town buyer=Buyer amount=Sent amount_2=Sent, previous period amount_change_2=Change on previous period " +
		"amount_percent_2=Change on previous period" +
		" amount_3=Sent, year before amount_change_3=Change on year before amount_percent_3=Change on year before"
	if got := strings.Join(said, " "); got != want {
		t.Errorf("columns\n%s\nwant\n%s", got, want)
	}
	if read := d.Dataset("orders").Read(); len(read) != 3 {
		t.Errorf("the query gives %d columns", len(read))
	}
	if got := strings.Join(d.View("orders").Columns, " "); got != "town amount amount_2 amount_change_2 "+
		"amount_percent_2 amount_3 amount_change_3 amount_percent_3" {
		t.Errorf("the view shows %s", got)
	}
	if sort := d.View("orders").Sort; len(sort) != 1 || sort[0].Column != "town" {
		t.Errorf("sorted by a column that is not there: %v", sort)
	}
}

func TestNotesHoldOfTheValues(t *testing.T) {
	d := parseOrders(t, orders)
	today := period.Date(2026, 10, 15)
	for _, c := range []struct {
		typed map[string]string
		want  string
	}{{nil, ""}, {map[string]string{"placed": "this month"}, "More may come."},
		{map[string]string{"placed": "2024", "rule": "lease"}, "Long ago."}, {map[string]string{"placed": "2024"}, ""}} {
		if got := strings.Join(d.NotesOn(resolve(t, d, c.typed), today), " "); got != c.want {
			t.Errorf("%v: %q, want %q", c.typed, got, c.want)
		}
	}
}

func TestWaysCoverEverySwitch(t *testing.T) {
	d := parseOrders(t, orders)
	seen := map[string]bool{}
	for _, way := range d.Ways(resolve(t, d, nil)) {
		for _, c := range way.Dataset("orders").Columns {
			seen[c.Is.SQL] = true
		}
		seen[way.Dataset("orders").From.SQL], seen[way.Dataset("orders").Where[0].SQL] = true, true
	}
	for _, piece := range []string{"leased_order as o", "plain_order as o", "o.sent_on", "o.placed_on", "sum(o.interest)",
		"o.town", "o.channel"} {
		if !seen[piece] {
			t.Errorf("no way has %q", piece)
		}
	}
}

func TestVersionIsOfTheSharedParametersToo(t *testing.T) {
	first := parseOrders(t, orders)
	other, faults := Parse([]byte(orders),
		Defaults{Currency: "EUR", Shared: parseShared(t, strings.Replace(shared, "everywhere", "the whole", 1))})
	if faults != nil || other.Version == first.Version || other.Parameter("unit").All != "the whole" {
		t.Errorf("a changed shared parameter leaves the version %s: %v", first.Version[:8], faults)
	}
	if same, _ := Parse([]byte(orders),
		Defaults{
			Currency: "EUR",
			Shared:   parseShared(t, shared+"  - {id: more, type: text}\n"),
		}); same.Version != first.Version {
		t.Error("a shared parameter that is not used changes the version")
	}
}

// Each case changes the orders and expects a fault.
func TestSwitchedDefinitionsAreRefused(t *testing.T) {
	for _, c := range []struct{ name, from, to, says string }{
		{"an unknown shared parameter", "use: unit", "use: units",
			`there is no shared parameter "units"; did you mean unit?`},
		{"a case that is no entry", "sent: o.sent_on", "send: o.sent_on",
			`"send" is not an entry of :basis; did you mean sent?`},
		{"switched by an unknown", "by: ':rule', lease: o.leased", "by: ':rules', lease: o.leased",
			"is switched by :rules, which is not a parameter; did you mean rule?"},
		{"switched by a range", "by: ':basis', placed: Ordered", "by: ':placed', placed: Ordered",
			"which is a range; it must be a choice"},
		{"within something else", "within: times", "within: basis", "lies within :basis, which is a choice"},
		{"times without moments", ", as: moments", "", "say that the column holds moments in UTC"},
		{"grouped by a choice", "levels: levels", "levels: basis", "is grouped by :basis, which is a choice; it must be a " +
			"grouping"},
		{"newest of no order", "    order: [o.placed_on desc]\n", "", "needs to know which they are"},
		{"compared without a key", "    key: [town]\n", "", "is compared and needs a key"},
		{"a column that is not there", "columns: [town, channel]}", "columns: [town, canal]}", `offers the column "canal"`},
		{"an unknown dataset", "of: orders, columns: [town, amount, interest]", "of: order",
			`is of the dataset "order", which does not exist`},
		{"a note that compares apples", "placed.end > today,", "placed.end > 3,", "a day cannot be compared with a number"},
		{"a note of nothing", "placed.end > today,", "plced.end > today,", "did you mean placed.end?"},
		{"a binding of columns", "o.site_id in :unit", "o.site_id in :unit and :shown",
			"chooses columns and has no value to bind"},
		{"a parameter that nothing speaks of", "  - {id: most, type: newest}\n",
			"  - {id: most, type: newest}\n  - {id: place, type: text}\n", "parameter place is not used"},
		{"narrowed by itself", "{use: unit}", "{use: unit, by: {x: unit}}", "depend on each other"},
	} {
		text := strings.Replace(orders, c.from, c.to, 1)
		_, faults := Parse([]byte(text), Defaults{Currency: "EUR", Shared: parseShared(t, shared)})
		if text == orders || faults == nil || !strings.Contains(faults.Error(), c.says) {
			t.Errorf("%s: got %v; want %q", c.name, faults, c.says)
		}
	}
	if _, faults := ParseShared([]byte("parameters:\n  - {id: a, type: texts}\n  - {id: a, type: text}\n")); len(
		faults) != 2 {
		t.Errorf("shared parameters: %v", faults)
	}
}
