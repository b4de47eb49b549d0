package param

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"mantilla/core/fold"
	"mantilla/core/nearest"
	"mantilla/core/period"
)

// tree is a list of entries for tests.
type tree []Entry

var units = tree{
	{Code: "UF", Label: "Upper Fells", Kind: "region"},
	{Code: "UF-HOL", Label: "Hollin", Kind: "district", Parent: "UF"},
	{Code: "UF-MAR", Label: "Marr", Kind: "district", Parent: "UF"},
	{Code: "UF-HOL-01", Label: "Hollin Mill", Kind: "site", Parent: "UF-HOL"},
	{Code: "K-1", Label: "Aris Lingcombe"},
	{Code: "K-2", Label: "Aris Lingcombe"},
	{Code: "K-3", Label: "Ashby, Mora"},
}

func (t tree) Match(_ context.Context, list, typed string) (found []Entry, err error) {
	if list == "broken" {
		return nil, errors.New("the list cannot be read")
	}
	for _, e := range t {
		if fold.Text(e.Code) == fold.Text(typed) || fold.Text(e.Label) == fold.Text(typed) {
			found = append(found, e)
		}
	}
	return found, nil
}

func (t tree) Near(_ context.Context, _, typed string) (found []Entry, err error) {
	for _, e := range t {
		if len(nearest.Names(typed, []string{e.Label}, 1)) > 0 {
			found = append(found, e)
		}
	}
	return found, nil
}

// Out rules out the entries whose parent is not among the values of "parent".
func (t tree) Out(_ context.Context, _ string, codes []string, by map[string][]string) (out []string, err error) {
	for _, e := range t {
		if parents, narrowed := by["parent"]; narrowed && slices.Contains(codes, e.Code) &&
			!slices.Contains(parents, e.Parent) {
			out = append(out, e.Code)
		}
	}
	return out, nil
}

func (t tree) Below(_ context.Context, _ string, codes []string) ([]string, error) {
	all := slices.Clone(codes)
	for i := 0; i < len(all); i++ {
		for _, e := range t {
			if e.Parent == all[i] {
				all = append(all, e.Code)
			}
		}
	}
	return all, nil
}

var setting = Setting{Calendar: period.Calendar{Today: period.Date(2026, 10, 15)}, Lists: units}

func resolve(t *testing.T, p Parameter, typed string) (Value, Faults) {
	t.Helper()
	values, faults, err := Resolve(context.Background(), []Parameter{p}, map[string]string{p.ID: typed}, setting)
	if err != nil {
		t.Fatal(err)
	}
	return values[0], faults
}

func TestResolve(t *testing.T) {
	grades := []Entry{{Code: "A", Label: "Select"}, {Code: "B", Label: "Table"}, {Code: "C", Label: "Baking, light"}}
	cases := []struct {
		name          string
		p             Parameter
		typed         string
		resolved      string
		codes         []string
		says, refused string
	}{
		{name: "text", p: Parameter{Type: Text}, typed: " plain ", resolved: "plain", says: "thing “plain”"},
		{
			name:    "text too long",
			p:       Parameter{Type: Text, MaxLength: 3},
			typed:   "ábcd",
			refused: "has 4 characters; at most 3",
		},
		{name: "text pattern", p: Parameter{Type: Text, Pattern: `B\d+`}, typed: "B12", resolved: "B12", says: "thing “B12”"},
		{
			name:    "text pattern is of the whole",
			p:       Parameter{Type: Text, Pattern: `B\d+`},
			typed:   "xB12",
			refused: "must match",
		},
		{name: "integer", p: Parameter{Type: Integer, Measure: "days"}, typed: "90", resolved: "90", says: "thing 90 days"},
		{name: "integer with places", p: Parameter{Type: Integer}, typed: "9.5", refused: "a whole number is wanted"},
		{
			name:    "integer too small",
			p:       Parameter{Type: Integer, Min: "0"},
			typed:   "-1",
			refused: "below the smallest allowed, 0",
		},
		{
			name:     "decimal",
			p:        Parameter{Type: Decimal, Scale: 3, Measure: "kg"},
			typed:    "12.5",
			resolved: "12.500",
			says:     "thing 12.500 kg",
		},
		{
			name:    "decimal too large",
			p:       Parameter{Type: Decimal, Scale: 1, Max: "10.5"},
			typed:   "10.6",
			refused: "above the largest allowed, 10.5",
		},
		{
			name:    "decimal with too many places",
			p:       Parameter{Type: Decimal, Scale: 1},
			typed:   "1.25",
			refused: "more than 1 decimal places",
		},
		{name: "decimal that is none", p: Parameter{Type: Decimal, Scale: 1}, typed: "a lot", refused: "is not a number"},
		{name: "flag", p: Parameter{Type: Flag}, typed: "Yes", resolved: "yes", says: "thing: yes"},
		{name: "flag no", p: Parameter{Type: Flag}, typed: "0", resolved: "no", says: "thing: no"},
		{name: "flag that is none", p: Parameter{Type: Flag}, typed: "maybe", refused: "neither yes nor no"},
		{
			name:     "date",
			p:        Parameter{Type: Date},
			typed:    "today - 14 days",
			resolved: "2026-10-01",
			says:     "thing 1 October 2026",
		},
		{name: "date impossible", p: Parameter{Type: Date}, typed: "2026-02-30", refused: "February 2026 has 28 days"},
		{
			name:    "date too early",
			p:       Parameter{Type: Date, Min: "2026-10-01"},
			typed:   "2026-09-30",
			refused: "before the earliest day allowed, 1 October 2026",
		},
		{
			name:    "date too late",
			p:       Parameter{Type: Date, Max: "today + 1 month"},
			typed:   "2026-11-16",
			refused: "after the latest day allowed, 15 November 2026",
		},
		{
			name:     "range",
			p:        Parameter{Type: Range},
			typed:    "last month",
			resolved: "2026-09-01/2026-09-30",
			says:     "thing 1–30 September 2026",
		},
		{
			name:    "range too long",
			p:       Parameter{Type: Range, Longest: "1 month"},
			typed:   "2026-Q3",
			refused: "longer than the 1 month allowed",
		},
		{name: "range reversed", p: Parameter{Type: Range}, typed: "2026-03-31/2026-01-01", refused: "lies before the start"},
		{
			name:     "unit with below",
			p:        Parameter{Type: Unit, From: "units"},
			typed:    "hollin",
			resolved: "UF-HOL",
			codes:    []string{"UF-HOL", "UF-HOL-01"},
			says:     "district Hollin with everything below",
		},
		{
			name:     "several units",
			p:        Parameter{Type: Unit, From: "units", Many: true},
			typed:    "UF-MAR; Hollin Mill",
			resolved: "UF-MAR; UF-HOL-01",
			codes:    []string{"UF-MAR", "UF-HOL-01"},
			says:     "district Marr and site Hollin Mill",
		},
		{
			name:     "units of one kind",
			p:        Parameter{Type: Unit, From: "units", Many: true},
			typed:    "Marr;Hollin;marr",
			resolved: "UF-MAR; UF-HOL",
			codes:    []string{"UF-MAR", "UF-HOL", "UF-HOL-01"},
			says:     "districts Marr and Hollin with everything below",
		},
		{
			name:    "unknown unit",
			p:       Parameter{Type: Unit, From: "units"},
			typed:   "Holin",
			refused: `"Holin" is not known; did you mean Hollin (UF-HOL)`,
		},
		{
			name:    "two units where one goes",
			p:       Parameter{Type: Unit, From: "units"},
			typed:   "Hollin; Marr",
			refused: "takes one entry; 2 are given",
		},
		{
			name:     "entity by number",
			p:        Parameter{Type: Entity, From: "keepers"},
			typed:    "k-2",
			resolved: "K-2",
			codes:    []string{"K-2"},
			says:     "thing Aris Lingcombe (K-2)",
		},
		{
			name:    "entity by a name that two have",
			p:       Parameter{Type: Entity, From: "keepers"},
			typed:   "Aris Lingcombe",
			refused: "is the name of 2; use the number: Aris Lingcombe (K-1) or Aris Lingcombe (K-2)",
		},
		{
			name:     "entity with a comma in its name",
			p:        Parameter{Type: Entity, From: "keepers"},
			typed:    "Ashby, Mora",
			resolved: "K-3",
			codes:    []string{"K-3"},
			says:     "thing Ashby, Mora (K-3)",
		},
		{
			name:     "choice by label",
			p:        Parameter{Type: Choice, Options: grades},
			typed:    "select",
			resolved: "A",
			codes:    []string{"A"},
			says:     "thing Select",
		},
		{
			name:     "choices pasted",
			p:        Parameter{Type: Choice, Options: grades, Many: true},
			typed:    "A,Table\nBaking, light;",
			resolved: "A; B; C",
			codes:    []string{"A", "B", "C"},
			says:     "thing Select, Table and Baking, light",
		},
		{
			name:    "choices unknown, each named",
			p:       Parameter{Type: Choice, Options: grades, Many: true},
			typed:   "A, Tabel, Z",
			refused: `"Tabel" is not known; did you mean Table (B)?; "Z" is not known`,
		},
		{name: "nothing", p: Parameter{Type: Choice, Options: grades, All: "all grades"}, typed: "", says: "all grades"},
		{
			name:    "nothing where something is needed",
			p:       Parameter{Type: Range, Required: true},
			typed:   " ",
			refused: "Thing is needed; write days such as last month",
		},
	}
	for _, c := range cases {
		c.p.ID, c.p.Label = "thing", "Thing"
		v, faults := resolve(t, c.p, c.typed)
		if c.refused != "" {
			if len(faults) != 1 || !strings.Contains(faults[0].Message, c.refused) || faults[0].Parameter != "thing" {
				t.Errorf("%s: got %v, want a fault with %q", c.name, faults, c.refused)
			}
			continue
		}
		if len(faults) > 0 || v.Resolved() != c.resolved || !slices.Equal(v.Codes, c.codes) || v.Phrase() != c.says {
			t.Errorf("%s: got %q, codes %q, %q, %v; want %q, %q, %q", c.name, v.Resolved(), v.Codes, v.Phrase(), faults,
				c.resolved, c.codes, c.says)
		}
		if again, faults := resolve(t, c.p, v.Resolved()); len(faults) > 0 || again.Resolved() != v.Resolved() ||
			!slices.Equal(again.Codes, v.Codes) {
			t.Errorf("%s: the resolved %q reads back as %q, %v", c.name, v.Resolved(), again.Resolved(), faults)
		}
	}
}

func TestResolveTellsAllFaultsAtOnce(t *testing.T) {
	declared := []Parameter{{ID: "received", Label: "Received", Type: Range, Required: true},
		{ID: "unit", Label: "Unit", Type: Unit, From: "units"}, {ID: "days", Label: "Days", Type: Integer}}
	_, faults, err := Resolve(context.Background(), declared,
		map[string]string{"recieved": "x", "unit": "Nowhere", "days": "ten"}, setting)
	if err != nil {
		t.Fatal(err)
	}
	var at []string
	for _, f := range faults {
		at = append(at, f.Parameter)
	}
	if want := []string{"recieved", "received", "unit", "days"}; !slices.Equal(at, want) {
		t.Errorf("faults at %q, want %q: %v", at, want, faults)
	}
	if !strings.Contains(faults[0].Message, "did you mean received?") ||
		!slices.Equal(faults[0].Near, []string{"received"}) {
		t.Errorf("the misspelt name: %+v", faults[0])
	}
}

func TestResolveDefaults(t *testing.T) {
	declared := []Parameter{{ID: "days", Label: "Days", Type: Range, Default: "last month"}}
	for _, c := range []struct {
		typed map[string]string
		want  string
	}{{nil, "2026-09-01/2026-09-30"}, {map[string]string{"days": ""}, ""},
		{map[string]string{"days": "today"}, "2026-10-15/2026-10-15"}} {
		values, faults, err := Resolve(context.Background(), declared, c.typed, setting)
		if err != nil || len(faults) > 0 || values[0].Resolved() != c.want {
			t.Errorf("%v: got %q, %v, %v", c.typed, values[0].Resolved(), faults, err)
		}
	}
}

func TestResolveReportsABrokenList(t *testing.T) {
	_, _, err := Resolve(context.Background(), []Parameter{{ID: "u", Type: Unit, From: "broken"}},
		map[string]string{"u": "x"}, setting)
	if err == nil || !strings.Contains(err.Error(), "parameter u: the list cannot be read") {
		t.Errorf("got %v", err)
	}
}

func TestDescribe(t *testing.T) {
	declared := []Parameter{
		{ID: "received", Label: "Received", Type: Range},
		{ID: "unit", Label: "Unit", Type: Unit, From: "units", Many: true},
		{ID: "keeper", Label: "Keeper", Type: Entity, From: "keepers"},
		{ID: "grade", Label: "Grade", Type: Choice, Options: []Entry{{Code: "A", Label: "Select"}}, All: "all grades"},
	}
	values, _, err := Resolve(context.Background(), declared,
		map[string]string{"received": "2026-09", "unit": "Hollin; Marr"}, setting)
	if err != nil {
		t.Fatal(err)
	}
	if got, want := Describe(values), "Received 1–30 September 2026; districts Hollin and Marr with everything below; "+
		"all grades."; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
	if got := Describe(nil); got != "" {
		t.Errorf("nothing is described as %q", got)
	}
}

func TestCheckOfDeclarations(t *testing.T) {
	for _, c := range []struct {
		p   Parameter
		key string
	}{
		{Parameter{Type: "rnage"}, "type"},
		{Parameter{Type: Unit}, "from"},
		{Parameter{Type: Text, Options: []Entry{{Code: "A"}}}, "options"},
		{Parameter{Type: Choice, From: "x", Options: []Entry{{Code: "A"}}}, "options"},
		{Parameter{Type: Text, Many: true}, "many"},
		{Parameter{Type: Range, Longest: "a while"}, "longest"},
		{Parameter{Type: Text, Pattern: "("}, "pattern"},
	} {
		if wrong := c.p.Check(); wrong[c.key] == "" {
			t.Errorf("%+v: got %v, want a fault at %s", c.p, wrong, c.key)
		}
	}
	if wrong := (&Parameter{Type: Unit, From: "units", Many: true}).Check(); len(wrong) > 0 {
		t.Errorf("a right declaration is refused: %v", wrong)
	}
}

// FuzzResolve checks that whatever is typed is either refused or resolves to a
