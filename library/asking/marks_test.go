package asking_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/model"
)

func TestSinceLastRunBeginsWhereTheLastLookEnded(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	l := librarytest.WithPeople(t, now)
	runa := librarytest.Person(t, l, "runa")
	ask := func(changed, unit string) model.Run {
		t.Helper()
		return librarytest.RunWell(t, runa,
			capture.Ask{Report: "lot-changes", Typed: map[string]string{"changed": changed, "unit": unit}})
	}
	const since = "since last run or last 7 days"
	first := ask(since, "")
	if got := first.Facts[0].Resolved; got != "2026-10-07T22:00:00Z/2026-10-14T22:00:00Z" {
		t.Fatalf("the first look is of %s", got)
	}
	now.Set(now.Time().Add(2 * time.Hour))
	ask("2026-09", "")       // an earlier month moves nothing
	ask("today", "")         // nor does a range of one's own
	ask(since, "Hollin")     // nor other values
	second := ask(since, "") // from the end of the first, not from when it ran
	if got := second.Facts[0].Resolved; got != "2026-10-14T22:00:00Z/2026-10-15T12:00:00Z" {
		t.Errorf("the second look is of %s", got)
	}
	now.Set(now.Time().Add(time.Hour))
	if got := ask(since, "").Facts[0].Resolved; got != "2026-10-15T12:00:00Z/2026-10-15T13:00:00Z" {
		t.Errorf("the third look is of %s", got)
	}
	marks, err := runa.Asking.Marks(t.Context(), "lot-changes")
	if err != nil || len(marks) != 2 || marks[0].Of != "you" {
		t.Fatalf("%+v, %v", marks, err)
	}
	if others, err := librarytest.Person(t, l, "lila").Asking.Marks(t.Context(), "lot-changes"); err != nil ||
		len(others) != 0 {
		t.Errorf("lila sees %+v, %v", others, err)
	}
	back := time.Date(2026, 10, 1, 0, 0, 0, 0, librarytest.Berlin)
	if _, err := librarytest.Person(t, l, "lila").Asking.SetMark(t.Context(), marks[0].Number, back); err == nil {
		t.Error("lila moved runa's mark")
	}
	if _, err := runa.Asking.SetMark(t.Context(), marks[0].Number, back); err != nil {
		t.Fatal(err)
	}
	if got := ask(since, "").Facts[0].Resolved; !strings.HasPrefix(got, "2026-09-30T22:00:00Z/") {
		t.Errorf("set back, it is of %s", got)
	}
	marks, err = runa.Asking.Marks(t.Context(), "lot-changes")
	for _, m := range marks {
		err = errors.Join(err, runa.Asking.DeleteMark(t.Context(), m.Number))
	}
	if err != nil {
		t.Fatal(err)
	}
	if got := ask(since, "").Facts[0].Resolved; got != "2026-10-07T22:00:00Z/2026-10-14T22:00:00Z" {
		t.Errorf("forgotten, it is of %s", got)
	}
}
