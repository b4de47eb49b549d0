package report

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/core/param"
	"mantilla/core/period"
)

const shared = `parameters:
  - {id: placed, type: range, label: Placed, required: true, default: last month, compare: true}
  - {id: unit, type: unit, many: true, from: units, all: everywhere}
`

// orders switches, groups, compares and cuts.
const orders = `report: orders
title: Orders
category: Orders
depth: overview
about: What was ordered.
source: coop
parameters:
  - {use: placed, default: 2026-09}
  - {id: basis, type: choice, default: placed, options: {placed: placed, sent: sent}}
  - {id: rule, type: choice, options: {lease: Lease, plain: Plain}}
  - {id: most, type: newest}
  - {id: times, type: ranges, time: true}
  - {use: unit}
  - {id: shown, type: columns, of: orders, columns: [town, amount, interest]}
  - {id: levels, type: grouping, of: orders, columns: [town, channel]}
notes:
  - {when: placed.end > today, say: More may come.}
  - {when: "rule = 'lease' and placed.start < today - 300", say: Long ago.}
datasets:
  orders:
    from: {by: ':rule', lease: leased_order as o, else: plain_order as o}
    where:
      - {is: {by: ':basis', placed: o.placed_on, sent: o.sent_on}, within: placed}
      - {is: o.weighed_at, within: times, as: moments}
      - {by: ':rule', lease: o.leased}
      - o.site_id in :unit
    levels: levels
    newest: most
    order: [o.placed_on desc]
    compare: placed
    scope: o.site_id
    key: [town]
    columns:
      - {id: town, is: o.town, type: text}
      - {id: channel, is: o.channel, type: text}
      - {id: buyer, is: o.buyer, type: text}
      - {id: amount, label: {by: ':basis', placed: Ordered, sent: Sent}, is: sum(o.cents), type: money, total: sum}
      - {id: interest, is: {by: ':rule', lease: sum(o.interest)}, type: money, total: sum}
views:
  orders: {of: orders, columns: ':shown', sort: [-interest, town]}
  some: {of: orders, columns: [town, amount]}
`

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

// sql writes a planned query with its values in braces.
func sql(q Query) string {
	var b strings.Builder
	for _, p := range q.Parts {
		if p.Name == "" {
			b.WriteString(p.SQL)
		} else if at, ok := p.Value.(time.Time); ok {
			b.WriteString("{" + at.UTC().Format("2006-01-02T15:04Z") + "}")
		} else {
			fmt.Fprintf(&b, "{%v}", p.Value)
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

func plan(t *testing.T, typed map[string]string, reach Reach) ([]Query, *Definition) {
	t.Helper()
	d := parseOrders(t, orders)
	values := resolve(t, d, typed)
	settled := d.Settle(values)
	queries, err := settled.Plan(values, reach)
	if err != nil {
		t.Fatal(err)
	}
	return queries, settled
}

func TestSettleSwitchesPieces(t *testing.T) {
	for _, c := range []struct {
		name  string
		typed map[string]string
		want  string
	}{
		{"as it stands", nil, `select o.buyer as "buyer", sum(o.cents) as "amount" from plain_order as o where (day(o.placed_on, 'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, 'o.placed_on'))`},
		{"another basis and rule", map[string]string{"basis": "sent", "rule": "lease"},
			`select o.buyer as "buyer", sum(o.cents) as "amount", sum(o.interest) as "interest" from leased_order as o where (day(o.sent_on, 'o.sent_on') >= day({2026-09-01}, 'o.sent_on') and day(o.sent_on, 'o.sent_on') <= day({2026-09-30}, 'o.sent_on')) and (o.leased)`},
		{"grouped", map[string]string{"levels": "channel; town"},
			`select o.channel as "channel", o.town as "town", o.buyer as "buyer", sum(o.cents) as "amount" from plain_order as o where (day(o.placed_on, 'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, 'o.placed_on')) group by o.channel, o.town`},
		{"the newest", map[string]string{"most": "25"},
			`select o.buyer as "buyer", sum(o.cents) as "amount" from plain_order as o where (day(o.placed_on, 'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, 'o.placed_on')) order by o.placed_on desc limit {25}`},
		{"two stretches of time", map[string]string{"times": "2026-09-01 06:00/12:00; 2026-09-02"},
			`select o.buyer as "buyer", sum(o.cents) as "amount" from plain_order as o where (day(o.placed_on, 'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, 'o.placed_on'))` +
				` and (moment(o.weighed_at, 'o.weighed_at') >= moment({2026-09-01T06:00Z}, 'o.weighed_at') and moment(o.weighed_at, 'o.weighed_at') < moment({2026-09-01T12:00Z}, 'o.weighed_at') or moment(o.weighed_at, 'o.weighed_at') >= moment({2026-09-02T00:00Z}, 'o.weighed_at') and moment(o.weighed_at, 'o.weighed_at') < moment({2026-09-03T00:00Z}, 'o.weighed_at'))`},
	} {
		queries, _ := plan(t, c.typed, Reach{})
		if got := sql(queries[0]); got != c.want {
			t.Errorf("%s:\n%s\nwant\n%s", c.name, got, c.want)
		}
	}
}

func TestScopeCutsEveryQuery(t *testing.T) {
	queries, _ := plan(t, map[string]string{"placed": "2026-09 against year before", "levels": "town"}, Reach{Limited: true, Units: []string{"A", "B"}})
	for _, q := range append(queries, queries[0].Companions...) {
		if got := sql(q); !strings.Contains(got, "and (o.site_id) in {[A B]} group by o.town") {
			t.Errorf("not cut: %s", got)
		}
	}
	if got := sql(queries[0].Companions[0]); !strings.Contains(got, "{2025-09-01}") {
		t.Errorf("the companion has other days: %s", got)
	}
	open := parseOrders(t, strings.Replace(orders, "    scope: o.site_id\n", "", 1))
	values := resolve(t, open, nil)
	if _, err := open.Settle(values).Plan(values, Reach{Limited: true}); err == nil {
		t.Error("a dataset without a scope was planned for a limited person")
	}
	everyone := parseOrders(t, strings.Replace(orders, "scope: o.site_id", "scope: everyone", 1))
	if q, err := everyone.Settle(values).Plan(values, Reach{Limited: true}); err != nil || strings.Contains(sql(q[0]), " in ") {
		t.Errorf("rows for everyone are cut: %v", err)
	}
}

func TestComparedColumns(t *testing.T) {
	_, d := plan(t, map[string]string{"placed": "2026-09 against previous period and year before", "levels": "town", "basis": "sent", "shown": "amount; town"}, Reach{})
	var said []string
	for _, c := range d.Dataset("orders").Columns {
		said = append(said, c.ID+"="+c.Label)
	}
	want := "town=Town buyer=Buyer amount=Sent amount_2=Sent, previous period amount_change_2=Change on previous period amount_percent_2=Change on previous period" +
		" amount_3=Sent, year before amount_change_3=Change on year before amount_percent_3=Change on year before"
	if got := strings.Join(said, " "); got != want {
		t.Errorf("columns\n%s\nwant\n%s", got, want)
	}
	if read := d.Dataset("orders").Read(); len(read) != 3 {
		t.Errorf("the query gives %d columns", len(read))
	}
	if got := strings.Join(d.View("orders").Columns, " "); got != "town amount amount_2 amount_change_2 amount_percent_2 amount_3 amount_change_3 amount_percent_3" {
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
	}{{nil, ""}, {map[string]string{"placed": "this month"}, "More may come."}, {map[string]string{"placed": "2024", "rule": "lease"}, "Long ago."}, {map[string]string{"placed": "2024"}, ""}} {
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
	for _, piece := range []string{"leased_order as o", "plain_order as o", "o.sent_on", "o.placed_on", "sum(o.interest)", "o.town", "o.channel"} {
		if !seen[piece] {
			t.Errorf("no way has %q", piece)
		}
	}
}

func TestVersionIsOfTheSharedParametersToo(t *testing.T) {
	first := parseOrders(t, orders)
	other, faults := Parse([]byte(orders), Defaults{Currency: "EUR", Shared: parseShared(t, strings.Replace(shared, "everywhere", "the whole", 1))})
	if faults != nil || other.Version == first.Version || other.Parameter("unit").All != "the whole" {
		t.Errorf("a changed shared parameter leaves the version %s: %v", first.Version[:8], faults)
	}
	if same, _ := Parse([]byte(orders), Defaults{Currency: "EUR", Shared: parseShared(t, shared+"  - {id: more, type: text}\n")}); same.Version != first.Version {
		t.Error("a shared parameter that is not used changes the version")
	}
}

// Each case changes the orders and expects a fault.
func TestSwitchedDefinitionsAreRefused(t *testing.T) {
	for _, c := range []struct{ name, from, to, says string }{
		{"an unknown shared parameter", "use: unit", "use: units", `there is no shared parameter "units"; did you mean unit?`},
		{"a case that is no entry", "sent: o.sent_on", "send: o.sent_on", `"send" is not an entry of :basis; did you mean sent?`},
		{"switched by an unknown", "by: ':rule', lease: o.leased", "by: ':rules', lease: o.leased", "is switched by :rules, which is not a parameter; did you mean rule?"},
		{"switched by a range", "by: ':basis', placed: Ordered", "by: ':placed', placed: Ordered", "which is a range; it must be a choice"},
		{"within something else", "within: times", "within: basis", "lies within :basis, which is a choice"},
		{"times without moments", ", as: moments", "", "say that the column holds moments in UTC"},
		{"grouped by a choice", "levels: levels", "levels: basis", "is grouped by :basis, which is a choice; it must be a grouping"},
		{"newest of no order", "    order: [o.placed_on desc]\n", "", "needs to know which they are"},
		{"compared without a key", "    key: [town]\n", "", "is compared and needs a key"},
		{"a column that is not there", "columns: [town, channel]}", "columns: [town, canal]}", `offers the column "canal"`},
		{"an unknown dataset", "of: orders, columns: [town, amount, interest]", "of: order", `is of the dataset "order", which does not exist`},
		{"a note that compares apples", "placed.end > today,", "placed.end > 3,", "a day cannot be compared with a number"},
		{"a note of nothing", "placed.end > today,", "plced.end > today,", "did you mean placed.end?"},
		{"a binding of columns", "o.site_id in :unit", "o.site_id in :unit and :shown", "chooses columns and has no value to bind"},
		{"a parameter that nothing speaks of", "  - {id: most, type: newest}\n", "  - {id: most, type: newest}\n  - {id: place, type: text}\n", "parameter place is not used"},
		{"narrowed by itself", "{use: unit}", "{use: unit, by: {x: unit}}", "depend on each other"},
	} {
		text := strings.Replace(orders, c.from, c.to, 1)
		_, faults := Parse([]byte(text), Defaults{Currency: "EUR", Shared: parseShared(t, shared)})
		if text == orders || faults == nil || !strings.Contains(faults.Error(), c.says) {
			t.Errorf("%s: got %v; want %q", c.name, faults, c.says)
		}
	}
	if _, faults := ParseShared([]byte("parameters:\n  - {id: a, type: texts}\n  - {id: a, type: text}\n")); len(faults) != 2 {
		t.Errorf("shared parameters: %v", faults)
	}
}
