package demo_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/sheet"
	"mantilla/demo/demotest"
	"mantilla/library/reading"
)

// TestGroupedReportsAgreeWithTheSource computes the main figures of the
// reports that group, cross and chart a second way, straight from the source.
func TestGroupedReportsAgreeWithTheSource(t *testing.T) {
	s := demotest.Start(t)
	const age = `(2026 - cast(substr(born_on, 1, 4) as integer) - (substr(born_on, 6) > '10-15'))`
	cases := []struct {
		name, report string
		values       api.Values
		view, path   string // of a line; "" for the total
		columns      string
		sql          string
	}{
		{"keepers below 30", "keepers-by-age", nil, "ages", "below%2030", "keepers",
			`select count(*) from keeper where state in ('member', 'resting') and ` + age + ` < 30`},
		{"keepers of 30 to 39", "keepers-by-age", nil, "ages", "30%20to%2039", "keepers",
			`select count(*) from keeper where state <> 'left' and ` + age + ` between 30 and 39`},
		{"keepers by years of membership", "years-of-membership", nil, "bands", "25%20and%20over", "keepers",
			`select count(*) from keeper where state <> 'left' and joined_on <= '2001-10-15'`},
		{"staff by role", "staff-profile", nil, "profile", "driver", "people",
			`select count(*) from staff where role = 'driver' and from_on <= '2026-08-01'
				and coalesce(until_on, '9') >= '2026-08-01'`},
		{"staff list", "staff-list", nil, "staff", "", "rows",
			`select count(*) from staff where from_on <= '2026-08-01' and coalesce(until_on, '9') >= '2026-08-01'`},
		{"seasonal pay by place", "seasonal-pay", nil, "places", "", "hours amount people",
			`select printf('%.2f', sum(hours_hundredths) / 100.0), printf('%.2f', sum(amount_cents) / 100.0),
				count(distinct staff_no) from pay_line where month like '2026%'`},
		{"seasonal pay of a role", "seasonal-pay", nil, "roles", "weigher", "amount",
			`select printf('%.2f', sum(amount_cents) / 100.0) from pay_line where month like '2026%'
				and staff_no in (select no from staff where role = 'weigher')`},
		{"pay checklist", "pay-checklist", nil, "kinds", "wage", "lines amount",
			`select count(*), printf('%.2f', sum(amount_cents) / 100.0) from pay_line where month = '2026-08'
				and kind = 'wage'`},
		{"trial balance", "trial-balance", nil, "balance", "", "debit credit balance",
			`select printf('%.2f', sum(max(amount_cents, 0)) / 100.0), printf('%.2f', -sum(min(amount_cents, 0)) / 100.0),
				'0.00' from ledger_line where posted_on like '2026%'`},
		{"trial balance of an account", "trial-balance", api.Values{"posted": "2025", "society": "BLD"}, "balance",
			"income/4000%20Sales", "lines balance",
			`select count(*), printf('%.2f', sum(amount_cents) / 100.0) from ledger_line where posted_on like '2025%'
				and society_id = 'BLD' and account = '4000'`},
		{"consolidation, a child", "consolidation-trail", api.Values{"account": "4000"}, "sections",
			"1.%20Brackenfell%20Shops", "amount",
			`select printf('%.2f', sum(amount_cents) / 100.0) from ledger_line where society_id = 'BTR-S' and account = '4000'
				and posted_on like '2026%'`},
		{"consolidation, the whole", "consolidation-trail", api.Values{"account": "4000"}, "sections", "", "amount",
			`select printf('%.2f', sum(cents) / 100.0) from (select amount_cents as cents from ledger_line where
				society_id in ('BTR-S', 'BTR-E') and account = '4000' and posted_on like '2026%'
			union all select amount_cents from elimination where account = '4000' and month like '2026%')`},
		{"consolidation, accounts as columns", "consolidation-trail",
			api.Values{"layout": "columns", "account": "1000;1400", "posted": "2026-07/2026-09"}, "lines",
			"1.%20Brackenfell%20Export/opening%20balance", "amount",
			`select printf('%.2f', sum(amount_cents) / 100.0) from ledger_line where society_id = 'BTR-E'
				and account in ('1000', '1400') and posted_on < '2026-07'`},
		{"consolidation, an account adjusted", "consolidation-trail",
			api.Values{"posted": "2026-07/2026-09", "account": "1400"}, "sections", "2.%20Adjustments", "amount",
			`select printf('%.2f', sum(amount_cents) / 100.0) from adjustment where account = '1400'
				and posted_on <= '2026-09-30'`},
		{"consolidation, the parent", "consolidation-trail", api.Values{"account": "4000", "posted": "2026-07/2026-09"},
			"parent", "", "opening children eliminations balance variance",
			`select printf('%.2f', o / 100.0), printf('%.2f', a / 100.0), printf('%.2f', b / 100.0), printf('%.2f', c / 100.0),
				printf('%.2f', (o + a + b - c) / 100.0) from (select
				(select sum(amount_cents) from ledger_line where account = '4000' and society_id in ('BTR-S', 'BTR-E')
				and posted_on between '2026-01-01' and '2026-06-30') as o,
				(select sum(amount_cents) from ledger_line where account = '4000' and society_id in ('BTR-S', 'BTR-E')
				and posted_on between '2026-07-01' and '2026-09-30') as a,
				(select sum(amount_cents) from elimination where account = '4000' and month between '2026-01'
				and '2026-09') as b, (select sum(amount_cents) from ledger_line where account = '4000' and society_id = 'BTR'
				and posted_on between '2026-01-01' and '2026-09-30') as c)`},
		{"sites by kind", "sites-by-unit", nil, "distribution", "", "sites", `select count(*) from site`},
		{"rents by agreement", "rental-outlook", api.Values{"agreement": "T-016"}, "months", "", "due",
			`select printf('%.2f', sum(cents) / 100.0) from (with recursive m(first) as (select '2026-11-01' union all
				select date(first, '+1 month') from m where first < '2027-10-01')
			select (select monthly_cents from rent_step where agreement_no = 'T-016' and from_on < date(first, '+1 month')
			order by from_on desc limit 1) as cents from m, agreement where no = 'T-016' and first <= ends_on)`},
		{"payouts by day paid", "payouts-by-day", nil, "days", "", "lots keepers amount",
			`select count(*), count(distinct keeper_no), printf('%.2f', sum(amount_cents) / 100.0) from payout
				where batch_id in (select id from payout_batch where paid_on like '2026-09%')`},
		{"stock in the bays", "stock-lines", api.Values{"store": "Quay"}, "bays", "", "net_kg value",
			`select printf('%.3f', sum(net_g) / 1000.0), printf('%.2f', sum(value_cents) / 100.0) from stock
				where bay_id like 'S5-%'`},
		{"proof of activity", "portal-proof", api.Values{"keeper": "K-1002", "visited": "2025"}, "areas", "", "visits",
			`select count(*) from portal_visit where keeper_no = 'K-1002' and at >= '2024-12-31T23:00'
				and at < '2025-12-31T23:00'`},
		{"activity of a keeper", "portal-activity", api.Values{"keeper": "K-1002", "visited": "2025"}, "weekday_table", "",
			"visits keepers",
			`select count(*), 1 from portal_visit where keeper_no = 'K-1002' and at >= '2024-12-31T23:00'
				and at < '2025-12-31T23:00'`},
		{"time sheets", "timesheet-batch", nil, "sheets", "", "hours",
			`select printf('%.2f', sum(hours_hundredths) / 100.0) from pay_line where month = '2026-08'`},
		{"orders with subtotals", "orders-by-grouping", api.Values{"sub_group": "product"}, "lines", "web",
			"orders jars amount",
			`select count(distinct no), sum(jars), printf('%.2f', sum(l.amount_cents) / 100.0) from sales_order
				join order_line l on l.order_no = no where channel = 'web' and placed_on like '2026-09%' and cancelled_on is null
				and extra = 0`},
		{"orders of buyers", "buyer-accounts", nil, "orders", "", "order ordered",
			`select count(*), printf('%.2f', sum(amount_cents) / 100.0) from sales_order where placed_on between '2025-10-01'
				and '2026-09-30' and (cancelled_on is null or cancelled_on > '2026-10-15')`},
		{"two measures, the last of each", "lab-measurements", api.Values{"measure": "moisture;hmf", "newest": "20"},
			"instruments", "moisture", "number mean",
			`select count(*), printf('%.3f', round(avg(v)) / 1000) from (select value_thousandths as v from measurement
				where measure = 'moisture' and measured_on like '2026%' order by measured_on desc, id desc limit 20)`},
		{"beyond the measure's own limits", "lab-measurements",
			api.Values{"measure": "conductivity", "measured": "2025", "newest": "100000"}, "instruments", "conductivity",
			"beyond", `select sum(value_thousandths < lower_thousandths or value_thousandths > upper_thousandths)
				from measurement join measure_limit using (measure) where measure = 'conductivity' and measured_on like '2025%'`},
		{"sites added up", "site-return", api.Values{"site": "UF-HOL"}, "added", "", "rows", `select 1`},
		{"a site's return", "site-return", nil, "filed", "", "expected received weighed", `select printf('%.3f',
			expected_g / 1000.0), printf('%.3f', received_g / 1000.0),
			(select printf('%.3f', sum(net_g) / 1000.0) from lot where site_id = 'UF-HOL-01' and received_on like '2026-08%')
			from site_return where site_id = 'UF-HOL-01' and month = '2026-08'`},
		{"return rate", "return-rate", nil, "units", "", "due filed rate",
			`select count(*), count(returned_on), printf('%.1f', 100.0 * count(returned_on) / count(*)) from site_return
				where month like '2025%'`},
		{"return rate of a district", "return-rate", nil, "units", "Upper%20Fells/Hollin", "due filed",
			`select count(*), count(returned_on) from site_return where month like '2025%' and site_id like 'UF-HOL%'`},
		{"sites", "sites-by-unit", nil, "units", "", "sites open_sites keepers",
			`select count(*), count(*) - count(closed_on), (select count(*) from keeper where left_on is null) from site`},
		{"bay occupancy", "bay-occupancy", nil, "stores", "Quay", "bays held occupancy", `select count(*), printf('%.3f',
			sum(g) / 1000.0), printf('%.1f', sum(g) / 10.0 / sum(capacity_kg)) from
			(select capacity_kg, (select coalesce(sum(net_g), 0) from stock where bay_id = bay.id) as g from bay
			where store_id = 'S5')`},
		{"projected fees", "bay-occupancy", api.Values{"fee": "2", "months": "1"}, "stores", "", "held",
			`select printf('%.3f', sum(net_g) / 1000.0) from stock`},
		{"lab measurements", "lab-measurements", api.Values{"newest": "100000", "measured": "2025"}, "instruments", "",
			"number mean", `select count(*), printf('%.3f', round(avg(value_thousandths)) / 1000) from measurement
				where measure = 'moisture' and measured_on like '2025%'`},
		{"capability", "measure-capability", api.Values{"newest": "100000", "measured": "2025", "lower": "15", "upper": "20"},
			"capability", "", "number cp",
			`select n, printf('%.2f', 5000 / (6 * sqrt((q - 1.0 * s * s / n) / (n - 1)))) from
			(select count(value_thousandths) as n, sum(value_thousandths) as s,
			sum(value_thousandths * value_thousandths) as q from measurement where measure = 'moisture'
			and measured_on like '2025%')`},
		{"hive scales", "hive-scale-trend", api.Values{"read": "2026-07", "statistic": "highest", "interval": "month"},
			"intervals", "", "reading",
			`select printf('%.1f', max(weight_g) / 1000.0) from scale_reading where at >= '2026-06-30T22:00'
				and at < '2026-07-31T22:00'`},
		{"hive scales in pounds, by standard time", "hive-scale-trend",
			api.Values{"read": "2026-07", "statistic": "lowest", "weight_in": "lb", "clock": "standard",
				"interval": "hour_of_day"}, "intervals", "03:00", "reading",
			`select printf('%.1f', round(min(weight_g) * 2.2046226) / 1000) from scale_reading where at >= '2026-06-30T22:00'
				and at < '2026-07-31T22:00' and substr(at, 12, 2) = '02'`},
		{"portal activity", "portal-activity", nil, "areas", "prices", "visits keepers share",
			`select count(*), count(distinct keeper_no), printf('%.1f', 100.0 * count(*) / (select count(*) from portal_visit
				where at >= '2025-12-31T23:00' and at < '2026-12-31')) from portal_visit where area = 'prices'
				and at >= '2025-12-31T23:00' and at < '2026-12-31'`},
		{"project costs", "project-summary", nil, "costs", "Solar%20field", "planned spent over",
			`select printf('%.2f', sum(planned_cents) / 100.0), printf('%.2f', sum(spent_cents) / 100.0), printf('%.2f',
				sum(spent_cents - planned_cents) / 100.0) from project_cost where project_id = 'J-04'`},
		{"open work", "open-work", nil, "work", "", "tasks overdue",
			`select count(*), sum(ends_on < '2026-10-15') from task where done_hundredths < 10000
				and starts_on <= '2026-10-15'`},
		{"timeline", "project-timeline", nil, "tasks", "", "rows", `select count(*) from task`},
		{"training", "training-progress", nil, "stages", "3%20practice", "keepers",
			`select count(*) from training where stage = 'practice' and keeper_no in (select no from keeper
				where left_on is null or left_on > '2026-10-15')`},
		{"roster", "visit-roster", api.Values{"unit": "Marr"}, "keepers", "", "rows",
			`select count(*) from keeper where site_id like 'UF-MAR%' and left_on is null`},
	}
	for _, c := range cases {
		got := figuresOf(t, c.name, s.Sheet(t, s.Result(t, c.report, c.values), c.view, api.ReadViewParams{}), c.path,
			c.columns)
		if want := s.Ask(t, c.sql); strings.Join(got, " ") != strings.Join(want, " ") {
			t.Errorf("%s: the report says %q, the source %q", c.name, got, want)
		}
	}
}

// figuresOf reads columns of the line of a group, or of the totals; in a
// crosstab those of the last columns.
func figuresOf(t *testing.T, name string, laid api.Sheet, path, columns string) (got []string) {
	line := slices.IndexFunc(laid.Marks, func(m api.LineMark) bool { return m.Path != nil && *m.Path == path })
	if path != "" && line < 0 {
		t.Fatalf("%s: there is no line %q", name, path)
	}
	for _, want := range strings.Fields(columns) {
		if want == "rows" {
			got = append(got, fmt.Sprint(laid.Rows))
			continue
		}
		for i := len(laid.Columns) - 1; i >= 0; i-- {
			if laid.Columns[i].Id != want {
				continue
			}
			cell := laid.Totals[i].Text
			if line >= 0 {
				cell = laid.Cells[line][i]
			}
			if cell == nil {
				got = append(got, "")
			} else {
				got = append(got, *cell)
			}
			break
		}
	}
	return got
}

// TestEveryFigureOpensIntoRowsThatComeToIt opens the figures of every view of
// every report of the demo: each total, and figures of the first lines. What the
// source grouped opens into rows that it did not group.
func TestEveryFigureOpensIntoRowsThatComeToIt(t *testing.T) {
	s := demotest.Start(t)
	service := s.Library.AsService()
	catalog, err := s.Client.GetCatalogWithResponse(t.Context(), nil)
	if err != nil || catalog.JSON200 == nil {
		t.Fatalf("%v %s", err, catalog.Body)
	}
	opened, behind := 0, 0
	for _, line := range catalog.JSON200.Reports {
		d, err := service.Catalog.Report(line.Id)
		if err != nil {
			t.Fatal(err)
		}
		for _, set := range d.Datasets {
			if len(set.Group) > 0 && set.Behind == nil {
				t.Errorf("%s: the source groups %s, and no rows are behind it", line.Id, set.ID)
			}
		}
		for _, values := range waysOf(line.Id) {
			var number int64
			if _, err := fmt.Sscanf(s.Result(t, line.Id, values), "R-%d", &number); err != nil {
				t.Fatal(err)
			}
			r, err := service.Reading.Result(t.Context(), number)
			if err != nil {
				t.Fatal(err)
			}
			for _, v := range r.Definition.Views {
				o := opener{t: t, reading: service.Reading, result: r, view: v.ID, where: line.Id + ", view " + v.ID}
				o.all()
				opened, behind = opened+o.opened, behind+o.behind
			}
		}
	}
	if opened < 1000 || behind < 400 {
		t.Errorf("only %d figures were opened, and %d of what the source grouped", opened, behind)
	}
}

// waysOf are the values with which a report's figures are opened: its own, and those
// of a run that is narrowed or switched to other rules.
func waysOf(report string) []api.Values {
	ways := []api.Values{needed[report]}
	if narrow, ok := narrowed[report]; ok {
		ways = append(ways, narrow)
	}
	if other, ok := switched[report]; ok {
		ways = append(ways, other)
	}
	return ways
}

// switched are values that give a report other columns, or several lines.
var switched = map[string]api.Values{
	"site-return":        {"site": "UF-HOL"},
	"rental-outlook":     {"rule": "capitalised"},
	"return-rate":        {"month": "2026"},
	"orders-by-grouping": {"group": "product", "sub_group": "channel", "days": "2026-Q2 against year before"},
	"agent-commission":   {"as": "summary"},
}

// opener opens what can be opened of a view of a result.
type opener struct {
	t              *testing.T
	reading        *reading.Access
	result         *reading.Result
	view, where    string
	laid           *sheet.Sheet
	opened, behind int
}

func (o *opener) open(at sheet.Cell, shown string) {
	o.t.Helper()
	laid := o.laid
	column := laid.Dataset.Column(at.Column)
	out, err := o.reading.OpenFigure(o.t.Context(), o.result, o.view, ask.Changes{}, at)
	if err != nil {
		o.t.Errorf("%s: %+v: %v", o.where, at, err)
		return
	}
	if !out.Alone && !out.Agree() {
		o.t.Errorf("%s: %s is %s, its %d rows by %q come to %s", o.where, out.Says, out.Before, out.Rows, out.Filters,
			out.After)
	}
	if out.View != laid.Dataset.ID+".rows" {
		o.behind++
		if out.Alone && (at.Row != nil || column != nil && column.Total == frame.Sum && column.Formula == "") {
			o.t.Errorf("%s: nothing tells that the %d rows of %s come to it", o.where, out.Rows, out.Says)
		}
	}
	if column != nil && shown != "" &&
		!strings.Contains(column.Formula, "share(") && !strings.Contains(column.Formula, "change(") &&
		out.Before.String() != shown && column.Percent == nil && !column.AtGroups {
		o.t.Errorf("%s: %s shows %s", o.where, out.Says, shown)
	}
	o.opened++
}

func (o *opener) all() {
	o.t.Helper()
	var err error
	if o.laid, err = o.reading.Sheet(o.t.Context(), o.result, o.view, ask.Changes{}); err != nil {
		o.t.Fatalf("%s: %v", o.where, err)
	}
	laid := o.laid
	if laid.Chart != nil {
		for i, p := range laid.Chart.Places[:min(len(laid.Chart.Places), 6)] {
			for _, x := range laid.Chart.Series {
				o.open(sheet.Cell{Path: p.Path, Across: x.Path, Column: x.ID}, x.Figures[i].String())
			}
		}
		return
	}
	for i, c := range laid.Columns {
		if laid.IsFigure(c.ID) && (i < 12 || i > len(laid.Columns)-3) {
			o.open(sheet.Cell{Across: c.Path, Column: c.ID}, "")
		}
	}
	lines, err := laid.Read(o.t.Context(), 0, 6)
	if err != nil {
		o.t.Fatal(err)
	}
	for _, l := range lines {
		o.line(l)
	}
}

func (o *opener) line(l sheet.Line) {
	o.t.Helper()
	for i, c := range o.laid.Columns[:min(len(o.laid.Columns), 12)] {
		shown := l.Cells[i].String()
		switch {
		case l.Kind == sheet.RowLine && o.laid.Dataset.OpensBehind(c.Column) && !l.Cells[i].Null:
			row := int(l.Row)
			o.open(sheet.Cell{Column: c.ID, Row: &row}, shown)
		case l.Kind != sheet.RowLine && o.laid.IsFigure(c.ID):
			if o.laid.View.Stacked && o.laid.View.Cells[l.Measure] != c.ID {
				shown = "" // the line is of another measure
			}
			o.open(sheet.Cell{Path: l.Path, Across: c.Path, Column: c.ID}, shown)
		}
	}
}
