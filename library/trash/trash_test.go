package trash_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// thrown is what is in a person's trash: kinds and names.
func thrown(t *testing.T, a *library.Access) (all []model.Thrown, says string) {
	t.Helper()
	all, err := a.Trash.List(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	var words []string
	for _, x := range all {
		words = append(words, x.Kind+" "+x.Name)
	}
	slices.Sort(words)
	return all, strings.Join(words, "; ")
}

// kept makes one of each thing that can be deleted, as runa.
func kept(t *testing.T, runa *library.Access) (view, criteria, result int64) {
	t.Helper()
	ctx := t.Context()
	c, err := runa.Asking.KeepCriteria(ctx, model.Criteria{Report: "intake-lots", Name: "usual",
		Typed: map[string]string{"received": "last week"}})
	if err != nil {
		t.Fatal(err)
	}
	weekly := librarytest.Control("weekly",
		func(c *controls.Control) { c.Steps = []controls.Step{{Report: "intake-lots"}} })
	if _, err := runa.Controls.PutControl(ctx, weekly); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Desk.PutDesk(ctx, desk.Desk{Kind: "person", Owner: "runa",
		Tiles: []desk.Tile{{Control: "weekly", Step: 1, View: "lots", Show: "table", Title: "Lots of the week"},
			{Control: "weekly", Step: 1, View: "lots", Show: "table", Title: "Another"}}}); err != nil {
		t.Fatal(err)
	}
	v, err := runa.Reading.KeepView(ctx, model.View{Report: "intake-lots", Base: "lots", Name: "by grade",
		Changes: ask.Changes{Group: []string{"grade"}}})
	if err != nil {
		t.Fatal(err)
	}
	r := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}})
	return v.Number, c.Number, r.Result
}

// TestWhatIsDeletedComesBack deletes one of each kind of thing, and brings them all back as
// they were.
func TestWhatIsDeletedComesBack(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, aron, lila := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "aron"),
		librarytest.SignIn(t, l, "lila")
	ctx := t.Context()
	view, criteria, result := kept(t, runa)
	d := deskOf(t, runa)
	d.Tiles = d.Tiles[1:]
	if _, err := runa.Desk.PutDesk(ctx, d); err != nil {
		t.Fatal(err)
	}
	for what, err := range map[string]error{"criteria": runa.Asking.DeleteCriteria(ctx, criteria),
		"control": runa.Controls.DeleteControl(ctx, "weekly"), "view": runa.Reading.DeleteView(ctx, view),
		"result": runa.Reading.DeleteResult(ctx, result)} {
		if err != nil {
			t.Fatalf("%s: %v", what, err)
		}
	}
	all, says := thrown(t, runa)
	if want := "control weekly; criteria usual; result Intake lots; tile Lots of the week; view by grade"; says != want {
		t.Fatalf("the trash has %s; want %s", says, want)
	}
	if _, says := thrown(t, aron); says != "" {
		t.Errorf("somebody else sees %s", says)
	}
	if _, says := thrown(t, lila); !strings.Contains(says, "criteria usual") || strings.Contains(says, "tile") {
		t.Errorf("who keeps the catalog sees %s", says)
	}
	for _, x := range all {
		if x.Kind == model.ThrownResult {
			continue // who keeps no catalog sees the results of others too
		}
		if err := aron.Trash.BringBack(ctx, x.Kind, x.ID); err == nil {
			t.Errorf("somebody else brings %s %s back", x.Kind, x.ID)
		}
	}
	slices.SortFunc(all, func(x, y model.Thrown) int { return strings.Compare(x.Kind, y.Kind) }) // controls before tiles
	for _, x := range all {
		if err := runa.Trash.BringBack(ctx, x.Kind, x.ID); err != nil {
			t.Errorf("%s %s: %v", x.Kind, x.ID, err)
		}
	}
	if _, says := thrown(t, runa); says != "" {
		t.Errorf("the trash still has %s", says)
	}
	if d := deskOf(t, runa); len(d.Tiles) != 2 || d.Tiles[1].Title != "Lots of the week" {
		t.Errorf("the desk has %+v", d.Tiles)
	}
	if v, err := runa.Reading.Kept(ctx, view); err != nil || v.Changes.Group[0] != "grade" {
		t.Errorf("the view is %+v, %v", v, err)
	}
	for _, x := range []struct{ kind, id string }{{"view", "V-99"}, {"view", "99"}, {"tile", "T-99"}, {"result", "R-99"},
		{"criteria", "C-x"}, {"control", "nothing"}, {"report", "intake-lots"}} {
		if err := runa.Trash.BringBack(ctx, x.kind, x.id); err == nil {
			t.Errorf("%s %s comes back", x.kind, x.id)
		}
	}
}

func deskOf(t *testing.T, a *library.Access) desk.Desk {
	t.Helper()
	all, err := a.Desk.Desks(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	return all[0]
}

// TestNamesThatWereTakenMeanwhile says what is in the way.
func TestNamesThatWereTakenMeanwhile(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa := librarytest.SignIn(t, l, "runa")
	view, _, _ := kept(t, runa)
	if err := runa.Reading.DeleteView(t.Context(), view); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Reading.KeepView(t.Context(), model.View{Report: "intake-lots", Base: "lots",
		Name: "by grade"}); err != nil {
		t.Fatalf("the name of what is in the trash is still taken: %v", err)
	}
	var refused *model.Refused
	err := runa.Trash.BringBack(t.Context(), "view", fmt.Sprintf("V-%d", view))
	if !errors.As(err, &refused) || !strings.Contains(err.Error(), "rename that one first") {
		t.Errorf("%v", err)
	}
}

// TestTheTrashIsEmptied deletes what was there for 30 days for good, when the service begins
// anew, and leaves a run control that runs are of.
func TestTheTrashIsEmptied(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	var view int64
	o.During("thrown", func(t *testing.T, l *library.Library) {
		runa := librarytest.SignIn(t, l, "runa")
		view, _, _ = kept(t, runa)
		if err := runa.Reading.DeleteView(t.Context(), view); err != nil {
			t.Fatal(err)
		}
	})
	o.Now.Set(morning.AddDate(0, 0, model.TrashDays+1))
	o.During("a month later", func(t *testing.T, l *library.Library) {
		runa := librarytest.SignIn(t, l, "runa")
		librarytest.Until(t, "the trash is emptied", func() bool {
			return errors.Is(runa.Reading.RestoreView(t.Context(), view), model.ErrNotFound)
		})
		if _, says := thrown(t, runa); says != "" {
			t.Errorf("the trash has %s", says)
		}
		if _, err := runa.Reading.Kept(t.Context(), view); err == nil {
			t.Error("a deleted view is read")
		}
	})
}
