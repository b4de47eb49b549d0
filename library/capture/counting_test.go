package capture

import (
	"context"
	"errors"
	"strings"
	"testing"

	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/model"
	"mantilla/runner"
	"mantilla/source"
)

// reckoning is a session that reckons with so many rows for each query.
type reckoning struct {
	source.Session
	rows []int64
	err  error
}

func (r *reckoning) Reckon(context.Context, query.Query) (int64, error) {
	rows := r.rows[0]
	r.rows = r.rows[1:]
	return rows, r.err
}

// Who waits for more rows than there may be is told before they are read, and once more when the
// run ends by it; a source that cannot tell changes nothing.
func TestMoreRowsThanThereMayBeAreToldFirst(t *testing.T) {
	for name, c := range map[string]struct {
		session  source.Session
		expected int64
		says     string
		ends     string
	}{
		"more": {&reckoning{rows: []int64{24_999_999, 401_000}}, 25_000_000,
			"The source reckons with about 25,000,000 rows; the limit is 1,000, at which the run would fail.",
			"more than 1000 rows (about 25,000,000, as the source reckons), the limit"},
		"fewer":                   {&reckoning{rows: []int64{12, 7}}, 19, "", "more than 1000 rows, the limit"},
		"as many as there may be": {&reckoning{rows: []int64{600, 400}}, 1000, "", "more than 1000 rows, the limit"},
		"what it does not reckon": {
			&reckoning{rows: []int64{5000, 0}, err: errors.New("groups")}, 0, "", "more than 1000 rows,",
		},
		"a source that cannot tell": {nil, 0, "", "more than 1000 rows, the limit"},
	} {
		t.Run(name, func(t *testing.T) {
			var told []runner.Far
			count := counting{limit: 1000, progress: func(f runner.Far) { told = append(told, f) }}
			count.reckon(t.Context(), c.session, []query.Query{{Dataset: &report.Dataset{}}, {Dataset: &report.Dataset{}}})
			if err := count.tick(1000); err != nil {
				t.Errorf("as many rows as there may be end it: %v", err)
			}
			last := told[len(told)-1]
			if last.Expected != c.expected || last.Says != c.says || last.Rows != 1000 {
				t.Errorf("told is %+v", last)
			}
			if first := told[0]; c.says != "" && (first.Says != c.says || first.Rows != 0) {
				t.Errorf("told first is %+v", first)
			}
			if err := count.tick(1001); err == nil || !strings.Contains(err.Error(), c.ends) {
				t.Errorf("it ends with %v", err)
			}
		})
	}
}

// TestManyRowsAreOfferedTheEngine tells, where the source could, that rows may stay there, and counts
// none that do against the limit.
func TestManyRowsAreOfferedTheEngine(t *testing.T) {
	var told runner.Far
	count := counting{limit: 1000, engine: true, progress: func(f runner.Far) { told = f }}
	staying := &report.Dataset{ID: "all", Keep: report.InEngine}
	count.reckon(t.Context(), &reckoning{rows: []int64{4000}}, []query.Query{{Dataset: staying},
		{Dataset: &report.Dataset{}}})
	if !strings.Contains(told.Says, "about 4,000 rows") || !strings.Contains(told.Says, "keep: {in: engine}") {
		t.Errorf("told is %q", told.Says)
	}
	count.stayed = 1_000_000
	if err := count.tick(1000); err != nil || told.Rows != 1_001_000 {
		t.Errorf("with rows that stay: %v, %d rows", err, told.Rows)
	}
	if err := count.tick(1001); err == nil || !strings.Contains(err.Error(), "let the rows stay in the source") {
		t.Errorf("it ends with %v", err)
	}
	if most := stayingLimit(&report.Definition{Limits: report.Limits{Rows: 500}}, model.Terms{Rows: 200}); most != 200 {
		t.Errorf("%d rows may stay", most)
	}
	if most := stayingLimit(&report.Definition{}, model.Terms{}); most != mostStaying {
		t.Errorf("%d rows may stay where nothing is said", most)
	}
	for table, want := range map[string]int64{tableName("abc", 12, 3): 12, "run_xyz_12_3": 0, "other": 0} {
		if run, ok := runOf("abc", table); ok != (want > 0) || ok && run != want {
			t.Errorf("%s is of the run %d, %t", table, run, ok)
		}
	}
}

func TestReckonedNumbersHaveTwoDigits(t *testing.T) {
	for n, want := range map[int64]int64{0: 0, 7: 7, 99: 99, 104: 100, 105: 110, 995: 1000, 24_499_999: 24_000_000,
		1_000_000_000_000_000: 1_000_000_000_000_000} {
		if got := rounded(n); got != want {
			t.Errorf("%d is about %d and not %d", n, got, want)
		}
	}
}
