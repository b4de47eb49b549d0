package series

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/changes"
	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/period"
	"mantilla/core/report"
)

var keepers = &report.Dataset{ID: "keepers", Key: []string{"no"}, Columns: []report.Column{
	{ID: "no", Label: "No.", Kind: frame.Text},
	{ID: "stage", Label: "Stage", Kind: frame.Text},
	{ID: "kg", Label: "Weight", Kind: frame.Decimal, Scale: 1, Total: frame.Sum},
	{ID: "waiting", Label: "Waiting", Kind: frame.Integer, Formula: "kg * 2"},
}}

// row is a keeper, a stage ("" for none) and tenths of a kilogram.
type row struct {
	no, stage string
	kg        int64
}

// capture makes a side of rows, as the layout reads them.
func capture(t *testing.T, l Layout, rows []row) (changes.Side, frame.Schema) {
	t.Helper()
	var schema frame.Schema
	for _, id := range l.Columns() {
		schema = append(schema, keepers.Column(id).Field())
	}
	var cells [][]any
	for _, r := range rows {
		line := []any{r.no, r.stage, r.kg}
		if r.stage == "" {
			line[1] = nil
		}
		cells = append(cells, line)
	}
	f := frametest.Rows(schema, 3, cells...)
	var out changes.Side
	for i := range f.Batches() {
		b, err := f.Batch(t.Context(), i, []int{0, 1, 2})
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, b)
	}
	return out, schema
}

// written collects the rows that are written of a dataset.
func written(t *testing.T, schema frame.Schema, write func(*frame.Builder) error) (lines []string) {
	t.Helper()
	out := frame.NewBuilder(schema, 100, func(r arrow.RecordBatch) error {
		f, err := frame.New(schema, r)
		if err != nil {
			return err
		}
		all := make([]int, len(schema))
		for i := range all {
			all[i] = i
		}
		b, err := f.Batch(t.Context(), 0, all)
		if err != nil {
			return err
		}
		for row := range b.Rows {
			var cells []string
			for col := range schema {
				v := b.Value(col, row)
				switch {
				case v.Null:
					cells = append(cells, "-")
				case v.Kind == frame.Text:
					cells = append(cells, strings.ReplaceAll(v.Text, " ", "_"))
				case v.Kind == frame.Date:
					cells = append(cells, period.Day(v.Int()).String()[5:])
				default:
					cells = append(cells, v.Number.String())
				}
			}
			lines = append(lines, strings.Join(cells, " "))
		}
		return nil
	})
	if err := write(out); err != nil {
		t.Fatal(err)
	}
	if err := out.Close(); err != nil {
		t.Fatal(err)
	}
	return lines
}

func may(d int) period.Day { return period.Date(2026, 5, d) }

func TestHistory(t *testing.T) {
	l, err := Lay(keepers, nil, []string{"stage"})
	if err != nil || l.Check() != nil {
		t.Fatal(err, l.Check())
	}
	first, schema := capture(t, l, []row{{"K1", "theory", 10}, {"K2", "theory", 20}, {"K3", "", 5}})
	second, _ := capture(t, l, []row{{"K2", "theory", 21}, {"K1", "practice", 10}, {"K4", "theory", 7}})
	third, _ := capture(t, l, []row{{"K1", "practice", 12}, {"K3", "theory", 5}})
	states, course := l.StateRows(), l.CourseRows()
	h := l.Begin(schema)
	lines := written(t, states.Schema(), func(out *frame.Builder) error {
		for _, step := range []func() error{
			func() error { return h.Add(t.Context(), may(1), "R-1", first, out) },
			func() error { return h.Add(t.Context(), may(4), "R-2", second, out) },
			func() error { h.Miss(may(8), "it failed"); return nil },
			func() error { return h.Add(t.Context(), may(15), "R-3", third, out) },
			func() error { return h.End(t.Context(), out) },
		} {
			if err := step(); err != nil {
				return err
			}
		}
		return nil
	})
	slices.Sort(lines)
	if got, want := strings.Join(lines, "\n"), `K1 practice 1.2 theory changed 05-04 - still 11 2 1 1
K1 theory 1.0 - at_first 05-01 05-04 changed 3 1 0 1
K2 theory 2.1 - at_first 05-01 05-15 left 14 2 1 1
K3 - 0.5 - at_first 05-01 05-04 left 3 1 0 1
K3 theory 0.5 - entered 05-15 - still 0 1 1 1
K4 theory 0.7 - entered 05-04 05-15 left 11 1 1 1`; got != want {
		t.Errorf("states:\n%s\nand not\n%s", got, want)
	}
	lines = written(t, course.Schema(), h.Course)
	if got, want := strings.Join(lines, "\n"), `05-01 R-1 theory 2 3.0 -
05-01 R-1 - 1 0.5 -
05-04 R-2 theory 2 2.8 -
05-04 R-2 - 0 - -
05-04 R-2 practice 1 1.0 -
05-08 - theory - - it_failed
05-08 - - - - it_failed
05-08 - practice - - it_failed
05-15 R-3 theory 1 0.5 -
05-15 R-3 - 0 - -
05-15 R-3 practice 1 1.2 -`; got != want {
		t.Errorf("the course:\n%s\nand not\n%s", got, want)
	}
	if got, want := h.Say(),
		"3 captures from 1 May 2026 to 15 May 2026: 2 rows in the last; 2 entered, 1 changed, 3 left. "+
			"1 capture is missing, and nothing is known of 8 May 2026."; got != want {
		t.Errorf("%s\nand not %s", got, want)
	}
}

// Over random captures, the states that last on a day are those that the course counts then.
func TestStatesAddUpToTheCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	l, err := Lay(keepers, nil, []string{"stage"})
	if err != nil {
		t.Fatal(err)
	}
	states, course := l.StateRows(), l.CourseRows()
	const days = 25
	var h *History
	var counted []map[string]int
	lines := written(t, states.Schema(), func(out *frame.Builder) error {
		for day := range days {
			var rows []row
			count := map[string]int{}
			for k := range 30 {
				if r.IntN(5) > 0 {
					stage := []string{"", "theory", "practice"}[r.IntN(3)]
					rows = append(rows, row{fmt.Sprintf("K%02d", k), stage, int64(r.IntN(50))})
					count[cmp.Or(stage, "-")]++
				}
			}
			side, schema := capture(t, l, rows)
			if h == nil {
				h = l.Begin(schema)
			}
			counted = append(counted, count)
			if err := h.Add(t.Context(), may(1+day), fmt.Sprintf("R-%d", day), side, out); err != nil {
				return err
			}
		}
		return h.End(t.Context(), out)
	})
	for day := range days {
		on, lasting := may(1 + day).String()[5:], map[string]int{}
		for _, line := range lines {
			f := strings.Fields(line)
			if since, until := f[5], f[6]; since <= on && (until == "-" || until > on) {
				lasting[f[1]]++
			}
		}
		if fmt.Sprint(lasting) != fmt.Sprint(counted[day]) {
			t.Errorf("on day %d states last %v, and there were %v", day, lasting, counted[day])
		}
	}
	for _, line := range written(t, course.Schema(), h.Course) {
		f := strings.Fields(line)
		var day int
		if _, err := fmt.Sscanf(f[1], "R-%d", &day); err != nil || f[3] != fmt.Sprint(counted[day][f[2]]) {
			t.Errorf("the course has %s, and there were %v", line, counted[day])
		}
	}
}

func TestWhatHasNoHistory(t *testing.T) {
	named := &report.Dataset{ID: "x", Columns: []report.Column{{ID: "no", Kind: frame.Text}, {ID: "went",
		Kind: frame.Text},
		{ID: "stage", Kind: frame.Text}}}
	if l, err := Lay(named, []string{"no"}, []string{"stage"}); err != nil || l.Check() == nil {
		t.Errorf("a column of the history's own name is let through: %v", err)
	}
	for want, of := range map[string]struct {
		set        *report.Dataset
		key, track []string
	}{
		"no key":                      {named, nil, []string{"stage"}},
		`no column "waiting"`:         {keepers, nil, []string{"waiting"}},
		`no column "town"`:            {keepers, []string{"town"}, []string{"stage"}},
		"say which column":            {keepers, nil, nil},
		`"no" finds a row, so it can`: {keepers, nil, []string{"no"}},
	} {
		if _, err := Lay(of.set, of.key, of.track); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v and not %s", err, want)
		}
	}
	l, err := Lay(keepers, nil, []string{"stage"})
	if err != nil {
		t.Fatal(err)
	}
	if err := l.Alike(named); err == nil || !strings.Contains(err.Error(), `no column "kg"`) {
		t.Error(err)
	}
	if err := l.Alike(keepers); err != nil {
		t.Error(err)
	}
}
