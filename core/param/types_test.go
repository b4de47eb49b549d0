package param

import (
	"context"
	"strings"
	"testing"
	"time"

	"mantilla/core/period"
)

// berlin is the demo's day at noon, an hour before the last run's end.
func berlin(t testing.TB) period.Calendar {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	c := period.At(time.Date(2026, 10, 15, 10, 0, 0, 0, time.UTC), zone, time.April)
	c.Last = period.Last{At: time.Date(2026, 10, 14, 7, 30, 0, 0, time.UTC), Of: "your last good run"}
	return c
}

func resolveOne(t testing.TB, p Parameter, text string) (Value, *Fault) {
	t.Helper()
	p.ID = "p"
	if p.Label == "" {
		p.Label = "Chosen"
	}
	values, faults, err := Resolve(context.Background(), []Parameter{p}, map[string]string{"p": text},
		Setting{Calendar: berlin(t), Lists: units})
	if err != nil {
		t.Fatal(err)
	}
	if len(faults) > 0 {
		return values[0], &faults[0]
	}
	return values[0], nil
}

var columns = []Entry{{Code: "town", Label: "Town"}, {Code: "buyer", Label: "Buyer"}, {Code: "month", Label: "Month"}}

// TestTypes gives for each case of each type what it resolves to and how the
// sentence says it, or what the refusal says.
func TestTypes(t *testing.T) {
	for _, c := range []struct {
		p                        Parameter
		text, resolved, says, no string
	}{
		{Parameter{Type: Money, Scale: 2, Measure: "EUR"}, "12.5", "12.50", "chosen 12.50 EUR", ""},
		{Parameter{Type: Money, Scale: 2}, "12.505", "", "", "more than 2 decimal places"},
		{Parameter{Type: Money, Scale: 0, Measure: "JPY"}, "12.5", "", "", "a whole number is wanted"},
		{Parameter{Type: Range}, "last month", "2026-09-01/2026-09-30", "chosen 1–30 September 2026", ""},
		{Parameter{Type: Range, Compare: true}, "last month against year before", "2026-09-01/2026-09-30 against year before",
			"chosen 1–30 September 2026 against 1–30 September 2025", ""},
		{Parameter{Type: Range, Compare: true}, "2026-09 against last year",
			"2026-09-01/2026-09-30 against 2025-01-01/2025-12-31", "", ""},
		{Parameter{Type: Range}, "last month against year before", "", "", "is not a range of days"},
		{Parameter{Type: Range, Min: "2026-01-01"}, "2025-12-31/2026-01-05", "", "",
			"begins before the earliest day allowed, 1 January 2026"},
		{Parameter{Type: Range, Max: "today"}, "this month", "", "", "ends after the latest day allowed, 15 October 2026"},
		{Parameter{Type: Range, Longest: "2 weeks"}, "last month", "", "", "is 30 days, longer than the 2 weeks allowed"},
		{Parameter{Type: Range}, "since last run", "2026-10-14/2026-10-15",
			"chosen 14–15 October 2026, since your last good run", ""},
		{Parameter{Type: Range, Timed: true}, "since last run", "2026-10-14T07:30:00Z/2026-10-15T10:00:00Z",
			"chosen 14 October 2026 09:30 – 15 October 2026 12:00, since your last good run", ""},
		{Parameter{Type: Range, Timed: true}, "2026-10-25 02:30/03:00", "2026-10-25T00:30:00Z/2026-10-25T02:00:00Z", "", ""},
		{Parameter{Type: Range, Timed: true}, "2026-03-29 02:30/03:00", "", "", "the clocks skip 02:30"},
		{Parameter{Type: Ranges, Timed: true}, "2026-10-02; 2026-10-01 06:00/12:00",
			"2026-10-01T04:00:00Z/2026-10-01T10:00:00Z; 2026-10-01T22:00:00Z/2026-10-02T22:00:00Z",
			"chosen 1 October 2026 06:00–12:00 and 2 October 2026", ""},
		{Parameter{Type: Ranges}, "2026-10-01/2026-10-03; 2026-10-03/2026-10-04", "", "", "overlap; change one of them"},
		{Parameter{Type: Ranges, Adjoining: true}, "2026-01; 2026-03", "", "", "there is a gap between 2026-01 and 2026-03"},
		{Parameter{Type: Ranges, Adjoining: true}, "2026-02; 2026-01",
			"2025-12-31T23:00:00Z/2026-01-31T23:00:00Z; 2026-01-31T23:00:00Z/2026-02-28T23:00:00Z", "", ""},
		{Parameter{Type: Ranges}, "2026-01; 2026-13", "", "", "the range 2026-13: there is no month"},
		{Parameter{Type: Ranges}, " ; ", "", "", "is needed"},
		{Parameter{Type: Period, Grain: period.Months}, "last quarter", "2026-Q3", "chosen quarter 3 of 2026", ""},
		{Parameter{Type: Period, Grain: period.Months}, "2026-W36", "", "", "the data has one figure a month"},
		{Parameter{Type: Period, Grain: period.Months}, "2025/26", "2025/26", "chosen fiscal year 2025/26", ""},
		{Parameter{Type: Horizon, Measure: "months"}, "12 Month", "12", "chosen 12 months", ""},
		{Parameter{Type: Horizon, Measure: "months", Max: "60"}, "61", "", "", "above the largest allowed, 60"},
		{Parameter{Type: Horizon, Measure: "months"}, "3 weeks", "", "", "is counted in months; write it as 3 months"},
		{Parameter{Type: Horizon, Measure: "months"}, "0", "", "", "0 is not a count"},
		{Parameter{Type: Horizon, Measure: "months"}, "1.5", "", "", "a whole number is wanted"},
		{Parameter{Type: Newest, Label: "changes"}, "25", "25", "the last 25 changes", ""},
		{Parameter{Type: Codes, From: "units"}, "UF..UF-MAR", "UF..UF-MAR", "chosen Upper Fells (UF) to Marr (UF-MAR)", ""},
		{Parameter{Type: Codes, From: "units"}, "K-3", "K-3..K-3", "", ""},
		{Parameter{Type: Codes, From: "units"}, "UF-MAR..UF", "", "", "UF-MAR comes after UF; write the smaller code first"},
		{Parameter{Type: Codes, From: "units"}, "UF..Mar", "", "", `"Mar" is not known; did you mean Marr (UF-MAR)?`},
		{Parameter{Type: Grouping, Options: columns}, "month; Town", "month; town", "by month, then by town", ""},
		{Parameter{Type: Grouping, Options: columns}, "month, month", "", "", "the column month is given twice"},
		{Parameter{Type: Columns, Options: columns}, "buyers", "", "", `there is no column "buyers"; choose buyer`},
		{Parameter{Type: Columns, Options: columns}, "x9", "", "", "choose town, buyer or month"},
		{Parameter{Type: Columns, Options: columns}, "buyer;town", "buyer; town", "chosen: Buyer and Town", ""},
		{Parameter{Type: Choice, Many: true, Options: []Entry{{Code: "A", Label: "Select"}, {Code: "B", Label: "Table"}}},
			"a\ntable; Tabel, Zqx", "", "",
			`"Tabel" is not known; did you mean Table (B)?; "Zqx" is not known; choose from the list`},
		{Parameter{Type: Flag, Default: "no"}, "no", "no", "", ""},
		{Parameter{Type: Flag, Default: "no"}, "yes", "yes", "chosen: yes", ""},
	} {
		v, fault := resolveOne(t, c.p, c.text)
		switch {
		case c.no != "":
			if fault == nil || !strings.Contains(fault.Message, c.no) {
				t.Errorf("%s %q: got %q, %+v; want a refusal with %q", c.p.Type, c.text, v.Resolved(), fault, c.no)
			}
		case fault != nil || v.Resolved() != c.resolved || c.says != "" && v.Phrase() != c.says:
			t.Errorf("%s %q: got %q, %q, %+v; want %q, %q", c.p.Type, c.text, v.Resolved(), v.Phrase(), fault, c.resolved,
				c.says)
		default:
			again, fault := resolveOne(t, c.p, v.Resolved())
			if fault != nil || again.Resolved() != v.Resolved() {
				t.Errorf("%s %q: its fact reads back as %q, %+v", c.p.Type, c.text, again.Resolved(), fault)
			}
		}
	}
}

func TestLockedAndHidden(t *testing.T) {
	p := Parameter{Type: Range, Locked: true, Default: "last month"}
	if v, fault := resolveOne(t, p, "2026-09-01/2026-09-30"); fault != nil || v.Range.Days() != 30 {
		t.Errorf("what it is locked at, as a fact: %+v", fault)
	}
	if _, fault := resolveOne(t, p, "2026-08"); fault == nil ||
		!strings.Contains(fault.Message, "is locked at last month") {
		t.Errorf("another value: %+v", fault)
	}
	hidden := Parameter{Type: Text, Hidden: true, Default: "x", All: "anything"}
	if v, _ := resolveOne(t, hidden, "x"); v.Phrase() != "" {
		t.Errorf("the sentence says a hidden default: %q", v.Phrase())
	}
	if v, _ := resolveOne(t, hidden, "y"); v.Phrase() == "" {
		t.Error("the sentence hides what a link filled in")
	}
}

func TestOwnDefaultsComeBeforeTheDeclared(t *testing.T) {
	declared := []Parameter{{ID: "a", Label: "A", Type: Text, Default: "declared"},
		{ID: "b", Label: "B", Type: Text, Default: "declared", Locked: true}}
	values, faults, err := Resolve(context.Background(), declared, nil,
		Setting{Own: map[string]string{"a": "own", "b": "own"}})
	if err != nil || faults != nil || values[0].Text != "own" || values[1].Text != "declared" {
		t.Errorf("%+v, %v, %v", values, faults, err)
	}
}

// TestDependence narrows sites by a district that is declared after them.
func TestDependence(t *testing.T) {
	declared := []Parameter{
		{ID: "site", Label: "Site", Type: Choice, Many: true, From: "units", By: map[string]string{"parent": "district"}},
		{ID: "district", Label: "District", Type: Choice, From: "units"},
	}
	resolve := func(typed map[string]string) Faults {
		_, faults, err := Resolve(context.Background(), declared, typed, Setting{Lists: units})
		if err != nil {
			t.Fatal(err)
		}
		return faults
	}
	if f := resolve(map[string]string{"site": "UF-HOL-01", "district": "Hollin"}); f != nil {
		t.Errorf("a site of the district: %v", f)
	}
	if f := resolve(map[string]string{"site": "UF-HOL-01"}); f != nil {
		t.Errorf("no district rules nothing out: %v", f)
	}
	f := resolve(map[string]string{"site": "UF-HOL-01; K-1", "district": "UF-MAR"})
	if len(f) != 1 || len(f[0].Dropped) != 2 || f[0].Rest != "" ||
		!strings.Contains(f[0].Message, "does not go with District") {
		t.Errorf("a site of another district: %+v", f)
	}
	if f := resolve(map[string]string{"site": "UF-HOL-01; K-1", "district": "Hollin"}); len(f) != 1 ||
		f[0].Rest != "UF-HOL-01" {
		t.Errorf("what is left is not told: %+v", f)
	}
}

func TestRecallNeedsNoLists(t *testing.T) {
	declared := []Parameter{{ID: "days", Type: Range, Compare: true}, {ID: "unit", Type: Unit, Many: true, From: "units"},
		{ID: "codes", Type: Codes, From: "units"}, {ID: "none", Type: Choice}}
	values := Recall(declared,
		map[string]string{"days": "2026-09-01/2026-09-30 against year before", "unit": "UF; UF-MAR", "codes": "A..B"},
		berlin(t))
	if len(values[0].Companions) != 1 || strings.Join(values[1].Codes, " ") != "UF UF-MAR" ||
		strings.Join(values[2].Codes, " ") != "A B" || values[3].Given {
		t.Errorf("recalled as %+v", values)
	}
}

// packedOne packs and unpacks a value.
func packedOne(t *testing.T, v Value) Value {
	t.Helper()
	text, err := Values{v}.Pack()
	if err != nil {
		t.Fatal(err)
	}
	again, err := Unpack([]Parameter{*v.Parameter}, text)
	if err != nil {
		t.Fatal(err)
	}
	return again[0]
}

func TestUnpackRefusesOtherParameters(t *testing.T) {
	text, err := Values{{Parameter: &Parameter{ID: "a", Type: Flag}}}.Pack()
	if err != nil {
		t.Fatal(err)
	}
	for says, declared := range map[string][]Parameter{`"a" where "b" is declared`: {{ID: "b"}},
		"of 1 parameters, and 2": {{ID: "a"}, {ID: "b"}}} {
		if _, err := Unpack(declared, text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("want %q, got %v", says, err)
		}
	}
	if _, err := Unpack(nil, []byte("{")); err == nil {
		t.Error("what is no JSON was unpacked")
	}
}

// FuzzResolve gives one text to every type: nothing may panic, and what is
// read reads back from its fact.
func FuzzResolve(f *testing.F) {
	for _, seed := range []string{"last month", "2026-10-25 02:30/03:00; today", "UF..UF-MAR", "12 months", "town; buyer",
		"2026-W53", "since last run or 2026", "-0.5", "2026-09 against year before and 2 years before"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for kind := range kinds {
			p := Parameter{Type: kind, Scale: 2, Measure: "months", Timed: kind == Ranges, Compare: kind == Range}
			switch kind {
			case Columns, Grouping:
				p.Options = columns
			case Unit, Entity, Choice, Codes:
				p.From, p.Many = "units", kind != Codes
			}
			v, fault := resolveOne(t, p, text)
			if fault != nil || !v.Given {
				continue
			}
			if again := packedOne(t, v); again.Resolved() != v.Resolved() || again.Phrase() != v.Phrase() {
				t.Errorf("%s %q is %q, %q, which is unpacked as %q, %q", kind, text, v.Resolved(), v.Phrase(), again.Resolved(),
					again.Phrase())
			}
			if again, fault := resolveOne(t, p, v.Resolved()); kind != Text &&
				(fault != nil || again.Resolved() != v.Resolved()) {
				t.Errorf("%s %q is %q, which reads back as %q, %+v", kind, text, v.Resolved(), again.Resolved(), fault)
			}
		}
	})
}
