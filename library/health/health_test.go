package health_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/demo"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

const halfAYear = 180 * 24 * time.Hour

// problems are what the catalog needs, as "kind report".
func problems(t *testing.T, a *library.Access, unused time.Duration) map[string]string {
	t.Helper()
	all, err := a.Health.Problems(t.Context(), unused)
	if err != nil {
		t.Fatal(err)
	}
	found := map[string]string{}
	for _, p := range all {
		if p.Mend == "" || p.Place == "" || p.Title == "" {
			t.Errorf("%+v lacks what mends it", p)
		}
		found[p.Kind+" "+p.Report] = p.Says
	}
	return found
}

// The demo has one report of each kind that is to be found.
func TestWhatWasPlantedIsFound(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila := librarytest.SignIn(t, l, "lila")
	before := problems(t, lila, halfAYear)
	if err := demo.Plant(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	want := map[string]string{
		"failing stock-worth":        "its last 3 runs failed",
		"duplicate lots-received":    "it reads the same as Intake lots (intake-lots)",
		"unused honey-fair":          "it was never run",
		"undocumented site-openings": "it lacks a purpose and steps",
		"past review lots-received":  "it was to be looked at on 1 Oct 2026",
	}
	var found map[string]string
	librarytest.UntilOr(t, "the runs have failed", func() bool {
		found = problems(t, lila, halfAYear)
		return found["failing stock-worth"] != ""
	}, func() any { return found })
	for what, says := range want {
		if !strings.Contains(found[what], says) {
			t.Errorf("%s: %q; want %q", what, found[what], says)
		}
	}
	if len(found) != len(before)+len(want) {
		t.Errorf("found %v\nbefore %v", found, before)
	}
	use, err := lila.Health.Uses(t.Context(), "stock-worth")
	if err != nil || len(use) != 1 || use[0].Month != "2026-10" || use[0].Runs != 3 || use[0].Failed != 3 ||
		use[0].People != 1 {
		t.Errorf("%+v, %v", use, err)
	}
	if _, err := librarytest.SignIn(t, l, "runa").Health.Problems(t.Context(), halfAYear); err == nil {
		t.Error("a runner is told of the catalog's health")
	}
}

func TestEveryKindOfProblemIsTold(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	o.During("first", func(t *testing.T, l *library.Library) {
		lila, runa := librarytest.Person(t, l, "lila"), librarytest.Person(t, l, "runa")
		if _, err := runa.Asking.KeepCriteria(t.Context(), model.Criteria{Report: "near-best-before", Name: "mine",
			Typed: map[string]string{"within": "30"}}); err != nil {
			t.Fatal(err)
		}
		d, err := lila.Catalog.Report("near-best-before")
		if err != nil {
			t.Fatal(err)
		}
		text := strings.ReplaceAll(strings.ReplaceAll(d.Text, "id: within", "id: ahead"), ":within", ":ahead")
		text = strings.Replace(text, "\nabout:", "\ncompanions: [gone-report]\nabout:", 1)
		if _, err := lila.Catalog.PutReport(t.Context(), []byte(text), catalog.Put{Was: d.Version}); err != nil {
			t.Fatal(err)
		}
		if _, err := lila.Catalog.Open(t.Context(), "stock-lines", nil); err != nil {
			t.Fatal(err)
		}
		librarytest.RunWell(t, runa, capture.Ask{Report: "lot-history", Typed: map[string]string{"lot": "L26-17001"}})
	})
	// Runs that grew slow, that came near a limit, and that had most of the day.
	for i := range 12 {
		took := 3 * time.Second
		if i >= 8 {
			took = 50 * time.Minute
		}
		librarytest.Exec(t, o.Dir, `insert into run (report, title, version, state, typed, facts, sentence, asked_by,
			asked_at, started_at, ended_at, after_crash)
			values ('lot-changes', '', '', 'done', '{}', '[]', '', 'runa', ?1, ?1, ?2, 'fail')`,
			stamp(morning.Add(-time.Hour)), stamp(morning.Add(took-time.Hour)))
	}
	librarytest.Exec(t, o.Dir, `delete from person where name = 'lila'`)
	librarytest.Exec(t, o.Dir, `insert into report (id, title, category, version) values ('old', 'Old', 'X', 'v')`)
	librarytest.Exec(t, o.Dir,
		`insert into report_version (report, version, text, at) values ('old', 'v', 'report: [', '')`)
	l := librarytest.OpenWith(t, o.Dir, o.Now, func(*library.Settings) {})
	found := problems(t, librarytest.Person(t, l, "adda"), halfAYear)
	for what, says := range map[string]string{
		"broken old":                      "not YAML",
		"slower lot-changes":              "its last runs took 50m0s, those before 3s",
		"near its limit lot-changes":      "a run took 50m0s of at most",
		"heavy lot-changes":               "of the last day's",
		"dead link near-best-before":      "gone-report",
		"no longer fits near-best-before": "the criteria “mine” of runa speak of the parameter within",
		"open to nobody stock-lines":      "nobody",
		"owner gone near-best-before":     "lila",
	} {
		if !strings.Contains(found[what], says) {
			t.Errorf("%s: %q; want %q", what, found[what], says)
		}
	}
	if found["unused lot-history"] != "" || found["unused lot-changes"] != "" {
		t.Errorf("what was run just now is unused: %v", found)
	}
}

func stamp(t time.Time) string { return t.UTC().Format("2006-01-02T15:04:05.000Z") }
