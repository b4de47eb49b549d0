package query_test

import (
	"errors"
	"testing"
	"time"

	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
)

const weighings = `report: weighings
title: Weighings
category: Intake
depth: lines
about: Every weighing.
source: coop
parameters:
  - {id: day, type: range, required: true}
  - {id: hours, type: ranges, time: true}
  - {id: desk, type: text}
  - {id: newest, type: newest}
datasets:
  weighings:
    from: weighing
    where:
      - {is: weighing.on_day, within: day}
      - {is: weighing.at, within: hours, as: moments}
      - weighing.desk = :desk
    order: [weighing.at desc]
    each: [weighing.desk]
    newest: newest
    scope: weighing.site_id
    columns: [{id: no, is: weighing.no, type: text}, {id: kg, is: weighing.g, type: decimal, scale: 3}]
views:
  weighings: {of: weighings}
`

func planned(t *testing.T, reach report.Reach, all bool, resolved map[string]string) query.Query {
	t.Helper()
	d, faults := definition.Parse([]byte(weighings), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	values := param.Recall(d.Parameters, resolved, period.At(time.Unix(1_790_000_000, 0), time.UTC, time.January))
	plan := func() ([]query.Query, error) { return query.Plan(d, values, reach, report.AnyQuotes) }
	if all {
		plan = func() ([]query.Query, error) { return query.PlanAll(d, values, report.AnyQuotes) }
	}
	queries, err := plan()
	if err != nil || len(queries) != 1 {
		t.Fatalf("%d queries, %v", len(queries), err)
	}
	return queries[0]
}

func TestWhatIsNotAnsweredIsLeftOut(t *testing.T) {
	september := map[string]string{"day": "2026-09-01/2026-09-30"}
	q := planned(t, report.Reach{}, false, september)
	if len(q.Where) != 1 || q.Where[0].Within == nil || q.Where[0].Within.Days.First != period.Date(2026, 9, 1) {
		t.Errorf("conditions %+v", q.Where)
	}
	if q.Newest != nil || q.Order != nil || q.Each != nil || len(q.Columns) != 2 || q.Columns[1].ID != "kg" {
		t.Errorf("all rows, in no order, are %+v", q)
	}
	september["desk"], september["newest"] = "north", "20"
	q = planned(t, report.Reach{}, false, september)
	if len(q.Where) != 2 || q.Where[1].Is[1].Value.Name != "desk" || q.Where[1].Is[1].Value.Is != "north" {
		t.Errorf("conditions %+v", q.Where)
	}
	if q.Newest == nil || len(q.Order) != 1 || len(q.Each) != 1 {
		t.Errorf("the newest of each desk are %+v", q)
	}
}

func TestALimitedReachCuts(t *testing.T) {
	q := planned(t, report.Reach{Limited: true, Units: []string{"A", "B"}}, false,
		map[string]string{"day": "2026-09-01/2026-09-30"})
	last := q.Where[len(q.Where)-1]
	if last.Among == nil || len(last.Among.Is.([]string)) != 2 || last.Is[0].Text != "weighing.site_id" {
		t.Errorf("cut by %+v", last)
	}
	d, _ := definition.Parse([]byte(weighings), definition.Defaults{})
	d.Datasets[0].Scope.SQL = ""
	_, err := query.Plan(d, param.Recall(d.Parameters, nil, period.Calendar{}), report.Reach{Limited: true},
		report.AnyQuotes)
	if !errors.Is(err, report.ErrNotCut) {
		t.Errorf("what cannot be cut is planned: %v", err)
	}
}

func TestACheckHasEveryCondition(t *testing.T) {
	q := planned(t, report.Reach{}, true, map[string]string{"day": "2026-09-01/2026-09-30"})
	if len(q.Where) != 4 || q.Newest == nil || q.Where[1].Within.Spans != nil || !q.Where[1].Within.Moments {
		t.Errorf("conditions %+v", q.Where)
	}
}
