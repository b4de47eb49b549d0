package definition

import (
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/report"
)

var good = read("lots.yaml")

// read reads a definition of the tests.
func read(name string) string {
	text, err := os.ReadFile(filepath.Join("testdata", name))
	if err != nil {
		panic(err)
	}
	return string(text)
}

func parse(t *testing.T, text string) *report.Definition {
	t.Helper()
	d, faults := Parse([]byte(text), Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	return d
}

func TestParse(t *testing.T) {
	d := parse(t, good)
	if d.ID != "lots-of-day" || len(d.Parameters) != 3 || d.Parameters[1].Options[0].Code != "A" ||
		d.Parameters[0].Label != "Received" {
		t.Errorf("read as %+v", d)
	}
	if d.Limits.Rows != 1000 || d.Limits.Time.Seconds() != 90 || d.Limits.AfterCrash != "again" {
		t.Errorf("limits %+v", d.Limits)
	}
	want := frame.Schema{{Name: "lot_no", Kind: frame.Text}, {Name: "net_kg", Kind: frame.Decimal, Scale: 3},
		{Name: "value", Kind: frame.Money, Scale: 2, Currency: "EUR"}, {Name: "fee", Kind: frame.Money, Currency: "JPY"}}
	if got := d.Dataset("lots").Schema(); !reflect.DeepEqual(got, want) {
		t.Errorf("schema %v, want %v", got, want)
	}
	if got := d.View("lots").Sort; !slices.Equal(got,
		[]frame.Key{{Column: "net_kg", Descending: true}, {Column: "lot_no"}}) {
		t.Errorf("sort %v", got)
	}
	if !slices.Equal(d.Page, []string{"lots", "short"}) || d.View("short").Empty != "omit" ||
		d.View("lots").Title != "Lots" {
		t.Errorf("page %v, views %+v", d.Page, d.Views)
	}
	if line := d.ParameterLine("grade"); line != 9 {
		t.Errorf("grade is declared on line %d", line)
	}
}

// Each case changes the good definition and expects a fault at a place.
func TestParseRefuses(t *testing.T) {
	cases := []struct{ name, from, to, place, says string }{
		{"not YAML", "title: Lots", "title: [", "line", "not YAML"},
		{"unknown key", "title: Lots", "titel: Lots", "line 2, column 1", `no key "titel"; did you mean title?`},
		{"missing key", "about: Every lot.\n", "", "line 1, column 1", `lacks the key "about"`},
		{"repeated key", "depth: lines", "depth: lines\ndepth: lines", "line 5, column 1", `twice`},
		{"bad id", "report: lots-of-day", "report: Lots", "line 1, column 9", "is not an id"},
		{"bad depth", "depth: lines", "depth: deep", "line 4, column 8", "overview, breakdown or lines"},
		{"bad parameter type", "type: flag", "type: flog", "line 10, column 17", "is not a parameter type"},
		{"parameter that nothing uses", ":heavy", "1", "line 10, column 5", "parameter heavy is not used"},
		{"name that is no parameter", "in :grade", "in :grades", "line 16, column 9",
			":grades, which is not a parameter; did you mean grade?"},
		{"range without its part", ":received.end", ":received", "line 15, column 9",
			"write :received.start or :received.end"},
		{"part of what has none", "in :grade", "in :grade.start", "line 16, column 9", "has no part"},
		{"bad column type", "type: text, label", "type: txt, label", "line 20, column 38", "is not a column type"},
		{"decimal without places", "scale: 3, ", "", "line 21, column 9", "lacks its number of places"},
		{"places of what has none", "type: text, label", "type: text, scale: 2, label", "line 20, column 9",
			"only a decimal has a scale"},
		{"total that does not fit", "type: text, label", "type: text, total: sum, label", "line 20, column 50", "has no sum"},
		{"unknown total", "total: sum}\n      - {id: value", "total: som}\n      - {id: value", "line 21", "is not a total"},
		{"unknown currency", "currency: JPY", "currency: Honey", "line 23, column 9", "not an ISO 4217"},
		{"column twice", "{id: fee,", "{id: value,", "line 23, column 9", "twice"},
		{"key that is no column", "key: lot_no", "key: lot", "line 18, column 5", "not a column of dataset lots"},
		{"link from no column", "with: {lot: lot_no", "with: {lot: lotno", "line 20", `"lotno", which is not a column`},
		{"link from no parameter", "':received'", "':recieved'", "line 20", "which is not a parameter"},
		{"view of no dataset", "{of: lots, sort", "{of: lot, sort", "line 25, column 9", "did you mean lots?"},
		{"view of no column", "[lot_no, net_kg]", "[lot_no, kg]", "line 26, column 10", "did you mean net_kg?"},
		{"sort by no column", "[-net_kg, lot_no]", "[-weight]", "line 25, column 9", "sorts by the column"},
		{"page of no view", "limits:", "page: [lotz]\nlimits:", "line 27, column 8", "did you mean lots?"},
		{"bad limit", "rows: 1_000", "rows: many", "line 27, column 16", "not a whole number"},
		{"bad time", "time: 90s", "time: soon", "line 27, column 29", "not a length of time"},
	}
	for _, c := range cases {
		text := strings.Replace(good, c.from, c.to, 1)
		if text == good {
			t.Fatalf("%s: nothing was changed", c.name)
		}
		d, faults := Parse([]byte(text), Defaults{Currency: "EUR"})
		found := slices.ContainsFunc(faults, func(f Fault) bool {
			return strings.HasPrefix(f.String(), c.place) && strings.Contains(f.Message, c.says)
		})
		if !found || d != nil {
			t.Errorf("%s: got\n%v\nwant %s: … %s", c.name, faults, c.place, c.says)
		}
	}
}

func TestParseListsAllFaults(t *testing.T) {
	text := good
	for _, change := range [][2]string{{"depth: lines", "depth: deep"}, {"in :grade", "in :grad"},
		{"type: flag", "type: flog"}, {"scale: 3, ", ""}, {"sort: [-net_kg", "sort: [-netkg"}} {
		text = strings.Replace(text, change[0], change[1], 1)
	}
	_, faults := Parse([]byte(text), Defaults{Currency: "EUR"})
	var lines []int
	for _, f := range faults {
		if f.Column < 1 {
			t.Errorf("no column: %v", f)
		}
		lines = append(lines, f.Line)
	}
	// Not 9: that grade is now used by nothing follows from the slip on line 16.
	if want := []int{4, 10, 16, 21, 25}; !slices.Equal(lines, want) {
		t.Errorf("faults on lines %v, want %v:\n%v", lines, want, faults)
	}
}

// A name that is wrong is told once, with all its places, and what follows from it is
// not told.
func TestOneWrongNameIsOneFault(t *testing.T) {
	text := strings.Replace(good, "{id: net_kg,", "{id: nett_kg,", 1)
	if strings.Count(text, "net_kg") < 2 {
		t.Fatal("the definition speaks of net_kg once")
	}
	_, faults := Parse([]byte(text), Defaults{Currency: "EUR"})
	if len(faults) != 1 || !strings.Contains(faults[0].Message, "did you mean nett_kg?; also in line 26") {
		t.Errorf("got\n%v", faults)
	}
}

// A shared parameter that there is not is one fault, however it is used.
func TestAnUnknownSharedParameterIsOneFault(t *testing.T) {
	text := strings.Replace(good, "{id: received, type: range, required: true, default: last month}",
		"{use: recieved, label: Taken in}", 1)
	text = strings.ReplaceAll(strings.ReplaceAll(text, ":received", ":recieved"), "days: ':received'", "days: ':recieved'")
	shared, faults := ParseShared([]byte("parameters: [{id: received, type: range}]\n"))
	if faults != nil {
		t.Fatal(faults)
	}
	if _, faults := Parse([]byte(text), Defaults{Currency: "EUR", Shared: shared}); len(faults) != 1 ||
		!strings.Contains(faults[0].Message, `there is no shared parameter "recieved"; did you mean received?`) {
		t.Errorf("got\n%v", faults)
	}
}

// What is right of a definition can be asked of its source beside the faults.
func TestWhatIsRightIsReadBesideFaults(t *testing.T) {
	for _, c := range []struct {
		from, to                        string
		parameters, conditions, columns int
	}{
		{"type: flag", "type: flog", 2, 2, 4},
		{"scale: 3, ", "", 3, 3, 3},
		{"in :grade", "in :grad", 3, 2, 4},
		{"sort: [-net_kg", "sort: [-netkg", 3, 3, 4},
	} {
		d, faults := Read([]byte(strings.Replace(good, c.from, c.to, 1)), Defaults{Currency: "EUR"})
		if len(faults) != 1 || d == nil {
			t.Errorf("%s: %v, %v", c.to, d, faults)
			continue
		}
		set := d.Datasets[0]
		if got := [3]int{len(d.Parameters), len(set.Where), len(set.Columns)}; got != [3]int{c.parameters, c.conditions,
			c.columns} {
			t.Errorf("%s: %v parameters, conditions, columns are left", c.to, got)
		}
	}
	sourceless := strings.Replace(good, "source: coop\n", "", 1)
	if d, faults := Read([]byte(sourceless), Defaults{}); d != nil || len(faults) == 0 {
		t.Errorf("without a source: %v, %v", d, faults)
	}
	// As many wrong columns as a file may have are told of in a moment.
	var many strings.Builder
	head, _, _ := strings.Cut(good, "      - {id: lot_no")
	many.WriteString(head)
	for i := range 5000 {
		fmt.Fprintf(&many, "      - {id: c%d, is: x, type: wrong}\n", i)
	}
	if _, faults := Read([]byte(many.String()+"views: {lots: {of: lots}}\n"), Defaults{}); len(faults) < 5000 {
		t.Errorf("%d faults of 5000 columns", len(faults))
	}
	long := good + "# " + strings.Repeat("x", MostText)
	if d, faults := Read([]byte(long), Defaults{}); d != nil || len(faults) != 1 ||
		!strings.Contains(faults[0].Message, "at most 1048576") {
		t.Errorf("a text that is too long: %v", faults)
	}
}

func TestVersionIsOfTheContent(t *testing.T) {
	first := parse(t, good).Version
	same := []string{
		"# a comment\n" + good,
		strings.Replace(good, "title: Lots\ncategory: Intake", "category:   Intake\ntitle: 'Lots'", 1),
	}
	for _, text := range same {
		if v := parse(t, text).Version; v != first {
			t.Errorf("the version changed with the form:\n%s", text)
		}
	}
	other := []string{
		strings.Replace(good, "title: Lots", "title: All lots", 1),
		strings.Replace(good, "scale: 3", "scale: 2", 1),
		strings.Replace(good, "  lots: {of: lots, sort: [-net_kg, lot_no]}\n  short: {title: In short, of: lots, columns: "+
			"[lot_no, net_kg], empty: omit}",
			"  short: {title: In short, of: lots, columns: [lot_no, net_kg], empty: omit}\n  lots: {of: lots, sort: [-net_kg, "+
				"lot_no]}", 1),
	}
	for _, text := range other {
		if v := parse(t, text).Version; v == first {
			t.Errorf("the version did not change with the content:\n%s", text)
		}
	}
	if len(first) != 64 {
		t.Errorf("the version %q is not a SHA-256", first)
	}
}

// FuzzParse checks that no text makes the reader fall over, and that what is
// refused is refused with places.
func FuzzParse(f *testing.F) {
	f.Add(good)
	f.Add("report: [a, b]\ndatasets: {x: 1}\nviews: 3")
	f.Add("a: &x [*x]")
	f.Fuzz(func(t *testing.T, text string) {
		d, faults := Parse([]byte(text), Defaults{Currency: "EUR"})
		if (d == nil) == (len(faults) == 0) {
			t.Errorf("got %v and %v", d, faults)
		}
	})
}
