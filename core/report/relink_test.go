package report

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
