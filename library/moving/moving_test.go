package moving_test

import (
	"bytes"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/core/bundle"
	"mantilla/library"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/library/moving"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

func office(t *testing.T) (l *library.Library, lila *library.Access) {
	t.Helper()
	l = librarytest.WithPeople(t, librarytest.At(morning))
	return l, librarytest.SignIn(t, l, "lila")
}

func made(t *testing.T, a *library.Access, wish moving.Wish) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := a.Moving.Make(t.Context(), &out, wish); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// states are what would become of items, as "kind id or title".
func states(l moving.Look) map[string]string {
	found := map[string]string{}
	for _, i := range l.Items {
		name := i.ID
		if i.Kind == "criteria" || i.Kind == "view" {
			name = i.Title
		}
		found[i.Kind+" "+name] = i.State
	}
	return found
}

// What people keep of a report travels as it was typed, and belongs to who takes it in.
func TestWhatPeopleKeepTravels(t *testing.T) {
	from, there := office(t)
	runa := librarytest.SignIn(t, from, "runa")
	shared, err := runa.Asking.KeepCriteria(t.Context(),
		model.Criteria{Report: "intake-lots", Name: "Hollin", Shared: "field",
			Typed: map[string]string{"received": "last month", "unit": "Hollin"}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Asking.KeepCriteria(t.Context(), model.Criteria{Report: "intake-lots", Name: "my own"}); err != nil {
		t.Fatal(err)
	}
	for name, everyone := range map[string]bool{"for all": true, "mine": false} {
		if _, err := runa.Reading.KeepView(t.Context(), model.View{Report: "intake-lots", Base: "lots", Name: name,
			Everyone: everyone, Changes: ask.Changes{Columns: []string{"lot_no", "value"}}}); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := runa.Controls.PutControl(t.Context(), librarytest.Control("lots", func(c *controls.Control) {
		c.Shared = "field"
		c.Steps = []controls.Step{{Report: "intake-lots", Criteria: shared.Number, View: "lots"}}
	})); err != nil {
		t.Fatal(err)
	}
	text := made(t, there, moving.Wish{Reports: []string{"intake-lots"}, Controls: true})
	to, here := office(t)
	look, err := here.Moving.Look(t.Context(), text, moving.Mapping{})
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]string{"report intake-lots": "same", "criteria Hollin": "new", "view for all": "new",
		"control lots": "new", "source coop": "same", "shared parameter unit": "same", "opening intake-lots": "same"}
	got := states(look)
	for what, state := range want {
		if got[what] != state {
			t.Errorf("%s is %q, not %s", what, got[what], state)
		}
	}
	if got["criteria my own"] != "" || got["view mine"] != "" {
		t.Errorf("what is somebody's own travels: %v", got)
	}
	if _, err := here.Moving.Take(t.Context(), text, moving.Mapping{}, ""); err != nil {
		t.Fatal(err)
	}
	c, err := librarytest.SignIn(t, to, "lila").Controls.Control(t.Context(), "lots")
	if err != nil || !c.Paused || c.Owner != "lila" || c.Send != nil || c.Steps[0].Criteria != 0 ||
		c.Steps[0].Typed["received"] != "last month" || c.Steps[0].Typed["unit"] != "Hollin" {
		t.Errorf("the control is %+v, %v", c, err)
	}
	again, err := here.Moving.Look(t.Context(), text, moving.Mapping{})
	if got := states(again); err != nil || got["criteria Hollin"] != "same" || got["view for all"] != "same" ||
		got["control lots"] != "left" {
		t.Errorf("a second time: %v, %v", got, err)
	}
	with := made(t, there, moving.Wish{Reports: []string{"intake-lots"}, Controls: true, Recipients: true})
	b, err := bundle.Read(with)
	if err != nil || !strings.Contains(string(b.Files["controls.yaml"]), "adda") {
		t.Errorf("with recipients: %s, %v", b.Files["controls.yaml"], err)
	}
}

// Whatever stands in the way of one item keeps everything as it was.
func TestNothingIsTakenInHalf(t *testing.T) {
	_, there := office(t)
	_, here := office(t)
	text := made(t, there, moving.Wish{Reports: []string{"intake-lots", "lot-history"}})
	shared, err := here.Catalog.Shared()
	if err != nil {
		t.Fatal(err)
	}
	if err := here.Catalog.PutShared(t.Context(),
		[]byte(strings.Replace(shared, "label: Received", "label: Taken in", 1))); err != nil {
		t.Fatal(err)
	}
	versions := func() string {
		list, err := here.Catalog.Versions(t.Context(), "intake-lots")
		if err != nil {
			t.Fatal(err)
		}
		return list[0].Version
	}
	before := versions()
	var refused *model.Refused
	_, err = here.Moving.Take(t.Context(), text, moving.Mapping{}, "")
	if !errors.As(err, &refused) || !strings.Contains(err.Error(), "shared parameter received: it means something "+
		"else here") {
		t.Errorf("taken in all the same: %v", err)
	}
	if versions() != before {
		t.Error("half of it was taken in")
	}
	look, err := here.Moving.Look(t.Context(), text, moving.Mapping{Sources: map[string]string{"coop": "live"}})
	if err != nil || !look.Blocked() || !slices.ContainsFunc(look.Items, func(i moving.Item) bool {
		return i.Kind == "source" && i.State == moving.Blocked && strings.Contains(i.Says[0], "no source live")
	}) {
		t.Errorf("another source: %+v, %v", look.Items, err)
	}
}

// Reports come with a note, and the way back is told.
func TestTakingTellsTheWayBack(t *testing.T) {
	_, there := office(t)
	_, here := office(t)
	d, err := there.Catalog.Report("lot-history")
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(d.Text, "\nabout: ", "\nabout: Newer. ", 1)
	if _, err := there.Catalog.PutReport(t.Context(), []byte(text), catalog.Put{Was: d.Version}); err != nil {
		t.Fatal(err)
	}
	file := made(t, there, moving.Wish{Reports: []string{"lot-history"}})
	taken, err := here.Moving.Take(t.Context(), file, moving.Mapping{}, "from test")
	if err != nil || !slices.Equal(taken.Back, []string{"mantilla definition restore lot-history 1"}) {
		t.Fatalf("%+v, %v", taken, err)
	}
	list, err := here.Catalog.Versions(t.Context(), "lot-history")
	if err != nil || len(list) != 2 || list[0].Note != "from test" || list[0].By != "lila" {
		t.Errorf("%+v, %v", list, err)
	}
	for _, wish := range []moving.Wish{{}, {Reports: []string{"lot-histori"}}} {
		if err := there.Moving.Make(t.Context(), &bytes.Buffer{}, wish); err == nil {
			t.Errorf("%v makes a bundle", wish)
		}
	}
}
