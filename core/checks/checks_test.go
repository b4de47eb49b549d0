package checks_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/core/checks"
	"mantilla/core/definition"
	"mantilla/core/frame/frametest"
	"mantilla/core/kept"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
)

const ledger = `report: ledger
title: Ledger
category: Accounts
depth: lines
about: Lines of journals, and their sums.
source: coop
datasets:
  lines:
    from: line
    columns:
      - {id: journal, is: line.journal, type: text}
      - {id: day, is: line.day, type: date}
      - {id: amount, is: line.cents, type: money, total: sum}
  sums:
    from: line
    columns:
      - {id: amount, is: sum(line.cents), type: money, total: sum}
views:
  lines: {of: lines}
  sums: {of: sums}
checks:
`

// read parses the ledger with checks.
func read(t *testing.T, text string) *report.Definition {
	t.Helper()
	d, faults := definition.Parse([]byte(ledger+text), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	return d
}

// of looks at checks over lines and one sum.
func of(t *testing.T, d *report.Definition, before map[string]checks.Outcome, sum int,
	lines ...[]any) []checks.Outcome {
	t.Helper()
	out, err := checks.Of(t.Context(), d, rowsOf(sum, lines), setting(), before)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// was is a run before in which the check a came to a figure.
func was(figure string) map[string]checks.Outcome {
	return map[string]checks.Outcome{"a": {ID: "a", Of: "lines: sum(amount)", Figure: figure}}
}

func rowsOf(sum int, lines [][]any) checks.Rows {
	return func(_ context.Context, set *report.Dataset) (table.Table, error) {
		if set.ID == "sums" {
			return kept.Of(frametest.Rows(set.Schema(), 8, []any{sum}), table.Fresh{}), nil
		}
		return kept.Of(frametest.Rows(set.Schema(), 2, lines...), table.Fresh{}), nil
	}
}

func setting() ready.Setting {
	return ready.Setting{Calendar: period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), time.UTC, time.January),
		Cache: table.Fresh{}}
}

func TestChecks(t *testing.T) {
	lines := [][]any{{"J1", 20_000, 500}, {"J1", 20_000, -500}, {"J2", 20_001, 300}, {"J2", 20_001, -299},
		{"J3", nil, 7}, {nil, nil, 1}}
	for _, c := range []struct{ check, state, says string }{
		{"{id: a, of: lines, holds: count(*) >= 1, say: No rows.}", "held", "It holds."},
		{"{id: a, of: lines, holds: count(*) > 6, say: Too few.}", "broken", "Too few."},
		{"{id: a, of: lines, each: [journal], holds: sum(amount) = 0, say: A journal does not balance.}", "broken",
			"A journal does not balance. It does not hold of J2; J3; (empty)."},
		{"{id: a, of: lines, each: [journal, day], holds: sum(amount) <> 0.01, say: One left.}", "broken",
			"One left. It does not hold of J2 › 5 Oct 2024; (empty) › (empty)."},
		{"{id: a, of: lines, holds: sum(case when amount > 1000 then amount end) > 0, say: None.}", "untold",
			"a figure in it has no value"},
		{"{id: a, with: {parts: {of: lines, is: sum(amount)}, whole: {of: sums, is: sum(amount)}}, holds: parts = whole, " +
			"say: They differ.}", "broken", "They differ. It does not hold of parts = 0.09; whole = 0.10."},
		{"{id: a, with: {parts: {of: lines, is: sum(amount)}}, holds: parts between 0 and 1, say: Far.}", "held",
			"It holds."},
		{"{id: a, of: lines, figure: sum(amount), within: 12.5, say: Far.}", "held",
			"It holds: 0.09, and 0.08 in the run before."},
		{"{id: a, of: lines, figure: sum(amount), within: 12.4, say: Far.}", "broken",
			"Far. It is 0.09 and was 0.08 in the run before."},
		{"{id: new, of: lines, figure: sum(amount), within: 20, say: Far.}", "untold",
			"there is no run before with the same values"},
		{"{id: a, of: lines, figure: count(*), within: 20, say: Far.}", "untold",
			"the run before has another figure, lines: sum(amount)"},
	} {
		got := of(t, read(t, "  - "+c.check+"\n"), was("0.08"), 10, lines...)
		if len(got) != 1 || string(got[0].State) != c.state || got[0].Says() != c.says {
			t.Errorf("%s\n is %s: %s", c.check, got[0].State, got[0].Says())
		}
	}
}

// A figure before that was negative, or nothing, is compared by its size.
func TestWithinOfWhatWas(t *testing.T) {
	d := read(t, "  - {id: a, of: lines, figure: sum(amount), within: 20, say: Far.}\n")
	for _, c := range []struct {
		before string
		now    int
		want   checks.State
	}{
		{"-1.00", -120, checks.Held}, {"-1.00", -121, checks.Broken}, {"-1.00", 100, checks.Broken},
		{"0.00", 0, checks.Held}, {"0.00", 1, checks.Broken}, {"1.00", 80, checks.Held}, {"1.00", 79, checks.Broken},
	} {
		if got := of(t, d, was(c.before), 0, []any{"J", 1, c.now}); got[0].State != c.want {
			t.Errorf("%d cents after %s is %s", c.now, c.before, got[0].State)
		}
	}
}

// Many groups are counted, and a few told by name.
func TestManyGroupsAreCounted(t *testing.T) {
	var lines [][]any
	for i := range 30 {
		lines = append(lines, []any{fmt.Sprintf("J%02d", i), 1, i % 2})
	}
	d := read(t, "  - {id: a, of: lines, each: [journal], holds: sum(amount) = 0, else: fail, say: Off.}\n")
	got := of(t, d, nil, 0, lines...)
	if want := "Off. It does not hold of 15 groups, such as J01; J03; J05; J07; J09."; got[0].Says() != want {
		t.Errorf("it says %s", got[0].Says())
	}
	if f := checks.Failed(got); f == nil || f.ID != "a" {
		t.Error("a check that fails the run does not")
	}
	if checks.Marks(got) {
		t.Error("a check that fails the run marks it")
	}
}

// A check that does not hold ends with the context, rather than telling something.
func TestChecksEndWithTheirContext(t *testing.T) {
	ctx, cancel := context.WithCancelCause(t.Context())
	gone := errors.New("the reader left")
	cancel(gone)
	d := read(t, "  - {id: a, of: lines, holds: count(*) > 6, say: Too few.}\n")
	if _, err := checks.Of(ctx, d, rowsOf(1, [][]any{{"J", 1, 1}}), setting(), nil); !errors.Is(err, gone) {
		t.Errorf("it ends with %v", err)
	}
}

func TestExpectations(t *testing.T) {
	d := read(t, "  - {id: a, of: lines, holds: count(*) > 0, say: None.}\n")
	lines := [][]any{{"J1", 20_000, 500}, {"J2", 20_002, -250}}
	figures := []report.Figured{{Of: "lines", Is: "sum(amount)", Equals: "2.5"},
		{Of: "lines", Is: "sum(amount)", Equals: "2.51"},
		{Of: "lines", Is: "max(day)", Equals: "2024-10-06"}, {Of: "lines", Is: "count(*) = 2", Equals: "true"},
		{Of: "lines", Is: "sum(case when amount > 9000 then 1 end)", Equals: "null"},
		{Of: "lines", Is: "sum(amount)", Equals: "2,50"}, {Of: "none", Is: "count(*)", Equals: "0"}}
	got, err := checks.Expect(t.Context(), d, rowsOf(0, lines), setting(), figures)
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, c := range got {
		said = append(said, fmt.Sprint(c.Got, " ", c.Same, " ", c.Why != ""))
	}
	want := "2.50 true false; 2.50 false false; 2024-10-06 true false; yes true false; null true false; 2.50 false true;" +
		"  false true"
	if strings.Join(said, "; ") != want {
		t.Errorf("got  %s\nwant %s", strings.Join(said, "; "), want)
	}
}
