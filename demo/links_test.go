package demo_test

import (
	"fmt"
	"maps"
	"regexp"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// claims are the figures that a link promises to come to: a column beside the
// link, and the view and column of the report that it opens, whose total it is.
var claims = map[string]struct{ figure, view, total string }{
	"agent-commission agents.agent":               {"amount", "orders", "amount"},
	"weighing-waits desks.desk":                   {"arrivals", "arrivals", "rows"},
	"keeper-file payouts.batch":                   {"amount", "lines", "amount"},
	"budget-position lines.label":                 {"spent", "lines", "amount"},
	"bay-occupancy stores.bay":                    {"held", "bays", "net_kg"},
	"payout-settlement batches.batch":             {"amount", "lines", "amount"},
	"certificates-ending months.month":            {"keepers", "districts", "keepers"},
	"certificates-by-district districts.district": {"keepers", "keepers", "rows"},
	"rental-position agreements.agreement":        {"still_due", "months", "due"},
	"return-rate returns.site":                    {"expected", "filed", "expected"},
	"sites-by-unit sites.site":                    {"keepers", "keepers", "rows"},
}

// TestEveryLinkLeadsWhereItSays follows the links of every report of the demo
// from some of their rows, also where the run was narrowed, and compares what
// they come to.
func TestEveryLinkLeadsWhereItSays(t *testing.T) {
	s := demotest.Start(t)
	catalog, err := s.Client.GetCatalogWithResponse(t.Context(), nil)
	if err != nil || catalog.JSON200 == nil {
		t.Fatalf("%v %s", err, catalog.Body)
	}
	all, followed, compared := 0, map[string]int{}, map[string]int{}
	for _, line := range catalog.JSON200.Reports {
		ways := []api.Values{needed[line.Id]}
		if narrow, ok := narrowed[line.Id]; ok {
			ways = append(ways, narrow)
		}
		if line.Id == "lot-history" {
			ways = append(ways, api.Values{"lot": s.Ask(t, "select min(lot_no) from lot where corrects is not null")[0]})
		}
		for _, values := range ways {
			result := s.Result(t, line.Id, values)
			for _, dataset := range datasetsOf(t, s, result) {
				f := follower{s: s, report: line.Id, result: result, dataset: dataset, compared: compared, followed: followed}
				all += f.all(t)
			}
		}
	}
	if all < 100 {
		t.Errorf("only %d links were followed", all)
	}
	for name, times := range followed {
		if times == 0 {
			t.Errorf("no row has what the link of %s needs", name)
		}
	}
	if compared["companions"] < 20 {
		t.Errorf("only %d figures of periods compared with were opened", compared["companions"])
	}
	for name := range claims {
		if compared[name] == 0 {
			t.Errorf("%s was never compared", name)
		}
	}
}

// needed are the values without which a report does not run, narrowed those
// that a second run is made with.
var (
	needed = map[string]api.Values{"lot-history": {"lot": "L24-05000"}, "keeper-file": {"keeper": "K-1002"},
		"portal-proof": {"keeper": "K-1002"}}

	narrowed = map[string]api.Values{
		"budget-position":          {"posted": "2025", "society": "BTR-S; BLD"},
		"certificates-ending":      {"unit": "UF-HOL-01; UF-MAR", "ahead": "24 months"},
		"certificates-by-district": {"unit": "UF-HOL-01; UF-MAR", "certificate": "organic"},
		"payout-settlement":        {"unit": "UF-HOL", "settles": "2026-Q2"},
		"rental-position":          {"rule": "capitalised", "rate": "6"},
		"bay-occupancy":            {"store": "Quay"},
		"orders-by-grouping":       {"group": "product", "days": "2026-Q2 against year before and previous period"},
		"intake-lots":              {"received": "2023-01-01/today", "corrections": "yes"},
	}
)

func datasetsOf(t *testing.T, s *demotest.Service, result string) (ids []string) {
	t.Helper()
	var number int64
	if _, err := fmt.Sscanf(result, "R-%d", &number); err != nil {
		t.Fatal(err)
	}
	r, err := s.Library.AsService().Reading.Result(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	for i := range r.Definition.Datasets {
		ids = append(ids, r.Definition.Datasets[i].ID)
	}
	return ids
}

type follower struct {
	s                       *demotest.Service
	report, result, dataset string
	compared, followed      map[string]int
}

// all follows every link of the first rows that have one.
func (f follower) all(t *testing.T) (followed int) {
	t.Helper()
	many := 60
	laid := f.s.Sheet(t, f.result, f.dataset+".rows", api.ReadViewParams{Count: &many})
	for _, c := range laid.Columns {
		if c.Opens == nil || c.Opens.Report == "" {
			continue
		}
		done := 0
		for at := range laid.Cells {
			values, ok := filled(c.Opens, laid.Links[at])
			if !ok || done == 3 {
				continue
			}
			done++
			name := f.report + " " + f.dataset + "." + c.Id
			if of := companion.FindStringSubmatch(c.Id); of != nil && c.Opens.Report == f.report {
				f.followCompanion(t, name, values, laid, at, of[1])
				continue
			}
			f.follow(t, name, c.Opens.Report, values, laid.Columns, laid.Cells[at])
		}
		f.followed[f.report+" "+f.dataset+"."+c.Id] += done
		followed += done
	}
	return followed
}

// companion matches the figures of periods that a run compares with.
var companion = regexp.MustCompile(`^(\w+)_[23]$`)

// followCompanion runs the report for the period compared with, and looks for the
// figure in the line of the same key there.
func (f follower) followCompanion(t *testing.T, name string, values api.Values, laid api.Sheet, at int, of string) {
	t.Helper()
	f.compared["companions"]++
	then := f.s.Sheet(t, f.s.Result(t, f.report, values), f.dataset+".rows", api.ReadViewParams{})
	keyed := func(s api.Sheet, line int) (key string, figures map[string]string) {
		figures = map[string]string{}
		for i, c := range s.Columns {
			text := ""
			if s.Cells[line][i] != nil {
				text = *s.Cells[line][i]
			}
			if c.Kind == api.ColumnKindText {
				key += text + "\n"
			}
			figures[c.Id] = text
		}
		return key, figures
	}
	key, now := keyed(laid, at)
	for line := range then.Cells {
		if k, figures := keyed(then, line); k == key {
			for id := range now {
				if m := companion.FindStringSubmatch(id); m != nil && m[1] == of && strings.HasSuffix(name, id) &&
					now[id] != figures[of] {
					t.Errorf("%s with %v: it says %s, and here it is %s", name, values, figures[of], now[id])
				}
			}
			return
		}
	}
	t.Errorf("%s with %v: there is no line %q", name, values, key)
}

// filled is what a link fills in; not ok where the row has no value for it.
func filled(o *api.Opens, links []string) (api.Values, bool) {
	values := maps.Clone(o.Fixed)
	for parameter, at := range o.With {
		if links[at] == "" {
			return nil, false
		}
		if _, column := o.Fixed[parameter]; !column {
			values[parameter] = links[at]
		}
	}
	return values, true
}

func (f follower) follow(t *testing.T, name, report string, values api.Values, columns []api.Column, cells []*string) {
	t.Helper()
	result := f.s.Result(t, report, values)
	claim, ok := claims[name]
	if !ok {
		return
	}
	f.compared[name]++
	want := ""
	for i, c := range columns {
		if c.Id == claim.figure && cells[i] != nil {
			want = *cells[i]
		}
	}
	got := figuresOf(t, name, f.s.Sheet(t, result, claim.view, api.ReadViewParams{}), "", claim.total)
	if len(got) != 1 || got[0] != want && !(want == "0.00" && got[0] == "") {
		t.Errorf("%s with %v: %s says %v, the row %s", name, values, report, got, want)
	}
}
