package formula_test

import (
	"testing"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/table"
)

func init() { formula.Aggregated = aggregated }

func aggregated(t testing.TB, rows *frame.Frame, a formula.Aggregate) frame.Vector {
	t.Helper()
	field := a.Of.Field
	field.Name = "argument"
	with := kept.Of(rows, table.Fresh{}).With([]table.Computed{{Field: field, Formula: a.Of, Key: "argument"}})
	m := table.Measure{Column: len(with.Schema()) - 1, Op: a.Op, Percent: a.Percent}
	g, err := with.Groups(t.Context(), table.Where{}, nil, []table.Measure{m})
	if err != nil {
		t.Fatal(err)
	}
	return g.Levels[0].Figures[0]
}
