package sheet

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
)

func TestOverLaysOneReadingOverAnother(t *testing.T) {
	base := ask.Changes{
		Columns: []string{"a"},
		Group:   []string{"region"},
		Add:     []string{"X = 1"},
		Names:   "codes",
		Open:    new(1),
	}
	got := ask.Changes{Group: []string{"none"}, Add: []string{"Y = 2"}, Zeros: "omit", Limit: new(5)}.Over(base)
	want := ask.Changes{
		Columns: []string{"a"},
		Group:   []string{"none"},
		Add:     []string{"Y = 2", "X = 1"},
		Names:   "codes",
		Zeros:   "omit",
		Open:    new(1),
		Limit:   new(5),
	}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("got %+v, want %+v", got, want)
	}
	if again := got.Over(base); len(again.Add) != 2 {
		t.Errorf("the same column was added twice: %q", again.Add)
	}
}

func TestFitKeepsAViewRight(t *testing.T) {
	kept := ask.Changes{Columns: []string{"lot", "gone", "kg", "own_half"},
		Add:   []string{"Half = kg / 2", "Lost = gone * 2"},
		Group: []string{"region", "month(gone)"},
		Sort:  []string{"-kg", "gone", "-month(received)"}, Filters: []string{"gone=3", "month(received)=2026-09", "kg>=2"},
		Cells: []string{"kg", "own_lost"}}
	seen := []string{"lot", "region", "received", "kg", "gone"}
	fitted, dropped := kept.Fit(&intake, &report.View{Columns: []string{"lot", "value", "kg"}}, seen)
	want := ask.Changes{Columns: []string{"lot", "kg", "own_half", "value"}, Add: []string{"Half = kg / 2"},
		Group: []string{"region"},
		Sort:  []string{"-kg", "-month(received)"}, Filters: []string{"month(received)=2026-09", "kg>=2"},
		Cells: []string{"kg"}}
	if !reflect.DeepEqual(fitted, want) {
		t.Errorf("got %+v\nwant %+v", fitted, want)
	}
	if said := strings.Join(dropped, "; "); said != "the column Lost = gone * 2; the column gone; the measure own_lost; "+
		"the grouping by month(gone); the sorting by gone; the filter gone=3" {
		t.Errorf("dropped %s", said)
	}
	if fitted, dropped := (ask.Changes{}).Fit(&intake, intake.Rows(), nil); fitted.Columns != nil || dropped != nil {
		t.Errorf("nothing kept became %+v, %q", fitted, dropped)
	}
}

// grid writes a grid as lines of cells.
func grid(t *testing.T, s *Sheet) string {
	t.Helper()
	g := s.Grid()
	var heads []string
	for _, c := range g.Columns {
		heads = append(heads, c.Heading)
	}
	out := strings.Join(heads, ",") + "\n"
	err := g.Each(t.Context(), func(cells []frame.Value) error {
		var texts []string
		for _, v := range cells {
			texts = append(texts, v.String())
		}
		out += strings.Join(texts, ",") + "\n"
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestGrid(t *testing.T) {
	for name, c := range map[string]struct {
		view report.View
		want string
	}{
		"groups with their rows": {report.View{
			Levels:  []string{"region", "district"},
			Columns: []string{"lot", "kg"},
			Open:    3,
			Sort:    []frame.Key{{Column: "lot"}},
		},
			"Region,District,Lot,Net weight, " +
				"kg\nNorth,,,20.0\nNorth,Hollin,,16.0\nNorth,Hollin,L1,10.0\nNorth,Hollin,L4,6.0\n" +
				"North,Marr,,4.0\nNorth,Marr,L2,4.0\nNorth,Marr,L6,0.0\n" +
				"South,,,30.0\nSouth,Tarn,,25.0\nSouth,Tarn,L3,25.0\nSouth,(none),,5.0\nSouth,(none),L5,5.0\n"},
		"a crosstab": {report.View{
			Show:   report.Crosstab,
			Down:   []string{"region"},
			Across: []string{"quarter(received)"},
			Cells:  []string{"kg"},
		},
			"Region,Q3 2026 / Net weight, kg,Q4 2026 / Net weight, kg,Net weight, kg\nNorth,20.0,,20.0\nSouth,25.0,5.0,30.0\n"},
		"a stacked crosstab": {report.View{
			Show:    report.Crosstab,
			Down:    []string{"region"},
			Across:  []string{"quarter(received)"},
			Cells:   []string{"kg", "lots"},
			Stacked: true,
		},
			"Region,Measure,Q3 2026,Q4 2026,Total\nNorth,Net weight, kg,20.0,,20.0\nNorth,Lots,4,,4\nSouth,Net weight, " +
				"kg,25.0,5.0,30.0\nSouth,Lots,1,1,2\nTotal,Net weight, kg,45.0,5.0,50.0\nTotal,Lots,5,1,6\n"},
		"a chart": {report.View{
			Show:   report.Chart,
			Drawn:  "bar",
			Levels: []string{"region"},
			Cells:  []string{"kg", "lots"},
		}, "Region,Net weight, kg,Lots\nSouth,30.0,2\nNorth,20.0,4\n"},
		"a figure of groups among rows": {report.View{
			Columns: []string{"lot", "kg", "per_kg"},
			Sort:    []frame.Key{{Column: "lot", Descending: true}},
		}, "Lot,Net weight, kg,Paid per kg, EUR\nL6,0.0,\nL5,5.0,\nL4,6.0,\nL3,25.0,\nL2,4.0,\nL1,10.0,\n"},
		"points": {report.View{
			Show:  report.Chart,
			Drawn: "scatter",
			X:     "received",
			Y:     "kg",
			Label: "lot",
			Sort:  []frame.Key{{Column: "kg"}},
		},
			"Point,Received,Net weight, " +
				"kg\nL6,2026-07-09,0.0\nL2,2026-09-04,4.0\nL5,2026-10-07,5.0\nL4,2026-09-06,6.0\n" +
				"L1,2026-07-03,10.0\nL3,2026-07-05,25.0\n"},
	} {
		c.view.Of = "intake"
		if got := grid(t, sheetOf(t, c.view, ask.Changes{})); got != c.want {
			t.Errorf("%s: got\n%swant\n%s", name, got, c.want)
		}
	}
}

// TestWindowsGiveWhatTheirExamplesSay computes the examples of the functions
// that look at the groups around, over the districts of the documentation.
func TestWindowsGiveWhatTheirExamplesSay(t *testing.T) {
	list := []delivery{{"L-1", "all", "Hollin", 20700, 295, 520}, {"L-2", "all", "Marr", 20704, 205, 620},
		{"L-3", "all", "Hollin", 20727, 100, 496}}
	tried := 0
	for _, f := range formula.Functions {
		example := strings.ReplaceAll(f.Example, "net_kg", "kg")
		parsed, err := formula.Parse(example, formula.Scope{Columns: intake.Schema()})
		if err != nil || len(parsed.Windows) == 0 {
			continue
		}
		v := report.View{Of: "intake", Show: report.Table, Open: -1, Levels: []string{"district"}, Columns: []string{"kg"}}
		s, err := Lay(t.Context(), frameOf(t, &intake, 2, list), &intake, &v,
			ask.Changes{Add: []string{"Window = " + example}},
			setting)
		if err != nil {
			t.Fatal(err)
		}
		lines, err := s.Read(t.Context(), 0, 2)
		if err != nil {
			t.Fatal(err)
		}
		want := strings.Split(f.Gives, ", ")
		for i, l := range lines {
			got := l.Cells[1]
			if l.Cells[1].Null != (want[i] == "") || !got.Null && !sameNumber(got.String(), want[i]) {
				t.Errorf("%s of %s is %s, not %s", f.Example, l.Key, got, want[i])
			}
		}
		tried++
	}
	if tried != 4 {
		t.Errorf("%d windows were tried", tried)
	}
}

// sameNumber compares numbers to the fewer places of both.
func sameNumber(a, b string) bool {
	n := min(len(a), len(b)) - 1
	return a[:n] == b[:n]
}

func TestSpansOfATimeline(t *testing.T) {
	v := report.View{
		Of:      "intake",
		Show:    report.Timeline,
		Start:   "received",
		End:     "received",
		Label:   "lot",
		Columns: []string{"lot"},
	}
	s := sheetOf(t, v, ask.Changes{Filters: []string{"region=North"}})
	lines, err := s.Read(t.Context(), 0, 4)
	if err != nil {
		t.Fatal(err)
	}
	spans, from, to, err := s.Spans(t.Context(), lines)
	if err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(spans, from, to); got != "[[2026-07-03 2026-07-03] [2026-09-04 2026-09-04] [2026-09-06 "+
		"2026-09-06] [2026-07-09 2026-07-09]] 2026-07-03 2026-09-06" {
		t.Errorf("got %s", got)
	}
}

func TestPathsSurviveAnyText(t *testing.T) {
	for _, text := range []string{"a/b", "~", "~rest", "", "x y", "ü%2F", "?&#"} {
		v := frame.Value{Kind: frame.Text, Text: text}
		path := ready.Path([]frame.Value{v, {Null: true}})
		if strings.Count(path, "/") != 1 || !strings.HasSuffix(path, "/~") || strings.HasPrefix(path, "~") && text != "" ||
			path == "/~" {
			t.Errorf("%q has the path %q", text, path)
		}
		if back := ask.Unquoted(ask.Quoted(text)); !slices.Equal(back, []string{text}) {
			t.Errorf("%q is quoted %s and read back %q", text, ask.Quoted(text), back)
		}
	}
	if got := ask.Unquoted(" a ; 'b;''c' ;d"); !slices.Equal(got, []string{"a", "b;'c", "d"}) {
		t.Errorf("got %q", got)
	}
}
