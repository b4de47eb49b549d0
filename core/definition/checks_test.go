package definition

import (
	"strings"
	"testing"

	"mantilla/core/report"
)

// What is wrong with checks and expectations is told at its place, with the mend.
func TestFaultsOfChecks(t *testing.T) {
	for _, c := range []struct{ text, fault string }{
		{"checks: {id: a, of: lots, holds: sum(net_kg) > 0}", `the check lacks the key "say"`},
		{"checks: {id: a, of: lots, say: x}", "the check has holds: CONDITION, or figure: FORMULA with within"},
		{"checks: {id: a, of: lots, holds: sum(net_kg), say: x}", "sum(net_kg) is no condition; compare it"},
		{"checks: {id: a, of: lots, holds: sum(net_kgs) > 0, say: x}", "did you mean net_kg"},
		{"checks: {id: a, of: lot, holds: count(*) > 0, say: x}", `there is no dataset "lot"; did you mean lots?`},
		{"checks: {id: a, each: [distrikt], holds: count(*) > 0, say: x}", "did you mean district"},
		{"checks: {id: a, figure: sum(net_kg), say: x}", "within: 20"},
		{"checks: {id: a, figure: sum(net_kg), within: some, say: x}", `"some" is no percentage`},
		{"checks: {id: a, figure: count(*) > 3, within: 3, say: x}", "is a condition; a figure to compare"},
		{"checks: {id: a, holds: count(*) > 0, say: x, else: warn}", "use note, mark or fail"},
		{"checks: [{id: a, holds: count(*) > 0, say: x}, {id: a, holds: count(*) > 1, say: x}]",
			`there is a check "a" already`},
		{"checks: {id: a, with: {b: {of: lots, is: sum(net_kg)}}, holds: c > 0, say: x}", `"c" is not known here`},
		{"expected: {name: x, values: {recieved: 2026}, figures: {count(*): 1}}", "did you mean received"},
		{"expected: {name: x, figures: {count(x): 1}}", `"x" is not known here`},
		{"expected: {name: x}", `the expectation lacks the key "figures"`},
	} {
		_, faults := Parse([]byte(drawn+c.text+"\n"), Defaults{Currency: "EUR"})
		if len(faults) != 1 || !strings.Contains(faults.Error(), c.fault) {
			t.Errorf("%s\n gives %v", c.text, faults)
		}
	}
}

// A check without a dataset is of the only one; what it says is kept.
func TestChecksAreRead(t *testing.T) {
	d := parse(t, drawn+"checks: {id: a, figure: sum(net_kg), within: 2.5, else: mark, say: Far.}\n"+
		"expected: {name: One, values: {received: 2026-09, places: 2}, figures: {count(*): 12, 'max(received)': "+
		"2026-09-30}}\n")
	c := d.Checks[0]
	if c.Of != "lots" || c.Within != "2.5" || c.Else != report.MarkIt || c.Say != "Far." {
		t.Errorf("the check is %+v", c)
	}
	e := d.Expected[0]
	if e.Values["received"] != "2026-09" || e.Values["places"] != "2" || len(e.Figures) != 2 ||
		e.Figures[1] != (report.Figured{Of: "lots", Is: "max(received)", Equals: "2026-09-30"}) {
		t.Errorf("the expectation is %+v", e)
	}
}

func TestFormatMeansTheSame(t *testing.T) {
	untidy := "# what it is\nreport:   drawn\ntitle: Drawn   # said\n\n\ndatasets:\n      lots:\n          from: lot\n"
	even, faults := Format([]byte(untidy))
	if faults != nil {
		t.Fatal(faults)
	}
	if want := "# what it is\nreport: drawn\ntitle: Drawn # said\n\ndatasets:\n  lots:\n    from: lot\n"; even != want {
		t.Errorf("it is\n%s", even)
	}
	if again, _ := Format([]byte(even)); again != even {
		t.Errorf("once more it is\n%s", again)
	}
	before, after := parse(t, drawn), ""
	if after, faults = Format([]byte(drawn)); faults != nil {
		t.Fatal(faults)
	}
	if parse(t, after).Version != before.Version {
		t.Error("the text means something else now")
	}
	if _, faults = Format([]byte("report: [")); len(faults) != 1 {
		t.Errorf("what cannot be read gives %v", faults)
	}
}
