package keeping_test

import (
	"strings"
	"testing"

	"mantilla/library/asking"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// A form compares its days with those of the result that was signed off last, and a check its
// figure with that of this result, whatever ran since.
func TestTheLastSignedIsComparedWith(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, lila := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "lila")
	ctx := t.Context()
	d, err := lila.Catalog.Report("orders-by-grouping")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Catalog.PutReport(ctx, []byte(d.Text+`checks:
  - {id: far, of: orders, figure: sum(amount), within: 1, against: signed, else: mark, say: Far from what was signed.}
`), catalog.Put{Was: d.Version}); err != nil {
		t.Fatal(err)
	}
	if err := lila.Keeping.PutSignRule(ctx, model.SignRule{Report: d.ID, Steps: 1,
		Who: []model.Opening{{Kind: "person", Name: "lila"}}}); err != nil {
		t.Fatal(err)
	}
	compared := map[string]string{"days": "2026-09 against last signed"}
	r, err := runa.Asking.Resolve(ctx, d.ID, compared, asking.With{})
	if err != nil || len(r.Faults) != 1 || !strings.Contains(r.Faults[0].Message,
		"no result of this report is signed off") {
		t.Fatalf("before anything is signed: %+v, %v", r.Faults, err)
	}
	var august int64
	for _, month := range []string{"2026-08", "2026-07"} { // what ran last is not what is signed
		run := librarytest.RunWell(t, runa, capture.Ask{Report: d.ID, Typed: map[string]string{"days": month}})
		if month == "2026-08" {
			august = run.Result
		}
	}
	if _, err := lila.Keeping.SignOff(ctx, august, ""); err != nil {
		t.Fatal(err)
	}
	r, err = runa.Asking.Resolve(ctx, d.ID, compared, asking.With{})
	if err != nil || len(r.Faults) > 0 {
		t.Fatalf("%+v, %v", r.Faults, err)
	}
	v, _ := r.Values.Of("days")
	if len(v.Companions) != 1 || v.Companions[0].Range.String() != "2026-08-01/2026-08-31" ||
		v.Resolved() != "2026-09-01/2026-09-30 against 2026-08-01/2026-08-31" {
		t.Errorf("compared with %+v, which is %s", v.Companions, v.Resolved())
	}
	run := librarytest.RunWell(t, runa, capture.Ask{Report: d.ID, Typed: map[string]string{"days": "2026-09"}})
	signed, err := runa.Reading.Result(ctx, august)
	if err != nil {
		t.Fatal(err)
	}
	now, err := runa.Reading.Result(ctx, run.Result)
	if err != nil {
		t.Fatal(err)
	}
	check := now.Manifest.Checks[0]
	if check.Before != signed.Manifest.Checks[0].Figure || !check.Signed || check.State != "broken" ||
		!strings.Contains(check.Says(), "in what was signed off last") {
		t.Errorf("the check is %+v: %s", check, check.Says())
	}
	if first := signed.Manifest.Checks[0]; first.State != "untold" || !strings.Contains(first.Why, "is signed off") {
		t.Errorf("before anything was signed it is %+v", first)
	}
}
