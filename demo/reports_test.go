package demo_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/ncruces/go-sqlite3"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// ask computes figures straight from the source, in one row of its own SQL.
func ask(t *testing.T, s *demotest.Service, sql string) []string {
	t.Helper()
	c, err := sqlite3.Open(s.Source)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	stmt, _, err := c.Prepare(sql)
	if err != nil {
		t.Fatal(err)
	}
	defer stmt.Close()
	if !stmt.Step() {
		t.Fatalf("no row: %v", stmt.Err())
	}
	out := make([]string, stmt.ColumnCount())
	for i := range out {
		out[i] = stmt.ColumnText(i)
	}
	return out
}

// TestReportsAgreeWithTheSource computes the main figures of every demo report
// a second way: other joins, sums in hundredths and thousandths, no grouping.
func TestReportsAgreeWithTheSource(t *testing.T) {
	s := demotest.Start(t)
	const cents = "sum((net_g * price_cents + 500) / 1000)"
	cases := []struct {
		name, report string
		values       api.Values
		view         string
		totals       string // columns to compare, with rows for their number
		sql          string
	}{
		{"intake by origin, last month", "intake-by-origin", nil, "by_district", "lots net_kg unpriced_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.3f', sum(iif(price_cents is null, net_g, 0)) / 1000.0), printf('%.2f', ` + cents + ` / 100.0) from lot where substr(received_on, 1, 7) = '2026-09'`},
		{"intake by origin of two districts and one grade", "intake-by-origin", api.Values{"received": "2025", "unit": "UF-HOL; Marr", "grade": "Select"}, "by_flower", "lots net_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', ` + cents + ` / 100.0) from lot where received_on like '2025%' and grade = 'A' and (site_id like 'UF-HOL-%' or site_id like 'UF-MAR-%')`},
		{"intake lots since the beginning", "intake-lots", api.Values{"received": "2023-01-01/today"}, "lots", "rows net_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', ` + cents + ` / 100.0) from lot`},
		{"heavy intake lots of one flower", "intake-lots", api.Values{"received": "2024-Q3", "origin": "Heather", "at_least": "399.999"}, "lots", "rows net_kg",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0) from lot where received_on between '2024-07-01' and '2024-09-30' and origin = 'HEA' and net_g >= 399999`},
		{"corrections", "intake-lots", api.Values{"received": "2023-01-01/today", "corrections": "yes"}, "lots", "rows net_kg",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0) from lot where net_g < 0`},
		{"keeper file, deliveries", "keeper-file", api.Values{"keeper": "K-1002"}, "deliveries", "rows net_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', ` + cents + ` / 100.0) from lot where keeper_no = 'K-1002' and received_on >= '2025-10-01' and received_on < '2026-10-01'`},
		{"keeper file, payouts", "keeper-file", api.Values{"keeper": "K-1002", "days": "2024/2026"}, "payouts", "rows lots amount",
			`select count(distinct batch_id), count(*), printf('%.2f', sum(amount_cents) / 100.0) from payout where keeper_no = 'K-1002' and batch_id in (select id from payout_batch where settles_on >= '2024')`},
		{"payout detail", "payout-detail", api.Values{"settled": "2026-08"}, "lines", "rows batch amount",
			`select count(*), count(distinct batch_id), printf('%.2f', sum(amount_cents) / 100.0) from payout where batch_id in ('B202608-1', 'B202608-2')`},
		{"payouts that are not yet paid", "payout-detail", api.Values{"settled": "2026", "paid": "unpaid"}, "lines", "rows amount",
			`select count(*), printf('%.2f', sum(amount_cents) / 100.0) from payout where batch_id in (select id from payout_batch where paid_on is null)`},
		{"near best-before", "near-best-before", api.Values{"within": "30"}, "stock", "rows jars net_kg value",
			`select count(*), sum(jars), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', sum(value_cents) / 100.0) from stock where best_before <= '2026-11-14'`},
		{"near best-before in one store", "near-best-before", api.Values{"as_of": "2026-06-30", "within": "0", "store": "Quay", "product": "HEATHER"}, "stock", "rows jars",
			`select count(*), coalesce(sum(jars), '') from stock where best_before <= '2026-06-30' and packed_on <= '2026-06-30' and bay_id like 'S5-%' and product like 'Heather%'`},
		{"lot history, laboratory", "lot-history", api.Values{"lot": "L24-05000"}, "laboratory", "rows", `select count(*) from measurement where lot_no = 'L24-05000'`},
		{"lot history, payout", "lot-history", api.Values{"lot": "L24-05000"}, "payouts", "amount", `select printf('%.2f', (net_g * price_cents + 500) / 1000 / 100.0) from lot where lot_no = 'L24-05000'`},
		{"lot history, changes", "lot-history", api.Values{"lot": "L24-05000"}, "changes", "rows", `select count(*) from lot_change where lot_no = 'L24-05000'`},
	}
	for _, c := range cases {
		sheet := s.Sheet(t, s.Result(t, c.report, c.values), c.view, api.ReadViewParams{})
		var got []string
		for _, want := range strings.Fields(c.totals) {
			if want == "rows" {
				got = append(got, fmt.Sprint(sheet.Rows))
			}
			for i, col := range sheet.Columns {
				if col.Id == want {
					text := ""
					if sheet.Totals[i].Text != nil {
						text = *sheet.Totals[i].Text
					}
					got = append(got, text)
				}
			}
		}
		if want := ask(t, s, c.sql); strings.Join(got, " ") != strings.Join(want, " ") {
			t.Errorf("%s: the report says %q, the source %q", c.name, got, want)
		}
	}
}

func TestBlocksWithoutRowsAreLeftOut(t *testing.T) {
	s := demotest.Start(t)
	// The keeper who never delivered has neither deliveries nor payouts.
	idle := ask(t, s, `select no from keeper where no not in (select keeper_no from lot) and no not in (select keeper_no from agreement) and no in (select keeper_no from training) limit 1`)[0]
	views := func(keeper string) (ids []string) {
		r, err := s.Client.GetResultWithResponse(t.Context(), s.Result(t, "keeper-file", api.Values{"keeper": keeper}))
		if err != nil || r.JSON200 == nil {
			t.Fatal(err)
		}
		for _, v := range r.JSON200.Page {
			ids = append(ids, v.Id)
		}
		return ids
	}
	if got := strings.Join(views(idle), " "); got != "keeper training" {
		t.Errorf("%s: the page has %s", idle, got)
	}
	if got := strings.Join(views("K-1002"), " "); !strings.HasPrefix(got, "keeper deliveries payouts") {
		t.Errorf("K-1002: the page has %s", got)
	}
}

// TestLotOpensItsHistory follows the link of a lot, and of a district with
// this run's own days.
func TestLotOpensItsHistory(t *testing.T) {
	s := demotest.Start(t)
	follow := func(sheet api.Sheet, column string, row int) (string, api.Values) {
		for _, c := range sheet.Columns {
			if c.Id == column {
				values := api.Values{}
				for name, text := range c.Opens.Fixed {
					values[name] = text
				}
				for name, place := range c.Opens.With {
					values[name] = sheet.Links[row][place]
				}
				return c.Opens.Report, values
			}
		}
		t.Fatalf("no column %s", column)
		return "", nil
	}
	districts := s.Sheet(t, s.Result(t, "intake-by-origin", api.Values{"received": "last month", "grade": "A; B"}), "by_district", api.ReadViewParams{})
	report, values := follow(districts, "district", 3)
	if report != "intake-lots" || values["received"] != "2026-09-01/2026-09-30" || values["grade"] != "A; B" {
		t.Fatalf("opens %s with %v", report, values)
	}
	lots := s.Sheet(t, s.Result(t, report, values), "lots", api.ReadViewParams{})
	for i, column := range []string{"lots", "net_kg", "value"} {
		at := map[string]int{}
		for j, c := range districts.Columns {
			at[c.Id] = j
		}
		want := *districts.Cells[3][at[column]]
		got := fmt.Sprint(lots.Rows)
		if i > 0 {
			for j, c := range lots.Columns {
				if c.Id == column {
					got = *lots.Totals[j].Text
				}
			}
		}
		if got != want {
			t.Errorf("%s: the district says %s, its lots %s", column, want, got)
		}
	}
	report, values = follow(lots, "lot_no", 0)
	history := s.Sheet(t, s.Result(t, report, values), "lot", api.ReadViewParams{})
	if report != "lot-history" || history.Rows != 1 || *history.Cells[0][0] != *lots.Cells[0][0] {
		t.Errorf("opened %s with %v: %v", report, values, history.Cells)
	}
}
