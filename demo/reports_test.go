package demo_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestReportsAgreeWithTheSource computes the main figures of every demo report
// a second way: other joins, sums in hundredths and thousandths, no grouping.
func TestReportsAgreeWithTheSource(t *testing.T) {
	s := demotest.Start(t)
	const cents = "sum(iif(net_g < 0, -((-net_g * price_cents + 500) / 1000), (net_g * price_cents + 500) / 1000))"
	cases := []struct {
		name, report string
		values       api.Values
		view         string
		totals       string // columns to compare, with rows for their number
		sql          string
	}{
		{"intake by origin, last month", "intake-by-origin", nil, "by_district", "lots net_kg unpriced_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.3f', sum(iif(price_cents is null, net_g,
				0)) / 1000.0), printf('%.2f', ` + cents + ` / 100.0) from lot where substr(received_on, 1, 7) = '2026-09'`},
		{"intake by origin of two districts and one grade", "intake-by-origin",
			api.Values{"received": "2025", "unit": "UF-HOL; Marr", "grade": "Select"}, "by_flower", "lots net_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', ` + cents +
				` / 100.0) from lot where received_on like '2025%' and grade = 'A' and (site_id like 'UF-HOL-%'
					or site_id like 'UF-MAR-%')`},
		{"intake lots since the beginning", "intake-lots", api.Values{"received": "2023-01-01/today"}, "lots",
			"rows net_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', ` + cents + ` / 100.0) from lot`},
		{"heavy intake lots of one flower", "intake-lots",
			api.Values{"received": "2024-Q3", "origin": "Heather", "at_least": "399.999"}, "lots", "rows net_kg",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0) from lot where received_on between '2024-07-01'
				and '2024-09-30' and origin = 'HEA' and net_g >= 399999`},
		{"corrections", "intake-lots", api.Values{"received": "2023-01-01/today", "corrections": "yes"}, "lots",
			"rows net_kg",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0) from lot where net_g < 0`},
		{"keeper file, deliveries", "keeper-file", api.Values{"keeper": "K-1002"}, "deliveries", "rows net_kg value",
			`select count(*), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', ` + cents +
				` / 100.0) from lot where keeper_no = 'K-1002' and received_on > '2025-10-15' and received_on <= '2026-10-15'`},
		{"keeper file, payouts", "keeper-file", api.Values{"keeper": "K-1002", "days": "2024/2026"}, "payouts",
			"rows lots amount",
			`select count(distinct batch_id), count(*), printf('%.2f', sum(amount_cents) / 100.0) from payout
				where keeper_no = 'K-1002' and batch_id in (select id from payout_batch where settles_on >= '2024')`},
		{"payout detail", "payout-detail", api.Values{"settled": "2026-08"}, "lines", "rows batch amount",
			`select count(*), count(distinct batch_id), printf('%.2f', sum(amount_cents) / 100.0) from payout
				where batch_id like 'B202608-%'`},
		{"payouts that are not yet paid", "payout-detail", api.Values{"settled": "2026", "paid": "unpaid"}, "lines",
			"rows amount",
			`select count(*), printf('%.2f', sum(amount_cents) / 100.0) from payout where batch_id in (select id
				from payout_batch where paid_on is null)`},
		{"near best-before", "near-best-before", api.Values{"within": "30"}, "stock", "rows jars net_kg value",
			`select count(*), sum(jars), printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', sum(value_cents) / 100.0)
				from stock where best_before <= '2026-11-14'`},
		{"near best-before in one store", "near-best-before",
			api.Values{"as_of": "2026-06-30", "within": "0", "store": "Quay", "product": "HEATHER"}, "stock", "rows jars",
			`select count(*), coalesce(sum(jars), '') from stock where best_before <= '2026-06-30'
				and packed_on <= '2026-06-30' and bay_id like 'S5-%' and product like 'Heather%'`},
		{"lot history, laboratory", "lot-history", api.Values{"lot": "L24-05000"}, "laboratory", "rows",
			`select count(*) from measurement where lot_no = 'L24-05000'`},
		{"lot history, payout", "lot-history", api.Values{"lot": "L24-05000"}, "payouts", "amount",
			`select printf('%.2f', (net_g * price_cents + 500) / 1000 / 100.0) from lot where lot_no = 'L24-05000'`},
		{"lot history, changes", "lot-history", api.Values{"lot": "L24-05000"}, "changes", "rows",
			`select count(*) from lot_change where lot_no = 'L24-05000'`},
		{"orders by channel, placed last month", "orders-by-grouping", nil, "orders", "jars amount",
			`select sum(jars), printf('%.2f', sum(amount_cents) / 100.0) from order_line where extra = 0
				and order_no in (select no from sales_order where placed_on like '2026-09-%' and cancelled_on is null)`},
		{"orders by town and product, delivered, all counted", "orders-by-grouping",
			api.Values{"basis": "delivered", "days": "2025-Q2", "group": "town", "sub_group": "product", "extras": "yes",
				"cancelled": "yes"}, "orders", "rows amount",
			`select count(*), printf('%.2f', sum(a) / 100.0) from (select sum(l.amount_cents) as a
				from sales_order o, buyer b, order_line l where l.order_no = o.no and b.no = o.buyer_no
				and o.delivered_on >= '2025-04' and o.delivered_on < '2025-07' group by b.town, l.product)`},
		{"orders by the month in which they were sent, against the year before", "orders-by-grouping",
			api.Values{"basis": "sent", "group": "month", "days": "2026-01/2026-02 against year before"}, "orders",
			"rows amount amount_2",
			`select 2, printf('%.2f', sum(iif(sent_on like '2026%', l.amount_cents, 0)) / 100.0), printf('%.2f',
				sum(iif(sent_on like '2025%', l.amount_cents, 0)) / 100.0)
				from sales_order join order_line as l on l.order_no = no where extra = 0 and cancelled_on is null
				and (sent_on like '2026-01%' or sent_on like '2026-02%' or sent_on like '2025-01%' or sent_on like '2025-02%')`},
		{"orders against the year before", "orders-by-grouping", api.Values{"days": "2026-08 against year before and " +
			"previous period", "group": "product"}, "orders", "amount amount_2 amount_change_2 amount_percent_2 amount_3",
			`select printf('%.2f', a / 100.0), printf('%.2f', b / 100.0), printf('%.2f', (a - b) / 100.0), printf('%.1f',
				100.0 * (a - b) / b), printf('%.2f', c / 100.0) from (select
				sum(iif(placed_on like '2026-08%', l.amount_cents, 0)) as a, sum(iif(placed_on like '2025-08%', l.amount_cents,
				0)) as b, sum(iif(placed_on like '2026-07%', l.amount_cents, 0)) as c
				from sales_order join order_line as l on l.order_no = no where extra = 0 and cancelled_on is null)`},
		{"this season against two earlier ones", "orders-earlier-seasons",
			api.Values{"as_of": "2026-06-30", "days": "2026-03-01/2026-06-30 against year before and 2 years before"}, "seasons",
			"amount amount_2 amount_3",
			`select printf('%.2f', sum(iif(y = '2026', c, 0)) / 100.0), printf('%.2f', sum(iif(y = '2025', c, 0)) / 100.0),
				printf('%.2f', sum(iif(y = '2024', c, 0)) / 100.0) from (select substr(placed_on, 1, 4) as y, l.amount_cents as c
				from sales_order join order_line as l on l.order_no = no where extra = 0 and substr(placed_on, 6) between '03-01'
				and '06-30' and not coalesce(cancelled_on <= '2026-06-30', 0))`},
		{"forecast without estimates", "project-forecast", api.Values{"cut_off": "2026-03-31"}, "forecast",
			"planned spent forecast",
			`select printf('%.2f', sum(planned_cents) / 100.0), (select printf('%.2f', sum(spent_cents) / 100.0)
				from project_cost where month <= '2026-03'), printf('%.2f', sum(planned_cents) / 100.0) from project_cost`},
		{"settlement of a quarter", "payout-settlement", api.Values{"settles": "2026-Q3"}, "batches", "rows late lots amount",
			`select count(distinct batch_id), printf('%d', max(julianday(paid_on) - julianday(settles_on))), count(*),
				printf('%.2f', sum(amount_cents) / 100.0) from payout join payout_batch b on b.id = batch_id
				where settles_on between '2026-07-01' and '2026-09-30'`},
		{"long service", "long-service", api.Values{"together": "80", "unit": "Upper Fells"}, "keepers", "rows",
			`select count(*) from keeper where site_id in (select s.id from site s join district d on d.id = s.district_id
				where d.region_id = 'UF') and (left_on is null or left_on > '2026-10-15')
				and cast((20261015 - replace(born_on, '-', '')) / 10000 as integer) + cast((20261015 - replace(joined_on, '-',
				'')) / 10000 as integer) >= 80`},
		{"certificates ending by month", "certificates-ending", api.Values{"ahead": "6 months"}, "months", "keepers organic",
			`select count(*), sum(certificate = 'organic') from keeper where left_on is null
				and certificate_ends_on >= '2026-10-15' and certificate_ends_on <= '2027-04-15'`},
		{"certificates ending by district", "certificates-by-district", api.Values{"month": "2026-12"}, "districts",
			"keepers first_ends",
			`select count(*), min(certificate_ends_on) from keeper where left_on is null
				and certificate_ends_on like '2026-12-%'`},
		{"certificates ending in a district", "certificate-lines", api.Values{"unit": "EM-BRA", "certificate": "organic"},
			"keepers", "rows",
			`select count(*) from keeper where left_on is null and site_id like 'EM-BRA-%' and certificate = 'organic'
				and certificate_ends_on between '2026-10-15' and '2027-10-15'`},
		{"waiting in two stretches, one over the change of clocks", "weighing-waits",
			api.Values{"windows": "2025-10-26; 2025-09-01 09:00/2025-09-02 12:00"}, "desks",
			"arrivals called_count longest_wait",
			`select count(*), count(called_at),
				max(cast(round((julianday(called_at) - julianday(arrived_at)) * 1440) as integer)) from weighing
				where arrived_at >= '2025-10-25T22:00:00Z' and arrived_at < '2025-10-26T23:00:00Z'
				or arrived_at >= '2025-09-01T07:00:00Z' and arrived_at < '2025-09-02T10:00:00Z'`},
		{"waiting, keeper by keeper", "weighing-waits",
			api.Values{"windows": "2026-08", "desk": "north desk", "longer_than": "60"}, "arrivals", "rows",
			`select count(*) from weighing where desk = 'north desk' and arrived_at >= '2026-07-31T22:00:00Z'
				and arrived_at < '2026-08-31T22:00:00Z' and unixepoch(called_at) - unixepoch(arrived_at) > 3600`},
		{"budget of a year", "budget-position", api.Values{"posted": "2025", "society": "BLD"}, "lines", "planned spent left",
			`select printf('%.2f', p / 100.0), printf('%.2f', s / 100.0), printf('%.2f', (p - s) / 100.0)
				from (select (select sum(amount_cents) from budget where society_id = 'BLD' and month like '2025-%') as p,
				(select sum(amount_cents) from ledger_line where society_id = 'BLD' and posted_on like '2025%'
				and account in ('6000', '6200', '6400', '6800')) as s)`},
		{"ledger lines from one code to another", "ledger-lines",
			api.Values{"account": "5000..6200", "posted": "2026-Q2", "society": "Brackenfell Trading", "least": "1000"}, "lines",
			"rows journal amount",
			`select count(*), count(distinct journal_id), printf('%.2f', sum(amount_cents) / 100.0) from ledger_line
				where account in ('5000', '6000', '6200') and posted_on >= '2026-04' and posted_on < '2026-07'
				and society_id like 'BTR%' and (amount_cents >= 100000 or amount_cents <= -100000)`},
		{"commission of a month", "agent-commission", api.Values{"delivered": "2026-09", "agent": "AG-1; AG-5"}, "agents",
			"orders amount commission",
			`select count(*), printf('%.2f', sum(amount_cents) / 100.0), printf('%.2f',
				sum(round(amount_cents * rate_hundredths / 10000.0)) / 100) from sales_order o join agent a on a.no = agent_no
				where a.no in ('AG-1', 'AG-5') and delivered_on like '2026-09-%'`},
		{"commission, the columns that were chosen", "agent-commission",
			api.Values{"delivered": "2026-09-10", "shown": "commission; order"}, "orders", "order",
			`select count(*) from sales_order where delivered_on = '2026-09-10' and agent_no is not null`},
		{"buyers by channel", "buyer-accounts", api.Values{"placed": "2026", "levels": "channel", "as_of": "2026-08-31"},
			"buyers", "rows orders ordered delivered due",
			`select count(distinct channel), count(*), printf('%.2f', sum(amount_cents) / 100.0), printf('%.2f',
				sum(iif(delivered_on < '2026-09', amount_cents, 0)) / 100.0),
				printf('%.2f', sum(iif(julianday(delivered_on) + terms_days <= julianday('2026-08-31'), amount_cents,
				0)) / 100.0) from sales_order join buyer on buyer.no = buyer_no where placed_on >= '2026'
				and not coalesce(cancelled_on < '2026-09', 0)`},
		{"changes of a day by hand", "lot-changes",
			api.Values{"changed": "2026-08-03 00:00/24:00", "by_hand": "yes", "to_state": "graded; priced"}, "changes",
			"rows lot_no",
			`select count(*), count(distinct lot_no) from lot_change where at >= '2026-08-02T22:00:00Z'
				and at < '2026-08-03T22:00:00Z' and not automatic and to_state in ('graded', 'priced')`},
		{"the newest changes", "lot-changes", api.Values{"changed": "2023-01-01/today", "newest": "25"}, "changes", "rows",
			`select 25`},
		{"rents ahead", "rental-outlook", api.Values{"as_of": "2026-10-15", "ahead": "3"}, "months", "due",
			`select printf('%.2f', sum((select monthly_cents from rent_step where agreement_no = no and from_on <= last
				order by from_on desc limit 1)) / 100.0) from agreement, (select '2026-11-01' as first, '2026-11-30' as last
				union select '2026-12-01', '2026-12-31' union select '2027-01-01', '2027-01-31')
				where starts_on <= last and ends_on >= first`},
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
		if want := s.Ask(t, c.sql); strings.Join(got, " ") != strings.Join(want, " ") {
			t.Errorf("%s: the report says %q, the source %q", c.name, got, want)
		}
	}
}

// TestRentsAgreeWithAHandWorkedTable replaces the agreements by one of four
// months: 100, 100, 200 and 200, at 12 percent a year, which is 1 a month.
func TestRentsAgreeWithAHandWorkedTable(t *testing.T) {
	s := demotest.Start(t)
	s.Exec(t, `delete from rent_step; delete from agreement;
		insert into agreement (no, keeper_no, what, place, starts_on, ends_on)
		values ('T-900', 'K-1002', 'land', 'UF-HOL-01', '2026-11-01', '2027-02-28');
		insert into rent_step values ('T-900', '2026-11-01', 10000), ('T-900', '2027-01-01', 20000)`)
	for _, table := range []struct {
		rule, columns string
		want          []string
	}{
		// Discounted at 1.01, 1.0201, 1.030301 and 1.04060401:
		// 99.0099 + 98.0296 + 194.1180 + 192.1961 = 583.3536, then each month
		// the worth grows by 1 percent and falls by what is paid.
		{"capitalised", "month opening due interest reduction closing", []string{
			"2026-11 583.35 100.00 5.84 94.16 489.19",
			"2026-12 489.19 100.00 4.89 95.11 394.08",
			"2027-01 394.08 200.00 3.94 196.06 198.02",
			"2027-02 198.02 200.00 1.98 198.02 0.00",
		}},
		// 600 over four months is 150 a month.
		{"straight", "month due straight difference", []string{
			"2026-11 100.00 150.00 -50.00", "2026-12 100.00 150.00 -50.00", "2027-01 200.00 150.00 50.00",
			"2027-02 200.00 150.00 50.00",
		}},
	} {
		sheet := s.Sheet(t, s.Result(t, "rental-outlook", api.Values{"rule": table.rule, "rate": "12", "ahead": "12 months"}),
			"months", api.ReadViewParams{})
		for row, want := range table.want {
			var got []string
			for _, id := range strings.Fields(table.columns) {
				for i, col := range sheet.Columns {
					if col.Id == id {
						got = append(got, *sheet.Cells[row][i])
					}
				}
			}
			if strings.Join(got, " ") != want {
				t.Errorf("%s: %q, want %q", table.rule, got, want)
			}
		}
		if sheet.Rows != len(table.want) {
			t.Errorf("%s has %d months", table.rule, sheet.Rows)
		}
	}
	sheet := s.Sheet(t, s.Result(t, "rental-position", api.Values{"rule": "capitalised", "rate": "12"}), "agreements",
		api.ReadViewParams{})
	var got []string
	for i, col := range sheet.Columns {
		if slices.Contains([]string{"months_left", "next_rent", "still_due", "present_value", "interest"}, col.Id) {
			got = append(got, *sheet.Cells[0][i])
		}
	}
	if strings.Join(got, " ") != "4 100.00 600.00 583.35 16.65" {
		t.Errorf("the position is %q", got)
	}
}

func TestBlocksWithoutRowsAreLeftOut(t *testing.T) {
	s := demotest.Start(t)
	// The keeper who never delivered has neither deliveries nor payouts.
	idle := s.Ask(t,
		`select no from keeper where no not in (select keeper_no from lot) and no not in (select keeper_no from agreement)
			and no in (select keeper_no from training) limit 1`)[0]
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
	districts := s.Sheet(t, s.Result(t, "intake-by-origin", api.Values{"received": "last month", "grade": "A; B"}),
		"by_district", api.ReadViewParams{})
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

// TestDaysOfAnyLengthHaveAllTheirHours reads the hive scales on a day of 23, 24 and
// 25 hours and on the last day there is: from the first hour to the whole last one,
// against the source's own moments in UTC.
func TestDaysOfAnyLengthHaveAllTheirHours(t *testing.T) {
	s := demotest.Start(t)
	for _, day := range []struct {
		on, from, until string // the day by the clock, and its bounds in UTC
		hours           int
	}{
		{"2026-03-29", "2026-03-28T23:00", "2026-03-29T22:00", 23},
		{"2025-10-26", "2025-10-25T22:00", "2025-10-26T23:00", 25},
		{"2026-08-01", "2026-07-31T22:00", "2026-08-01T22:00", 24},
		{"2026-10-14", "2026-10-13T22:00", "2026-10-14T22:00", 24},
	} {
		want := s.Ask(t,
			fmt.Sprintf(`select count(*) from scale_reading where at >= '%s' and at < '%s' and scale_id = (select id
				from scale where label = 'Hive W2')`, day.from, day.until))
		if want[0] != fmt.Sprint(day.hours) {
			t.Fatalf("%s has %s readings in the source", day.on, want[0])
		}
		result := s.Result(t, "hive-scale-trend", api.Values{"read": day.on, "interval": "hour_of_day", "scale": "Hive W2"})
		sheet := s.Sheet(t, result, "intervals", api.ReadViewParams{})
		var names []string
		for _, m := range sheet.Marks {
			if m.Name != nil && m.Level != nil && *m.Level == 1 {
				names = append(names, *m.Name)
			}
		}
		hours := min(day.hours, 24) // two o'clock twice is one line
		if sheet.Rows != day.hours || len(names) != hours || names[0] != "00:00" || names[hours-1] != "23:00" {
			t.Errorf("%s: %d rows, lines %q", day.on, sheet.Rows, names)
		}
	}
}
