package ready_test

import (
	"errors"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/kept"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
)

// jars is a dataset with a column of each kind.
var jars = report.Dataset{ID: "jars", Columns: []report.Column{
	{ID: "label", Label: "Label", Kind: frame.Text},
	{ID: "shelf", Label: "Shelf", Kind: frame.Text},
	{ID: "kg", Label: "Weight", Kind: frame.Decimal, Scale: 2, Unit: "kg", Total: frame.Sum},
	{ID: "price", Label: "Price", Kind: frame.Money, Scale: 2, Currency: "EUR", Total: frame.Sum},
	{ID: "day", Label: "Filled", Kind: frame.Date},
	{ID: "at", Label: "Sealed", Kind: frame.Timestamp},
	{ID: "sold", Label: "Sold", Kind: frame.Flag},
	{ID: "share", Label: "Share", Formula: "share(sum(kg))", AtGroups: true, Kind: frame.Decimal, Scale: 1},
}}

// labels are texts that a path, a filter or a spreadsheet might take for something else.
var labels = []any{"Lime", "lime", "Limé", "", nil, " ", "a/b", "a/b/c", "..", "a;b", "a=b", "a<=b", "~", "~empty",
	"~rest", "%2F", "100 %", "*", "'", "\"", "\\", "-5", "=1+1", "2026-09", "none", "null", "é;è", "🐝", "a\tb", "a,b",
	"(a)", "a~b",
	" Lime ", ">5", "!Lime", "1..5", "today"}

// shelved has each label on two shelves, some of them several times.
func shelved() *kept.Table {
	var rows [][]any
	for i, label := range labels {
		for n := range i%3 + 1 {
			row := []any{label, []any{"top", "low/er"}[n%2], int64(100*i + n), int64(-50 + i), int64(20_700 + 11*i),
				int64(1_790_000_000_000_000 + 3_601_000_001*int64(i)), int64(i % 2)}
			if i%7 == 3 {
				row[2], row[3], row[4], row[5], row[6] = nil, nil, nil, nil, nil
			}
			rows = append(rows, row)
		}
	}
	return kept.Of(frametest.Rows(jars.Schema(), 16, rows...), table.Fresh{})
}

var setting = ready.Setting{Calendar: period.Calendar{Today: period.Date(2026, 10, 15)}, Cache: table.Fresh{}}

// viewed is the view of all rows, changed.
func viewed(t *testing.T, c ask.Changes) *ready.View {
	t.Helper()
	v, err := ready.Of(t.Context(), shelved(), &jars, jars.Rows(), c, setting)
	if err != nil {
		t.Fatalf("%+v: %v", c, err)
	}
	return v
}

// TestEveryGroupIsFoundByItsPathAndFilter follows the path of each group, whatever its value, and
// counts the rows that its filters select.
func TestEveryGroupIsFoundByItsPathAndFilter(t *testing.T) {
	for _, by := range [][]string{{"label"}, {"shelf", "label"}, {"label", "shelf"}, {"month(day)", "label"}, {"day"},
		{"kg"}, {"price", "sold"}, {"sold", "band(kg, 5, 20)"}, {"at"}, {"hour(at)"}, {"weekday(day)"}, {"quarter(at)", "kg"},
		{"kg > 10", "label"}, {"upper(label)"}, {"fiscal_year(day)"}} {
		v := viewed(t, ask.Changes{Group: by})
		figures, err := v.Figures(t.Context(), v.Levels, nil)
		if err != nil {
			t.Fatal(err)
		}
		seen := map[string]bool{}
		for level := 1; level < len(figures.Groups.Levels); level++ {
			l := &figures.Groups.Levels[level]
			for group := range l.Len() {
				path := figures.Path(level, group)
				if seen[path] {
					t.Errorf("by %q: two groups have the path %q", by, path)
				}
				seen[path] = true
				if at, found, err := figures.Find(path); err != nil || at != level || found != group {
					t.Errorf("by %q: %q leads to %d, %d and not to %d, %d: %v", by, path, at, found, level, group, err)
				}
				c := ask.Changes{Group: []string{"none"}}
				for i, key := range figures.Keys(level, group) {
					c.Filters = append(c.Filters, ready.FilterOf(v.Levels[i], key))
				}
				selected := viewed(t, c)
				if n, err := selected.Rows.Count(t.Context(), selected.Where()); err != nil || n != l.Size(group) {
					t.Errorf("by %q: %q select %d rows, the group has %d: %v", by, c.Filters, n, l.Size(group), err)
				}
			}
		}
	}
}

// TestPathsAsPeopleTypeThem leads to groups by plain values and by the names of periods.
func TestPathsAsPeopleTypeThem(t *testing.T) {
	for _, c := range []struct {
		by         []string
		path, says string
	}{
		{[]string{"label"}, "a;b", ""},
		{[]string{"label"}, "100 %", ""},
		{[]string{"month(day)"}, "2026-09", ""},
		{[]string{"shelf", "label"}, "top/Lime", ""},
		{[]string{"shelf", "label"}, "lowerr/Lime",
			`there is no group "lowerr"; did you mean low/er?`},
		{[]string{"shelf", "label"}, "top/Lime/x", "more parts than there are levels"},
		{[]string{"shelf"}, "zzzzzz", `there is no group "zzzzzz"; there are low/er and top`},
		{[]string{"day"}, "zzzzzz", "more"},
	} {
		v := viewed(t, ask.Changes{Group: c.by})
		figures, err := v.Figures(t.Context(), v.Levels, nil)
		if err != nil {
			t.Fatal(err)
		}
		_, _, err = figures.Find(c.path)
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%q by %q: %v, want %q", c.path, c.by, err, c.says)
		}
	}
}

// TestChangesThatDoNotFit are refused with the part that is wrong and what would be right.
func TestChangesThatDoNotFit(t *testing.T) {
	for _, c := range []struct {
		changes    ask.Changes
		part, says string
	}{
		{ask.Changes{Columns: []string{"labl"}}, "columns", "did you mean label?"},
		{ask.Changes{Sort: []string{"-pirce"}}, "sort", "did you mean price?"},
		{ask.Changes{Filters: []string{"labl=x"}}, "filter", "did you mean label?"},
		{ask.Changes{Filters: []string{"kg=heavy"}}, "filter", "heavy"},
		{ask.Changes{Filters: []string{"kg~5"}}, "filter", ""},
		{ask.Changes{Filters: []string{"day=2026-13"}}, "filter", "2026-13"},
		{ask.Changes{Filters: []string{"sold=perhaps"}}, "filter", "perhaps"},
		{ask.Changes{Filters: []string{"share>5"}}, "filter", "computed of groups"},
		{ask.Changes{Filters: []string{"label"}}, "filter", "label"},
		{ask.Changes{Filters: []string{"=5"}}, "filter", ""},
		{ask.Changes{Filters: []string{"month(dy)=2026-09"}}, "filter", "did you mean day?"},
		{ask.Changes{Group: []string{"labl"}}, "group", "did you mean label?"},
		{ask.Changes{Group: []string{"month(label)"}}, "group", "month"},
		{ask.Changes{Group: []string{"sum(kg)"}}, "group", "figure of many rows"},
		{ask.Changes{Group: []string{"share"}}, "group", "share"},
		{ask.Changes{Add: []string{"Worth=kg*"}}, "add", "a value is wanted"},
		{ask.Changes{Add: []string{"kg * 2"}}, "add", ""},
		{ask.Changes{Show: "pie"}, "show", "pie"},
	} {
		_, err := ready.Of(t.Context(), shelved(), &jars, jars.Rows(), c.changes, setting)
		var fault *ask.Fault
		if !errors.As(err, &fault) || !strings.HasPrefix(fault.Part, c.part) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%+v: %v at %+v, want %q at %s", c.changes, err, fault, c.says, c.part)
		}
	}
}

// TestFiltersSelectWhatTheySay counts the rows that filters select; the days begin on 4 September
// 2026 and are eleven apart, the weights rise by a kilogram from label to label.
func TestFiltersSelectWhatTheySay(t *testing.T) {
	all := shelved().Rows()
	for filter, want := range map[string]int{
		"label=Lime":                    1,
		"label=Lime;lime":               3,
		"label~lim":                     11, // whatever the case and accents, and within
		"label=":                        2,  // without a value
		"label=''":                      1,  // empty
		"label<>":                       all - 2,
		"label='a;b'":                   1,
		"label=' Lime '":                3,
		"upper(label)=LIME":             3,
		"(kg > 10)=yes":                 46,
		"(kg > 10)=no":                  count(t, "kg<=10"),
		"(label = 'Lime')=yes":          1,
		"day>2026-09":                   count(t, "day>=2026-10-01"),
		"day<2026-09-15":                count(t, "day<=2026-09-14"),
		"at>2026-10":                    count(t, "at>=2026-11-01"),
		"month(day)>2026-09":            count(t, "day>=2026-10-01"),
		"weekday(day)=Monday;Tuesday":   count(t, "weekday(day)=Monday") + count(t, "weekday(day)=Tuesday"),
		"band(kg, 5, 20)=below 5":       count(t, "kg<5"),
		"band(kg, 5, 20)=20 and over":   count(t, "kg>=20"),
		"band(kg, 5, 20)=5 to below 20": count(t, "kg>=5") - count(t, "kg>=20"),
	} {
		if n := count(t, filter); n != want {
			t.Errorf("%s selects %d rows, want %d", filter, n, want)
		}
	}
	for _, number := range []string{"0", "0.01", "5", "10", "10.02", "35.5"} { // more and at most are all with a value
		more, most := count(t, "kg>"+number), count(t, "kg<="+number)
		less, least := count(t, "kg<"+number), count(t, "kg>="+number)
		if with := count(t, "kg<>"); more+most != with || less+least != with || least-more != count(t, "kg="+number) {
			t.Errorf("%s: %d more, %d at most, %d less, %d at least, of %d", number, more, most, less, least, with)
		}
	}
	for filter, says := range map[string]string{"label>Lime": "> goes with numbers and days",
		"sold<yes": "< goes with numbers", "kg>10.005": "10.005", "kg>": "a value is missing after >"} {
		_, err := ready.Of(t.Context(), shelved(), &jars, jars.Rows(), ask.Changes{Filters: []string{filter}}, setting)
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", filter, err)
		}
	}
}

// count is how many rows a filter selects.
func count(t *testing.T, filter string) int {
	t.Helper()
	v := viewed(t, ask.Changes{Filters: []string{filter}})
	n, err := v.Rows.Count(t.Context(), v.Where())
	if err != nil {
		t.Fatalf("%s: %v", filter, err)
	}
	return n
}
