package access_test

import (
	"regexp"
	"strings"
	"testing"
	"time"

	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/library/reading"
	"mantilla/model"
)

func TestAccountsAreChecked(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	adda := librarytest.SignIn(t, l, "adda")
	good := model.Person{Name: "ottilie", Title: "Ottilie Bramwick", Role: model.Runner, Units: []string{"UF-MAR"}}
	for says, change := range map[string]func(*model.Person){
		"is not a name to sign in with": func(p *model.Person) { p.Name = "Ottilie B" },
		"the person's name is missing":  func(p *model.Person) { p.Title = "" },
		"is not a role":                 func(p *model.Person) { p.Role = "king" },
		"cannot be limited to units":    func(p *model.Person) { p.Role = model.Author },
		"is not the code of a unit":     func(p *model.Person) { p.Units = []string{"UF-XXX"} },
	} {
		p := good
		change(&p)
		if err := adda.PutPerson(t.Context(), p, "a long password"); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("want %q, got %v", says, err)
		}
	}
	if err := adda.PutPerson(t.Context(), good, ""); err == nil || !strings.Contains(err.Error(), "needs a password") {
		t.Errorf("without a password: %v", err)
	}
	if err := adda.PutPerson(t.Context(), good, "a long password"); err != nil {
		t.Fatal(err)
	}
	own := adda.Person()
	own.Role = model.Reader
	if err := adda.PutPerson(t.Context(), own, ""); err == nil ||
		!strings.Contains(err.Error(), "your own administrator") {
		t.Errorf("giving oneself up: %v", err)
	}
}

// TestMomentsInOnesOwnZone sets zones, and takes a result away in one: moments of
// the service are said in it, what is in the rows stays as it was.
func TestMomentsInOnesOwnZone(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 22, 30, 0, 0, time.UTC)))
	runa := librarytest.SignIn(t, l, "runa")
	run := librarytest.Finish(t, runa,
		capture.Ask{Report: "lot-changes", Typed: map[string]string{"changed": "2026-09-01"}})
	for _, zone := range []string{"Moon/Base", "Local", "../etc"} {
		if err := runa.SetZone(t.Context(), zone); err == nil || !strings.Contains(err.Error(), "not an IANA time zone") {
			t.Errorf("%q: %v", zone, err)
		}
	}
	taken := func() (rows, made string) {
		a := librarytest.SignIn(t, l, "runa")
		x, err := a.Reading.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		var b strings.Builder
		file, err := a.Reading.TakeAway(t.Context(), x, reading.Take{Format: "html"})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := file.Write(t.Context(), &b, nil); err != nil {
			t.Fatal(err)
		}
		table := regexp.MustCompile(`(?s)<tbody>.*?</tbody>`).FindString(b.String())
		said := regexp.MustCompile(`(?s)Run at.*?>([^<]*2026[^<]*)<`).FindStringSubmatch(b.String())
		if table == "" || said == nil {
			t.Fatalf("%.3000s", b.String())
		}
		return table, said[1]
	}
	rows, made := taken()
	if err := runa.SetZone(t.Context(), "Asia/Tokyo"); err != nil {
		t.Fatal(err)
	}
	if zone := librarytest.SignIn(t, l, "runa").Zone().String(); zone != "Asia/Tokyo" {
		t.Errorf("said in %s", zone)
	}
	rowsThere, madeThere := taken()
	if made != "16 October 2026 00:30:00 CEST" || madeThere != "16 October 2026 07:30:00 JST" {
		t.Errorf("at home %q, there %q", made, madeThere)
	}
	if rows != rowsThere || !strings.Contains(rows, "CEST") {
		t.Errorf("the rows differ:\n%s\n%s", rows[:min(len(rows), 600)], rowsThere[:min(len(rowsThere), 600)])
	}
	if err := runa.SetZone(t.Context(), ""); err != nil ||
		librarytest.SignIn(t, l, "runa").Zone().String() != "Europe/Berlin" {
		t.Errorf("no longer their own: %v", err)
	}
}
