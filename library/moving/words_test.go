package moving_test

import (
	"strings"
	"testing"

	"mantilla/library/catalog"
	"mantilla/library/moving"
	"mantilla/model"
)

// Terms that columns point to, and documents beside a report, go with it; what a word means
// in the other place stays, and a document there gets a further version.
func TestTermsAndDocumentsTravel(t *testing.T) {
	_, there := office(t)
	_, here := office(t)
	ctx := t.Context()
	if _, err := there.Meaning.PutTerm(ctx, model.Term{ID: "newly", Name: "Newly", Meaning: "Since spring."}); err != nil {
		t.Fatal(err)
	}
	d, err := there.Catalog.Report("intake-lots")
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(d.Text, "{id: site, is: site.name, type: text}",
		"{id: site, is: site.name, type: text, means: newly}", 1)
	if _, err := there.Drafting.PutReport(ctx, []byte(text), catalog.Put{Was: d.Version}, false); err != nil {
		t.Fatal(err)
	}
	if _, err := there.Shelf.AddVersion(ctx, "grades", "grades.csv", "",
		[]byte("grade;since\nSelect;2026\n")); err != nil {
		t.Fatal(err)
	}
	if _, err := there.Shelf.Put(ctx,
		model.Resource{ID: "lots-law", Title: "The law", Category: "Intake", Report: "intake-lots",
			Address: "https://law.example/"}, nil); err != nil {
		t.Fatal(err)
	}
	own := here.Meaning.Glossary("refractometer")[0].Term
	own.Meaning = "Share of water, measured by the refractometer of the test service."
	if _, err := here.Meaning.PutTerm(ctx, own); err != nil {
		t.Fatal(err)
	}

	file := made(t, there, moving.Wish{Reports: []string{"intake-lots"}})
	look, err := here.Moving.Look(ctx, file, moving.Mapping{})
	if err != nil {
		t.Fatal(err)
	}
	found := states(look)
	for what, want := range map[string]string{"term newly": moving.New, "term moisture": moving.Left,
		"term lot":        moving.Same,
		"document grades": moving.Changed, "document lots-law": moving.New, "report intake-lots": moving.Changed} {
		if found[what] != want {
			t.Errorf("%s is %q and not %s", what, found[what], want)
		}
	}
	taken, err := here.Moving.Take(ctx, file, moving.Mapping{}, "")
	if err != nil {
		t.Fatal(err)
	}
	back := strings.Join(taken.Back, "\n")
	for _, want := range []string{"mantilla glossary delete newly", "mantilla shelf delete lots-law"} {
		if !strings.Contains(back, want) {
			t.Errorf("how to go back lacks %q:\n%s", want, back)
		}
	}
	if v, data, err := here.Shelf.File(ctx, "grades", 0); err != nil || v.Number != 2 ||
		!strings.HasSuffix(string(data), "2026\n") {
		t.Errorf("the document is version %d, %q, %v", v.Number, data, err)
	}
	if got := here.Meaning.Glossary("newly"); len(got) != 1 || len(got[0].By) != 1 {
		t.Errorf("the term is %+v", got)
	}
	if got := here.Meaning.Glossary("refractometer"); got[0].Meaning != own.Meaning {
		t.Errorf("the word means %q now", got[0].Meaning)
	}
	if again, err := here.Moving.Look(ctx, file, moving.Mapping{}); err != nil ||
		states(again)["document grades"] != moving.Same {
		t.Errorf("a second look says %v, %v", states(again), err)
	}
}
