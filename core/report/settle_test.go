package report_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
)

// orders switches, groups, compares and cuts.
var orders = parse("orders.yaml")

// parse reads a definition of the tests of package definition, changed.
func parse(name string, change ...string) *report.Definition {
	read := func(name string) []byte {
		text, err := os.ReadFile(filepath.Join("..", "definition", "testdata", name))
		if err != nil {
			panic(err)
		}
		return text
	}
	shared, faults := definition.ParseShared(read("shared.yaml"))
	if faults != nil {
		panic(faults)
	}
	text := strings.NewReplacer(change...).Replace(string(read(name)))
	d, faults := definition.Parse([]byte(text), definition.Defaults{Currency: "EUR", Shared: shared})
	if faults != nil {
		panic(faults)
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

func TestComparedColumns(t *testing.T) {
	d := orders.Settle(resolve(t, orders,
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
	d := orders
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
	d := orders
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
