package definition

import (
	"strings"
	"testing"

	"mantilla/core/report"
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

func parseOrders(t *testing.T, text string) *report.Definition {
	t.Helper()
	d, faults := Parse([]byte(text), Defaults{Currency: "EUR", Shared: parseShared(t, shared)})
	if faults != nil {
		t.Fatal(faults)
	}
	return d
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
