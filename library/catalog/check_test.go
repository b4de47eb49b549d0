package catalog_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/core/definition"
	"mantilla/library/librarytest"
)

// Everything that is wrong is told in one round, each at its place: of form, names, types,
// formulas, defaults, lists and the SQL of columns and conditions.
func TestAllFaultsAreToldAtOnce(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	lila := librarytest.SignIn(t, l, "lila")
	text := `report: keepers-check
title: Keepers
category: Members
depth: deep
about: Keepers of a unit.
source: coop
parameters:
  - {id: unit, type: unit, from: units, default: Nowhere}
  - {id: joined, type: range, default: last month}
  - {id: kind, type: choice, from: kinds}
datasets:
  keepers:
    from: keeper k
    where:
      - k.unit in :unit
      - k.joind between :joined.start and :joined.end
      - k.name = :nme
      - k.kind = :kind
    scope: k.unit
    keep: {in: engine}
    columns:
      - {id: name, is: k.name, type: text}
      - {id: number, is: k.nmber, type: text}
      - {id: hives, is: 1, type: whole}
      - {id: half, type: integer, formula: hivez / 2}
views:
  keepers: {of: keepers, columns: [name, hive]}
`
	_, err := lila.Catalog.CheckReport(t.Context(), []byte(text))
	var faults definition.Faults
	if !errors.As(err, &faults) {
		t.Fatalf("got %v", err)
	}
	for _, want := range []string{
		"line 4, column 8: \"deep\" is not allowed here", "line 8, column 1: the default of parameter unit",
		"line 10, column 1: parameter kind: ", "no such column: k.joind", "line 17, column 9: the SQL speaks of :nme",
		"dataset keepers is to stay in the engine, and the source coop keeps no results",
		"line 23, column 26: dataset keepers: the source does not accept the SQL of column number",
		"\"whole\" is not a column type", "\"hivez\" is not known here; did you mean hives?",
	} {
		if n := strings.Count(faults.Error(), want); n != 1 {
			t.Errorf("%q is told %d times in\n%v", want, n, faults)
		}
	}
	from := strings.Replace(text, "from: keeper k", "from: keepr k", 1)
	_, err = lila.Catalog.CheckReport(t.Context(), []byte(from))
	if !errors.As(err, &faults) || strings.Count(faults.Error(), "keepr") != 1 ||
		strings.Contains(faults.Error(), "k.joind") {
		t.Errorf("of a table that there is not: %v", err)
	}
}
