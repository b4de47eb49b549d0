package access_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/library/catalog"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// What is retired goes on where it is used, is told of, and is used by nothing new; what takes
// its place gets the mails.
func TestRetiringWhatIsNoReport(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	lila, adda, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "adda"),
		librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	for _, r := range []struct{ kind, id, successor string }{{"source", "none", ""}, {"source", "coop", "coop"},
		{"parameter", "received", "none"}, {"planet", "mars", ""}} {
		if err := adda.RetireOther(ctx, r.kind, r.id, r.successor); err == nil {
			t.Errorf("%v is retired", r)
		}
	}
	if err := lila.RetireOther(ctx, "group", "field", ""); err == nil {
		t.Error("a librarian retires a group")
	}
	if err := runa.RetireOther(ctx, "source", "coop", ""); err == nil {
		t.Error("a runner retires a source")
	}
	for _, r := range []struct{ kind, id, successor string }{{"source", "coop", ""}, {"parameter", "keeper", "received"},
		{"group", "field", "accounts"}} {
		if err := adda.RetireOther(ctx, r.kind, r.id, r.successor); err != nil {
			t.Fatal(err)
		}
	}
	if all := runa.AllRetired(); len(all) != 3 || all[0].Instead() != "use accounts instead" {
		t.Errorf("retired are %+v", all)
	}
	d, err := lila.Catalog.Report("intake-lots")
	if err != nil {
		t.Fatal(err)
	}
	warned, err := lila.Catalog.Warnings(ctx, d)
	for _, want := range []string{"the source coop is retired; nothing takes its place",
		"the shared parameter keeper is retired; use received instead"} {
		if err != nil || !slices.Contains(warned, want) {
			t.Errorf("it is not warned of %q: %v, %v", want, warned, err)
		}
	}
	changed := strings.Replace(d.Text, "title: Intake lots", "title: All lots", 1)
	if _, err := lila.Catalog.PutReport(ctx, []byte(changed), catalog.Put{Was: d.Version}); err != nil {
		t.Errorf("what reads a retired source cannot be changed: %v", err)
	}
	another := strings.Replace(d.Text, "report: intake-lots", "report: another", 1)
	var refused *model.Refused
	if _, err := lila.Catalog.PutReport(ctx, []byte(another), catalog.Put{}); !errors.As(err, &refused) {
		t.Errorf("a new report of a retired source is answered by %v", err)
	}
	field := []model.Opening{{Kind: "group", Name: "field"}}
	if _, err := lila.Catalog.Open(ctx, "agent-commission", field); !errors.As(err, &refused) {
		t.Errorf("opening to a retired group is answered by %v", err)
	}
	if err := adda.ReinstateOther(ctx, "group", "field"); err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Catalog.Open(ctx, "agent-commission", field); err != nil {
		t.Errorf("opening to a group that is back is answered by %v", err)
	}
}
