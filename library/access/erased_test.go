package access_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/acting"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// TestSomebodyIsErased has a person do things, reads what is kept of them, and takes them out: their work
// goes on under an alias, and neither the accounts, nor the audit, nor what is kept says who it was.
func TestSomebodyIsErased(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	dora, adda := librarytest.SignIn(t, l, "dora"), librarytest.SignIn(t, l, "adda")
	ctx := acting.With(t.Context(), &acting.Act{Face: "console", Address: "10.0.0.7"})
	run := librarytest.RunWell(t, dora, capture.Ask{Report: "stock-lines"})
	if _, err := dora.Asking.KeepCriteria(ctx, model.Criteria{Report: "intake-lots", Name: "Mine"}); err != nil {
		t.Fatal(err)
	}
	l.Note(ctx, acting.Done{Person: "dora", Act: "startRun", Kind: "report", ID: "stock-lines"})
	l.Note(ctx, acting.Done{Person: "adda", Act: "putPerson", Kind: "person", ID: "dora"})
	kept, err := dora.DataOf(ctx, "dora")
	text, _ := json.Marshal(kept)
	if err != nil || len(kept["person"]) != 1 || len(kept["criteria"]) != 1 || len(kept["run"]) != 1 ||
		len(kept["audit"]) == 0 || strings.Contains(string(text), "password") {
		t.Errorf("of her there is kept %.800s, %v", text, err)
	}
	if _, err := dora.DataOf(ctx, "runa"); err == nil {
		t.Error("she reads what is kept of runa")
	}
	if _, err := adda.Erase(ctx, "dora"); err == nil || !strings.Contains(err.Error(), "close it first") {
		t.Errorf("erased with an open account: %v", err)
	}
	p := dora.Person()
	title := p.Title
	p.Closed = true
	if err := adda.PutPerson(ctx, p, ""); err != nil {
		t.Fatal(err)
	}
	alias, err := adda.Erase(ctx, "dora")
	if err != nil || !strings.HasPrefix(alias, "gone-") {
		t.Fatal(alias, err)
	}
	people, err := adda.People(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range people {
		if p.Name == "dora" || p.Title == title || p.Name == alias && (!p.Closed || len(p.Units)+len(p.Groups) > 0) {
			t.Errorf("there is %+v", p)
		}
	}
	if r, err := adda.Capture.Run(ctx, run.Number); err != nil || r.AskedBy != alias {
		t.Errorf("her run was asked for by %s, %v", r.AskedBy, err)
	}
	lines, err := adda.Audit.Search(ctx, model.AuditSearch{Limit: 100})
	if err != nil {
		t.Fatal(err)
	}
	named := false
	for _, line := range lines {
		named = named || line.Person == alias
		if all, _ := json.Marshal(line); strings.Contains(string(all), `"dora"`) || strings.Contains(string(all), title) {
			t.Errorf("the audit says %s", all)
		}
	}
	if c, err := adda.Audit.Check(ctx); err != nil || c.Erased < 2 || !named {
		t.Errorf("the audit is %+v, %v; what she did under the alias: %t", c, err, named)
	}
	var again *library.Access
	if again, err = l.AsPerson(ctx, "dora"); err == nil {
		t.Errorf("there is still %+v", again.Person())
	}
}
