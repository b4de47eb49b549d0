package keeping_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/library/capture"
	"mantilla/library/keeping"
	"mantilla/library/librarytest"
)

// TestAResultIsComparedWithItsDaysMoved compares a month with the one a year before, which is run for it,
// and says of a report without days that it cannot be.
func TestAResultIsComparedWithItsDaysMoved(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, librarytest.Berlin)))
	runa := librarytest.Person(t, l, "runa")
	of := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots",
		Typed: map[string]string{"received": "last month"}}).Result
	for moved, want := range map[string]string{
		"year before":     "From Received 1–30 September 2025;",
		"previous period": "From Received 1–31 August 2026;",
	} {
		run, err := runa.Keeping.Compare(t.Context(), keeping.Comparison{Before: keeping.Side{Result: of, Moved: moved},
			After: keeping.Side{Result: of}})
		if err != nil {
			t.Fatal(err)
		}
		if !strings.HasPrefix(run.Sentence, want) {
			t.Errorf("%s: %s", moved, run.Sentence)
		}
		librarytest.Ended(t, runa, run)
	}
	for _, c := range []struct {
		result    int64
		moved, is string
	}{
		{of, "yesteryear", "year before"},
		{librarytest.RunWell(t, runa, capture.Ask{Report: "stock-lines"}).Result, "year before",
			"no days that could be moved"},
	} {
		_, err := runa.Keeping.Compare(t.Context(), keeping.Comparison{Before: keeping.Side{Result: c.result, Moved: c.moved},
			After: keeping.Side{Result: c.result}})
		if err == nil || !strings.Contains(err.Error(), c.is) {
			t.Errorf("moved by %s: %v", c.moved, err)
		}
	}
}
