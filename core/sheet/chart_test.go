package sheet

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/core/drawn"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/shown"
)

func timeMonth(m int) time.Month { return time.Month(m) }

// picture writes a chart: places, then each series.
func picture(s *Sheet) string {
	var places []string
	for _, p := range s.Chart.Places {
		places = append(places, p.Name)
	}
	out := strings.Join(places, ", ")
	for _, x := range s.Chart.Series {
		out += fmt.Sprintf("; %s: %s", x.Label, strings.Trim(fmt.Sprint(x.Figures), "[]"))
	}
	return out
}

func TestCharts(t *testing.T) {
	for name, c := range map[string]struct {
		view report.View
		want string
	}{
		"bars, the largest first": {report.View{Drawn: "bar", Levels: []string{"region"}, Cells: []string{"kg"}},
			"South, North; Net weight, kg: 30.0 20.0"},
		"several measures": {report.View{
			Drawn:  "line",
			Levels: []string{"month(received)"},
			Cells:  []string{"kg", "lots"},
			Fill:   true,
		}, "Jul 2026, Aug 2026, Sep 2026, Oct 2026; Net weight, kg: 35.0  10.0 5.0; Lots: 3  2 1"},
		"limited": {report.View{
			Drawn:  "pie",
			Levels: []string{"district"},
			Cells:  []string{"kg"},
			Limit:  2,
			Rest:   "Others",
		}, "Tarn, Hollin, Others; Net weight, kg: 25.0 16.0 9.0"},
		"a series for each group": {report.View{
			Drawn:  "bar",
			Levels: []string{"region", "quarter(received)"},
			Cells:  []string{"kg"},
		}, "South, North; Q3 2026: 25.0 20.0; Q4 2026: 5.0 "},
		"limited, with series": {report.View{
			Drawn:  "bar",
			Levels: []string{"district", "region"},
			Cells:  []string{"kg"},
			Limit:  1,
			Rest:   "Others",
		}, "Tarn, Others; North:  20.0; South: 25.0 5.0"},
		"bands keep their order": {report.View{Drawn: "bar", Levels: []string{"band(kg, 5, 10)"}, Cells: []string{"kg"}},
			"below 5, 5 to below 10, 10 and over; Net weight, kg: 4.0 11.0 35.0"},
		"histogram": {report.View{Drawn: "histogram", X: "kg", Bins: 5},
			"below 5, 5 to below 10, 10 to below 15, 25 and over; Rows: 2 2 1 1"},
	} {
		c.view.Show, c.view.Of = report.Chart, "intake"
		s := sheetOf(t, c.view, ask.Changes{})
		if got := picture(s); got != c.want {
			t.Errorf("%s: got %s", name, got)
		}
		for i, p := range s.Chart.Places {
			for _, x := range s.Chart.Series {
				o, err := s.Open(t.Context(), Cell{Path: p.Path, Across: x.Path, Column: x.ID})
				if err != nil || !o.Agree() || o.Before.String() != x.Figures[i].String() && o.Rows > 0 {
					t.Errorf("%s: %s of %s is %s and opens as %+v, %v", name, x.Label, p.Name, x.Figures[i], o, err)
				}
			}
		}
	}
}

// TestAChartIsSaid tells figures in words, with gaps left out, and no more than
// there is room for.
func TestAChartIsSaid(t *testing.T) {
	of := func(v report.View) *drawn.Chart {
		v.Show, v.Of = report.Chart, "intake"
		return sheetOf(t, v, ask.Changes{}).Chart
	}
	line := of(report.View{
		Drawn:  "line",
		Levels: []string{"month(received)"},
		Cells:  []string{"kg", "lots"},
		Fill:   true,
		Marks:  []report.Mark{{At: "7.5", Label: "Target"}},
	})
	if got := line.Says(shown.Form{},
		1000); got != "Net weight, kg: Jul 2026 35.0, Sep 2026 10.0, Oct 2026 5.0; Lots: Jul "+
		"2026 3, Sep 2026 2, Oct 2026 1; limit Target 7.5" {
		t.Errorf("said %s", got)
	}
	if got := line.Says(shown.Form{}, 60); got != "Net weight, kg: Jul 2026 35.0, Sep 2026 10.0, Oct 2026 5.0 and more" {
		t.Errorf("cut to %s", got)
	}
	if got := of(report.View{Drawn: "scatter", X: "received", Y: "kg", Label: "lot"}).Says(shown.Form{},
		1000); !strings.HasPrefix(got, "6 points of Net weight") {
		t.Errorf("points: %s", got)
	}
}

func TestScatterAndMarks(t *testing.T) {
	v := report.View{Show: report.Chart, Of: "intake", Drawn: "scatter", X: "received", Y: "kg", Label: "lot",
		Marks: []report.Mark{{At: "avg(kg) + 2", Label: "Upper"}, {At: "7.5", Label: "Target"}}}
	s := sheetOf(t, v, ask.Changes{Filters: []string{"region=North"}})
	if len(s.Chart.Points) != 4 || s.Chart.Points[1].Name != "L2" || s.Chart.Points[1].Y.String() != "4.0" ||
		s.Chart.Of != 4 {
		t.Errorf("points %+v", s.Chart.Points)
	}
	if m := s.Chart.Marks; m[0].Value.String() != "7.000" || m[1].Value.String() != "7.5" {
		t.Errorf("marks %+v", m)
	}
}

func TestLimitsOfBinsAreRound(t *testing.T) {
	for want, c := range map[string][3]float64{", 5, 10, 15, 20, 25": {0, 25, 5}, ", 0.2, 0.4, 0.6": {0.05, 0.62, 4},
		", -50, 0, 50": {-80, 90, 6}, ", 8": {7, 7, 10}, ", 1000, 2000": {17, 2500, 3}} {
		if got := limits(c[0], c[1], int(c[2])); got != want {
			t.Errorf("%v: got %s, want %s", c, got, want)
		}
	}
}

func TestTooManySeriesAreRefused(t *testing.T) {
	var list []delivery
	for i := range 30 {
		list = append(list, delivery{fmt.Sprint("L", i), "North", "d", 20000, 10, 100})
	}
	v := report.View{
		Show:   report.Chart,
		Of:     "intake",
		Open:   -1,
		Drawn:  "bar",
		Levels: []string{"region", "lot"},
		Cells:  []string{"kg"},
	}
	_, err := Lay(t.Context(), frameOf(t, &intake, 8, list), &intake, &v, ask.Changes{}, setting)
	if err == nil || !strings.Contains(err.Error(), "30 series") {
		t.Errorf("got %v", err)
	}
}

func TestValuesOf(t *testing.T) {
	f, view := frameOf(t, &intake, 2, deliveries), intake.Rows()
	values, err := ValuesOf(t.Context(), f, &intake, view, ask.Changes{Filters: []string{"district=Marr", "region=North"}},
		setting,
		"district", "", 10)
	if err != nil {
		t.Fatal(err)
	}
	if len(values.Items) != 2 || values.Items[0].Text != "Hollin" || values.Items[0].Rows != 2 ||
		values.Items[1].Filter != "district=Marr" {
		t.Errorf("got %+v", values)
	}
	if values, err = ValuesOf(t.Context(), f, &intake, view, ask.Changes{}, setting, "district", "R", 1); err != nil ||
		values.Of != 2 ||
		len(values.Items) != 1 || values.Items[0].Text != "Marr" || values.Empty != 1 {
		t.Errorf("got %+v, %v", values, err)
	}
	if values, err = ValuesOf(t.Context(), f, &intake, view, ask.Changes{}, setting, "value", "", 10); err != nil ||
		values.Low.String() != "0.00" || values.High.String() != "150.00" {
		t.Errorf("got %+v, %v", values, err)
	}
	if values, err = ValuesOf(t.Context(), f, &intake, view, ask.Changes{}, setting, "kg", "", 1); err != nil ||
		values.Bands != "band(kg, 5, 10, 15, 20, 25)" {
		t.Errorf("bands %q, %v", values.Bands, err)
	}
	if _, err = ValuesOf(t.Context(), f, &intake, view, ask.Changes{}, setting, "nowhere", "", 10); err == nil {
		t.Error("values of a column that is not there")
	}
}

func TestCompleteness(t *testing.T) {
	all, err := Completeness(t.Context(), frameOf(t, &intake, 4, deliveries), &intake,
		ask.Changes{Filters: []string{"region=South"}},
		setting)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, f := range all {
		got = append(got, fmt.Sprintf("%s %d/%d", f.Column.ID, f.Empty, f.Rows))
	}
	if s := strings.Join(got, ", "); s != "lot 0/2, region 0/2, region_code 0/2, district 1/2, received 0/2, kg 0/2, "+
		"price 0/2, value 0/2" {
		t.Errorf("got %s", s)
	}
}

func TestFind(t *testing.T) {
	flat := sheetOf(t, report.View{Of: "intake", Columns: []string{"lot", "district", "received", "kg"}},
		ask.Changes{Sort: []string{"kg"}})
	for _, c := range []struct {
		text string
		from int
		back bool
		want Found
	}{
		{"marr", 0, false, Found{0, 1, 1, 2}},
		{"marr", 1, false, Found{1, 1, 2, 2}},
		{"marr", 2, false, Found{0, 1, 1, 2}},
		{"marr", 0, true, Found{0, 1, 1, 2}},
		{"MARR", 5, true, Found{1, 1, 2, 2}},
		{"sep 2026", 0, false, Found{1, 2, 1, 2}},
		{"25.0", 0, false, Found{5, 3, 1, 1}},
		{"nowhere", 0, false, Found{}},
		{" ", 0, false, Found{}},
	} {
		got, err := flat.Find(t.Context(), c.text, c.from, c.back)
		if err != nil || got != c.want {
			t.Errorf("%q from %d: got %+v, %v; want %+v", c.text, c.from, got, err, c.want)
		}
	}
	grouped := sheetOf(t, report.View{Of: "intake", Levels: []string{"region", "district"}, Columns: []string{"kg"}},
		ask.Changes{})
	if got, err := grouped.Find(t.Context(), "tarn", 0, false); err != nil || got != (Found{4, -1, 1, 1}) {
		t.Errorf("got %+v, %v", got, err)
	}
}

func TestOutline(t *testing.T) {
	s := sheetOf(t, report.View{Of: "intake", Levels: []string{"region", "district"}, Columns: []string{"lot", "kg"}},
		ask.Changes{Open: new(3)})
	write := func(most int) string {
		list, more := s.Outline(most)
		var out []string
		for _, e := range list {
			out = append(out, fmt.Sprintf("%s@%d", e.Path, e.Line))
		}
		return fmt.Sprint(strings.Join(out, " "), " ", more)
	}
	for most, want := range map[int]string{9: "North@0 North/Hollin@1 North/Marr@4 South@7 South/Tarn@8 South/~@10 false",
		5: "North@0 South@7 false", 1: "North@0 true"} {
		if got := write(most); got != want {
			t.Errorf("at most %d: got %s", most, got)
		}
	}
}

func TestTonesOfRows(t *testing.T) {
	v := report.View{
		Of:      "intake",
		Columns: []string{"lot", "kg"},
		Tones:   []report.Tone{{When: "district is null", As: "alert"}, {When: "received > date '2026-09-30'", As: "muted"}},
	}
	s := sheetOf(t, v, ask.Changes{})
	lines, err := s.Read(t.Context(), 0, 6)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, l := range lines {
		got = append(got, l.Tone+fmt.Sprint(l.Tones))
	}
	if s := strings.Join(got, " "); s != "[] [ attention] [] [] alert[] [ attention]" {
		t.Errorf("got %s", s)
	}
	_ = frame.Text
}
