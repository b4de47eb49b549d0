package access_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/core/report"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/library/reading"
	"mantilla/library/sending"
	"mantilla/model"
)

// TestSingleRights gives a person a right beyond their role and withholds others, and has them try.
func TestSingleRights(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.OpenWith(t, demotest.Loaded(t, now.Time()), now,
		func(s *library.Settings) {
			s.Sending.HouseDomains = []string{"brackenfell.example"}
			s.Sending.Mail.From = "reports@brackenfell.example"
		})
	run := librarytest.RunWell(t, librarytest.Person(t, l, "runa"), capture.Ask{Report: "stock-lines"})
	adda := librarytest.SignIn(t, l, "adda")
	put := func(name string, given, withheld []string) error {
		people, err := adda.People(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		p := people[slices.IndexFunc(people, func(p model.Person) bool { return p.Name == name })]
		p.Given, p.Withheld = given, withheld
		return adda.PutPerson(t.Context(), p, "")
	}
	csv := []reading.Take{{Format: "csv"}}
	try := func(do func(a *library.Access, x *reading.Result) error) error {
		runa := librarytest.Person(t, l, "runa")
		x, err := runa.Reading.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		return do(runa, x)
	}
	take := func(a *library.Access, x *reading.Result) error {
		_, err := a.Reading.TakeAway(t.Context(), x, csv[0])
		return err
	}
	send := func(to string, takes []reading.Take) func(a *library.Access, x *reading.Result) error {
		return func(a *library.Access, x *reading.Result) error {
			_, err := a.Sending.SendNow(t.Context(), x, takes, sending.Send{To: []string{to}})
			return err
		}
	}
	sources := func(a *library.Access, _ *reading.Result) error { return second(a.Catalog.Sources(t.Context())) }
	opening := func(a *library.Access, _ *reading.Result) error {
		return second(a.Catalog.Open(t.Context(), "stock-lines", []model.Opening{{Kind: "everyone"}}))
	}
	inside, outside := "a@brackenfell.example", "b@elsewhere.example"
	for _, c := range []struct {
		given, withheld []string
		do              func(a *library.Access, x *reading.Result) error
		says            string
	}{
		{nil, nil, take, ""},
		{nil, []string{"take-away"}, take, "taking rows away as a file is withheld from you"},
		{nil, []string{"take-away"}, send(inside, csv), "taking rows away as a file is withheld from you"},
		{nil, []string{"take-away"}, send(inside, nil), ""}, // a link
		{nil, []string{"send-outside"}, send(inside, csv), ""},
		{nil, []string{"send-outside"}, send(outside, csv), "mail to b@elsewhere.example: sending beyond the house is"},
		{nil, []string{}, send(outside, csv), ""},
		{[]string{}, nil, sources, "looking at sources needs the role author"},
		{[]string{"sources"}, nil, sources, ""},
		{[]string{}, nil, opening, "opening reports to people needs the role librarian"},
		{[]string{"open"}, nil, opening, ""},
	} {
		if err := put("runa", c.given, c.withheld); err != nil {
			t.Fatal(err)
		}
		if err := try(c.do); c.says == "" && err != nil || c.says != "" &&
			(err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("given %v, withheld %v: want %q, got %v", c.given, c.withheld, c.says, err)
		}
	}
	for says, err := range map[string]error{
		"is no right that is given":  put("runa", []string{"fly"}, nil),
		"given and withheld at once": put("runa", []string{"open"}, []string{"open"}),
	} {
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("want %q, got %v", says, err)
		}
	}
}

func second[T any](_ T, err error) error { return err }

// TestUnitsWithExceptionsAndKinds limits somebody to a region without one of its districts, and to the
// sites of another, and looks at the units of the rows that they get; a part for the region has no more.
func TestUnitsWithExceptionsAndKinds(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	adda := librarytest.SignIn(t, l, "adda")
	units := func(a *library.Access) []string {
		run := librarytest.RunWell(t, a, capture.Ask{Report: "intake-lots"})
		x, err := a.Reading.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		read, err := a.Reading.Read(t.Context(), x, "lots", ask.Changes{})
		if err != nil {
			t.Fatal(err)
		}
		found, err := read.Values(t.Context(), "district", "", 20)
		if err != nil {
			t.Fatal(err)
		}
		var names []string
		for _, v := range found.Items {
			names = append(names, v.Text)
		}
		slices.Sort(names)
		return names
	}
	for _, c := range []struct {
		units []string
		want  string
	}{
		{[]string{"UF", "-UF-MAR"}, "Hollin, Skelby"},
		{[]string{"UF-HOL", "EM:district"}, "Hollin"}, // no lot lies at a district itself
		{[]string{"UF-HOL", "EM-DUN:site", "-EM-DUN-01"}, "Dunmere, Hollin"},
	} {
		p := librarytest.Person(t, l, "dora").Person()
		p.Units = c.units
		if err := adda.PutPerson(t.Context(), p, ""); err != nil {
			t.Fatal(err)
		}
		if got := strings.Join(units(librarytest.Person(t, l, "dora")), ", "); got != c.want {
			t.Errorf("%v sees %s, want %s", c.units, got, c.want)
		}
	}
	p := librarytest.Person(t, l, "dora").Person()
	for says, wrong := range map[string][]string{
		"is not the code of a unit":                  {"UF", "-UF-XXX"},
		`no unit of the kind "cellar"`:               {"UF:cellar"},
		"name the units that they are excepted from": {"-UF-MAR"},
	} {
		p.Units = wrong
		if err := adda.PutPerson(t.Context(), p, ""); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%v: want %q, got %v", wrong, says, err)
		}
	}
	p.Units = []string{"UF", "-UF-MAR"}
	if err := adda.PutPerson(t.Context(), p, ""); err != nil {
		t.Fatal(err)
	}
	part := librarytest.Person(t, l, "dora").LimitedTo([]string{"UF"})
	if r, err := part.Reach(t.Context(), known{"UF": {"UF-HOL-01", "UF-MAR-01"},
		"UF -UF-MAR": {"UF-HOL-01"}}); err != nil || !slices.Contains(r.Units, "UF-HOL-01") ||
		slices.Contains(r.Units, "UF-MAR-01") {
		t.Errorf("a part for the region reaches %v, %v", r.Units, err)
	}
}

// known are units as a source has them, by the bounds that reach them.
type known map[string][]string

func (k known) Reach(_ context.Context, units []string) (report.Reach, error) {
	return report.Reach{Limited: true, Units: slices.Clone(k[strings.Join(units, " ")])}, nil
}

// TestTwoPeopleOpenAReport has one person want a report to be open to more, and another agree, where that is
// how it is done; less is open at once, and whoever agrees to something else only wants that.
func TestTwoPeopleOpenAReport(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.OpenWith(t, demotest.Loaded(t, now.Time()), now,
		func(s *library.Settings) { s.OpenByTwo = true })
	lila, adda := librarytest.Person(t, l, "lila"), librarytest.Person(t, l, "adda")
	field, more := []model.Opening{{Kind: "group", Name: "field"}},
		[]model.Opening{{Kind: "group", Name: "field"}, {Kind: "person", Name: "rhea"}}
	for i, c := range []struct {
		who   *library.Access
		to    []model.Opening
		waits bool
		open  int
	}{
		{lila, nil, false, 0},   // less is open at once
		{lila, field, true, 0},  // more waits
		{lila, field, true, 0},  // and is not agreed to by the same
		{adda, more, true, 0},   // who wants something else takes its place
		{adda, more, true, 0},   //
		{lila, more, false, 2},  // two want the same
		{lila, field, false, 1}, // less again
	} {
		waits, err := c.who.Catalog.Open(t.Context(), "stock-lines", c.to)
		is, other := lila.Catalog.Opening("stock-lines")
		w, wish := lila.Catalog.Wish(t.Context(), "stock-lines")
		if err != nil || other != nil || wish != nil || waits != c.waits || len(is) != c.open || (w != nil) != c.waits {
			t.Errorf("step %d: waits %t, open to %v, wanted %+v; %v %v %v", i, waits, is, w, err, other, wish)
		}
	}
	if err := lila.Catalog.OpenAsked(t.Context(), "stock-lines", "rhea"); err != nil {
		t.Fatal(err)
	}
	if !librarytest.Person(t, l, "rhea").Opens("stock-lines") {
		t.Error("who asked and who granted are two")
	}
}
