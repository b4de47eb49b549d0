package manuscript

import (
	"strings"
	"testing"
)

// Only what links to the report changes: not its name in a sentence, as an id, or in SQL.
func TestRelinked(t *testing.T) {
	text := `report: ages
title: lots # lots
companions: [lots, ages, lots]   # the lots
about: All lots é of lots.
datasets:
  lots:
    from: lots
    columns:
      - {id: lots, is: lots.lots, type: text, label: "é", opens: {report: lots, with: {lots: lots}}}
      - id: a
        is: lots.a
        type: text
        opens:
          report: 'lots'
          with: {report: lots}
views: {lots: {of: lots}}
`
	want := strings.NewReplacer("[lots, ages, lots]", "[heaps, ages, heaps]", "{report: lots,", "{report: heaps,",
		"report: 'lots'", "report: 'heaps'").Replace(text)
	if got := Relinked(text, "lots", "heaps"); got != want {
		t.Errorf("it is\n%s", got)
	}
	if got := Relinked("report: [", "lots", "heaps"); got != "report: [" {
		t.Errorf("what cannot be read becomes %s", got)
	}
}

// A shared parameter gets another id; the report goes on knowing it by its own.
func TestReused(t *testing.T) {
	text := `report: lots
parameters:
  - {use: unit, label: unit}
  - {id: place, use: unit}
  - use: unit   # the second
    label: Unit
  - {use: grade, by: {unit: unit}}
datasets: {lots: {where: [site in :unit]}}
`
	want := strings.NewReplacer("{use: unit, label", "{use: region, id: unit, label", "{id: place, use: unit}",
		"{id: place, use: region}", "use: unit   # the second", "use: region\n    id: unit   # the second").Replace(text)
	if got := Reused(text, "unit", "region"); got != want {
		t.Errorf("it is\n%s", got)
	}
	shared := "parameters:\n  - {id: unit, label: unit}\n  - {label: unit, id: grade}\n"
	want = "parameters:\n  - {id: region, label: unit}\n  - {label: unit, id: grade}\n"
	if got := Redeclared(shared, "unit", "region"); got != want {
		t.Errorf("they are\n%s", got)
	}
	for _, odd := range []string{"", "[", "parameters: none", "- a"} {
		if got := Reused(Redeclared(odd, "unit", "region"), "unit", "region"); got != odd {
			t.Errorf("%q becomes %q", odd, got)
		}
	}
}
