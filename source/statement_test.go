package source_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
)

// defined reads a definition of the tests of core/definition.
func defined(t *testing.T, name string, change ...string) *report.Definition {
	t.Helper()
	read := func(name string) []byte {
		text, err := os.ReadFile(filepath.Join("..", "core", "definition", "testdata", name))
		if err != nil {
			t.Fatal(err)
		}
		return text
	}
	shared, faults := definition.ParseShared(read("shared.yaml"))
	if faults != nil {
		t.Fatal(faults)
	}
	text := strings.NewReplacer(change...).Replace(string(read(name)))
	d, faults := definition.Parse([]byte(text), definition.Defaults{Currency: "EUR", Shared: shared})
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

func resolve(t *testing.T, d *report.Definition, typed map[string]string) param.Values {
	t.Helper()
	c := period.At(time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC), time.UTC, 0)
	values, faults, err := param.Resolve(t.Context(), d.Parameters, typed, param.Setting{Calendar: c, Lists: places{}})
	if err != nil || faults != nil {
		t.Fatal(err, faults)
	}
	return values
}

// shown is a dialect that shows values in braces, in their places.
type shown struct{}

func (shown) String() string { return "shown" }

func (shown) Holds(*[]any, string, string) string { return "" }

func (shown) Quotes() report.Quotes { return report.AnyQuotes }
func (shown) Name(id string) string { return `"` + id + `"` }
func (shown) Limit(n string) string { return "limit " + n }

func (shown) Bind(args *[]any, value any) string {
	*args = append(*args, value)
	if at, ok := value.(time.Time); ok {
		return "{" + at.UTC().Format("2006-01-02T15:04Z") + "}"
	}
	return fmt.Sprintf("{%v}", value)
}

func (shown) Instant(piece, where string, moments bool) string {
	return fmt.Sprintf("%s(%s, '%s')", map[bool]string{false: "day", true: "moment"}[moments], piece, where)
}

// plan plans the settled orders.
func plan(t *testing.T, typed map[string]string, reach report.Reach) []query.Query {
	t.Helper()
	d := defined(t, "orders.yaml")
	values := resolve(t, d, typed)
	queries, err := query.Plan(d.Settle(values), values, reach, report.AnyQuotes)
	if err != nil {
		t.Fatal(err)
	}
	return queries
}

// sql is a query as text on one line.
func sql(q query.Query) string {
	return strings.Join(strings.Fields(source.Write(q, shown{}).Text), " ")
}

func TestSettleSwitchesPieces(t *testing.T) {
	for _, c := range []struct {
		name  string
		typed map[string]string
		want  string
	}{
		{"as it stands", nil,
			`select o.buyer as "buyer", sum(o.cents) as "amount" from plain_order as o where (day(o.placed_on, ` +
				`'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, ` +
				`'o.placed_on'))`},
		{"another basis and rule", map[string]string{"basis": "sent", "rule": "lease"},
			`select o.buyer as "buyer", sum(o.cents) as "amount", sum(o.interest) as "interest" from leased_order as o ` +
				`where (day(o.sent_on, 'o.sent_on') >= day({2026-09-01}, 'o.sent_on') and day(o.sent_on, 'o.sent_on') <= ` +
				`day({2026-09-30}, 'o.sent_on')) and (o.leased)`},
		{"grouped", map[string]string{"levels": "channel; town"},
			`select o.channel as "channel", o.town as "town", o.buyer as "buyer", sum(o.cents) as "amount" from ` +
				`plain_order as o where (day(o.placed_on, 'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and ` +
				`day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, 'o.placed_on')) group by o.channel, o.town`},
		{"the newest", map[string]string{"most": "25"},
			`select o.buyer as "buyer", sum(o.cents) as "amount" from plain_order as o where (day(o.placed_on, ` +
				`'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, ` +
				`'o.placed_on')) order by o.placed_on desc limit {25}`},
		{"two stretches of time", map[string]string{"times": "2026-09-01 06:00/12:00; 2026-09-02"},
			`select o.buyer as "buyer", sum(o.cents) as "amount" from plain_order as o where (day(o.placed_on, ` +
				`'o.placed_on') >= day({2026-09-01}, 'o.placed_on') and day(o.placed_on, 'o.placed_on') <= day({2026-09-30}, ` +
				`'o.placed_on'))` +
				` and (moment(o.weighed_at, 'o.weighed_at') >= moment({2026-09-01T06:00Z}, 'o.weighed_at') and ` +
				`moment(o.weighed_at, 'o.weighed_at') < moment({2026-09-01T12:00Z}, 'o.weighed_at') or moment(o.weighed_at, ` +
				`'o.weighed_at') >= moment({2026-09-02T00:00Z}, 'o.weighed_at') and moment(o.weighed_at, 'o.weighed_at') < ` +
				`moment({2026-09-03T00:00Z}, 'o.weighed_at'))`},
	} {
		queries := plan(t, c.typed, report.Reach{})
		if got := sql(queries[0]); got != c.want {
			t.Errorf("%s:\n%s\nwant\n%s", c.name, got, c.want)
		}
	}
}

func TestScopeCutsEveryQuery(t *testing.T) {
	queries := plan(t, map[string]string{"placed": "2026-09 against year before", "levels": "town"},
		report.Reach{Limited: true, Units: []string{"A", "B"}})
	for _, q := range append(queries, queries[0].Companions...) {
		if got := sql(q); !strings.Contains(got, "and (o.site_id) in {[A B]} group by o.town") {
			t.Errorf("not cut: %s", got)
		}
	}
	if got := sql(queries[0].Companions[0]); !strings.Contains(got, "{2025-09-01}") {
		t.Errorf("the companion has other days: %s", got)
	}
	open := defined(t, "orders.yaml", "    scope: o.site_id\n", "")
	values := resolve(t, open, nil)
	if _, err := query.Plan(open.Settle(values), values, report.Reach{Limited: true}, report.AnyQuotes); err == nil {
		t.Error("a dataset without a scope was planned for a limited person")
	}
	everyone := defined(t, "orders.yaml", "scope: o.site_id", "scope: everyone")
	if q, err := query.Plan(everyone.Settle(values), values, report.Reach{Limited: true}, report.AnyQuotes); err != nil ||
		strings.Contains(sql(q[0]), " in ") {
		t.Errorf("rows for everyone are cut: %v", err)
	}
}

func TestPlanLeavesOutWhatIsNotAnswered(t *testing.T) {
	d := defined(t, "lots.yaml")
	cases := []struct {
		typed map[string]string
		where string
		bound string
	}{
		{nil, "where (lot.received_on between ? and ?)", "2026-09-01 2026-09-30"},
		{map[string]string{"grade": "A; B", "heavy": "yes"}, "where (lot.received_on between ? and ?)\n  and (lot.grade in " +
			"?)\n  and (lot.net_g > 1000 or not ?)", "2026-09-01 2026-09-30 [A B] true"},
	}
	for _, c := range cases {
		values, faults, err := param.Resolve(t.Context(), d.Parameters, c.typed,
			param.Setting{Calendar: period.Calendar{Today: period.Date(2026, 10, 15)}})
		if err != nil || len(faults) > 0 {
			t.Fatal(err, faults)
		}
		queries, err := query.Plan(d, values, report.Reach{}, report.AnyQuotes)
		if err != nil {
			t.Fatal(err)
		}
		got := source.Write(queries[0], marked{})
		var bound []string
		for _, arg := range got.Args {
			bound = append(bound, fmt.Sprint(arg))
		}
		want := `select lot.lot_no as "lot_no", lot.net_g as "net_kg", lot.cents as "value", lot.fee as "fee"` +
			"\nfrom lot\n" + c.where
		if got.Text != want || strings.Join(bound, " ") != c.bound {
			t.Errorf("%v: got\n%s\nbinding %q; want\n%s\nbinding %q", c.typed, got.Text, bound, want, c.bound)
		}
	}
}

// marked is a dialect that marks where values are bound.
type marked struct{ shown }

func (marked) String() string { return "marked" }

func (marked) Holds(*[]any, string, string) string { return "" }
func (marked) Bind(args *[]any, value any) string {
	*args = append(*args, value)
	return "?"
}
