package reading

import (
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/spf13/cobra"

	"mantilla/api"
)

func readingOf(t *testing.T, args ...string) Reading {
	t.Helper()
	var r Reading
	cmd := &cobra.Command{Use: "x", Run: func(*cobra.Command, []string) {}}
	r.Flags(cmd)
	cmd.SetArgs(args)
	if err := cmd.Execute(); err != nil {
		t.Fatal(err)
	}
	return r
}

func TestOptionsOfAReading(t *testing.T) {
	r := readingOf(t, "--group", "region, band(net_kg, 10, 20)", "--filter", "a=1;2", "--filter", "b~x,y", "--add",
		"X = round(a, 2)", "--open", "0", "--most", "5", "--names", "both", "--sort=-value")
	request, err := http.NewRequest(http.MethodGet, "http://x/?first=3", nil)
	if err != nil {
		t.Fatal(err)
	}
	if err := r.query(t.Context(), request); err != nil {
		t.Fatal(err)
	}
	q := request.URL.Query()
	for name, want := range map[string][]string{"group": {"region", "band(net_kg, 10, 20)"}, "filter": {"a=1;2", "b~x,y"},
		"add": {"X = round(a, 2)"}, "open": {"0"}, "most": {"5"},
		"names": {"both"}, "sort": {"-value"}, "first": {"3"}, "column": nil, "zeros": nil} {
		if !slices.Equal(q[name], want) {
			t.Errorf("%s: got %q, want %q", name, q[name], want)
		}
	}
	c := r.changes()
	if *c.Open != 0 || *c.Most != 5 || len(*c.Group) != 2 || c.Columns != nil || *c.Names != "both" || c.Zeros != nil {
		t.Errorf("kept as %+v", c)
	}
	if none := readingOf(t); len(none.Values()) != 0 || none.changes().Open != nil {
		t.Errorf("no options are %v", none.Values())
	}
	if zero := (Reading{}); len(zero.Values()) != 0 {
		t.Error("a command without options asks for something")
	}
}

func TestSplitOutside(t *testing.T) {
	for list, want := range map[string]string{"a": "a", "a, b": "a|b", "f(a, b), c": "f(a, b)|c", "'x,y', z": "'x,y'|z",
		"f(g(a,b),c)": "f(g(a,b),c)", "": ""} {
		if got := strings.Join(splitOutside(list), "|"); got != want {
			t.Errorf("%q: got %q", list, got)
		}
	}
}

func number(v float64) *float64 { return &v }

func text(s string) *string { return &s }

func TestBarsAreDrawn(t *testing.T) {
	chart := &api.Chart{Form: api.ChartFormBar, Y: api.Axis{Label: "kg"}}
	chart.Places = append(chart.Places, struct {
		Name string `json:"name"`
		Path string `json:"path"`
	}{"North", "North"}, struct {
		Name string `json:"name"`
		Path string `json:"path"`
	}{"South", "South"})
	chart.Series = []api.Series{{
		Label:  "kg",
		Values: []*float64{number(10), number(-5)},
		Texts:  []*string{text("10.0"), text("−5.0")},
	}}
	var b strings.Builder
	if err := drawChart(&b, chart, 40); err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(b.String(), "\n")
	if strings.Count(lines[0], "█") < 2*strings.Count(lines[1], "█")-1 || !strings.HasPrefix(lines[1], "South  −5.0  █") ||
		!strings.HasPrefix(lines[0], "North  10.0         ") || lines[2] != "· kg" {
		t.Errorf("drawn as\n%s", b.String())
	}
}

func TestPointsAreDrawn(t *testing.T) {
	chart := &api.Chart{
		Form: api.ChartFormScatter,
		X:    api.Axis{Label: "Day"},
		Y:    api.Axis{Label: "kg"},
		Of:   9,
		Points: []api.Point{{X: 0, Y: 0, XText: "first", YText: "0"}, {X: 10, Y: 5, XText: "last", YText: "5"},
			{X: 10, Y: 5, XText: "last", YText: "5"}},
	}
	var b strings.Builder
	if err := drawChart(&b, chart, 60); err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(b.String(), "\n")
	if !strings.HasSuffix(lines[0], "•") || !strings.Contains(lines[15], "│·") || !strings.Contains(lines[17], "first") ||
		!strings.HasSuffix(lines[17], "last") || !strings.Contains(b.String(), "the first 3 of 9 points") {
		t.Errorf("drawn as\n%s", b.String())
	}
}

func TestTimelineAndFormAreDrawn(t *testing.T) {
	span := []string{"2026-01-11", "2026-01-20"}
	today := "2026-01-31"
	s := api.Sheet{Columns: []api.Column{{Id: "name", Heading: "Name", Under: text("Who")}, {Id: "kg", Heading: "Weight"}},
		Cells: [][]*string{{text("Hall"), nil}}, Marks: []api.LineMark{{Span: &span}},
		Blanks:   []string{"Seen by"},
		Timeline: &api.Timeline{From: "2026-01-01", To: "2026-01-30", Label: text("name"), Today: &today}}
	var b strings.Builder
	if err := drawTimeline(&b, s, 91); err != nil {
		t.Fatal(err)
	}
	if line := strings.Split(b.String(), "\n")[1]; !strings.HasPrefix(line, "Hall ") || strings.Count(line, "█") < 16 ||
		strings.Count(line, "█") > 20 {
		t.Errorf("drawn as\n%s", b.String())
	}
	b.Reset()
	if err := drawForm(&b, s); err != nil {
		t.Fatal(err)
	}
	if got := b.String(); !strings.HasPrefix(got, "Who\n  Name    Hall\n  Weight  –\n  Seen by") {
		t.Errorf("drawn as\n%s", got)
	}
}
