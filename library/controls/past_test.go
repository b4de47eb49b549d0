package controls_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/library/controls"
	"mantilla/library/librarytest"
)

// TestOverwrittenControlsComeBack overwrites a run control twice, once by a librarian, pauses it,
// which overwrites nothing, and brings the first version back.
func TestOverwrittenControlsComeBack(t *testing.T) {
	ctx, l := t.Context(), librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	runa, lila, dora := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "lila"),
		librarytest.SignIn(t, l, "dora")
	first, err := runa.Controls.PutControl(ctx,
		librarytest.Control("weekly", func(c *controls.Control) { c.Title, c.Shared = "Weekly", "field" }))
	if err != nil {
		t.Fatal(err)
	}
	if past, err := runa.Controls.PastControls(ctx, "weekly"); err != nil || len(past) != 0 {
		t.Errorf("before it was overwritten: %+v, %v", past, err)
	}
	mistaken := first
	mistaken.Title, mistaken.Steps = "Oops", []controls.Step{{Report: "stock-lines"}}
	second, err := lila.Controls.PutControl(ctx, mistaken)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Controls.PutControl(ctx, second); err != nil { // as it was: nothing is overwritten
		t.Fatal(err)
	}
	past, err := runa.Controls.PastControls(ctx, "weekly")
	if err != nil || len(past) != 1 || past[0].Revision != first.Revision || past[0].ChangedBy != "runa" ||
		past[0].Title != "Weekly" || past[0].Steps[0].Report != "intake-lots" {
		t.Fatalf("%+v, %v", past, err)
	}
	if _, err := dora.Controls.PastControls(ctx, "weekly"); err == nil {
		t.Error("who may not change it sees what it was")
	}
	if _, err := dora.Controls.RestoreControl(ctx, "weekly", first.Revision); err == nil {
		t.Error("who may not change it brings it back")
	}
	if _, err := runa.Controls.RestoreControl(ctx, "weekly", 9); err == nil ||
		!strings.Contains(err.Error(), "no earlier version of revision 9") {
		t.Errorf("a revision that there is not: %v", err)
	}
	back, err := runa.Controls.RestoreControl(ctx, "weekly", first.Revision)
	if err != nil || back.Title != "Weekly" || !slices.EqualFunc(back.Steps, first.Steps,
		func(x, y controls.Step) bool { return x.Report == y.Report && x.View == y.View }) || back.Send == nil {
		t.Errorf("%+v, %v", back, err)
	}
	if past, err = runa.Controls.PastControls(ctx, "weekly"); err != nil || len(past) != 2 || past[0].Title != "Oops" ||
		past[0].ChangedBy != "lila" {
		t.Errorf("what was replaced is not kept in turn: %+v, %v", past, err)
	}
}
