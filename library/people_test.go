package library_test

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/model"
)

// withPeople is the demo's library with its people.
func withPeople(t *testing.T, now *clock) *library.Library {
	t.Helper()
	l := open(t, demotest.Dir(t), now)
	if err := demo.Load(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	return l
}

// as signs a person of the demo in.
func as(t *testing.T, l *library.Library, name string) *library.Access {
	t.Helper()
	secret, _, _, err := l.SignIn(t.Context(), library.Knock{Name: name, Password: demo.Password, Kind: "token"})
	if err != nil {
		t.Fatal(err)
	}
	a, err := l.WhoHas(t.Context(), secret)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

func TestSigningIn(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	from := "192.0.2.1"
	try := func(name, password string) error {
		_, _, _, err := l.SignIn(t.Context(), library.Knock{Name: name, Password: password, Kind: "browser", Address: from})
		return err
	}
	waits := func(err error) bool {
		var w *library.Waits
		return errors.As(err, &w)
	}
	// Accounts that there are and that there are not answer alike, also when
	// somebody has to wait.
	for _, name := range []string{"runa", "nobody", "No such name at all!"} {
		from += name
		for range 5 {
			if err := try(name, "wrong"); !errors.Is(err, library.ErrSignIn) {
				t.Fatalf("%s: %v", name, err)
			}
		}
		if err := try(name, demo.Password); !waits(err) {
			t.Errorf("%s after five failures: %v", name, err)
		}
	}
	from = "192.0.2.2" // the owner of the account comes from elsewhere and is not held up
	if err := try("runa", demo.Password); err != nil {
		t.Errorf("the owner: %v", err)
	}
	from = "192.0.2.3"
	for i := range 5 { // waits grow
		if err := try("runa", "wrong"); !errors.Is(err, library.ErrSignIn) {
			t.Fatal(i, err)
		}
	}
	for _, wait := range []time.Duration{time.Second, 2 * time.Second, 4 * time.Second} {
		now.set(now.time().Add(wait - time.Millisecond))
		if err := try("runa", "wrong"); !waits(err) {
			t.Errorf("after %s: %v", wait, err)
		}
		now.set(now.time().Add(time.Millisecond))
		if err := try("runa", "wrong"); !errors.Is(err, library.ErrSignIn) {
			t.Errorf("after %s: %v", wait, err)
		}
	}
	from = "192.0.2.4" // one machine that tries many names
	for i := range 30 {
		_ = try(fmt.Sprintf("name%d", i), "wrong")
	}
	if err := try("runa", demo.Password); !waits(err) {
		t.Errorf("a machine that tried thirty names: %v", err)
	}
	from = "192.0.2.5"
	runa := as(t, l, "runa")
	if err := runa.ChangePassword(t.Context(), "wrong", "a new password"); err == nil {
		t.Error("the password was changed against a wrong one")
	}
	if err := runa.ChangePassword(t.Context(), demo.Password, "short"); err == nil || !strings.Contains(err.Error(), "10 to 72") {
		t.Errorf("a short password: %v", err)
	}
	for _, easy := range []string{"1234567890", "aaaaaaaaaaaa", "abcdefghijkl"} {
		if err := runa.ChangePassword(t.Context(), demo.Password, easy); err == nil || !strings.Contains(err.Error(), "too easy") {
			t.Errorf("the password %s: %v", easy, err)
		}
	}
	if err := runa.ChangePassword(t.Context(), demo.Password, "a new password"); err != nil {
		t.Fatal(err)
	}
	if err := try("runa", "a new password"); err != nil {
		t.Error(err)
	}
	if err := try("runa", demo.Password); !errors.Is(err, library.ErrSignIn) {
		t.Errorf("the old password: %v", err)
	}
}

func TestSessionsEndWithTheirTime(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	secret, _, _, err := l.SignIn(t.Context(), library.Knock{Name: "rhea", Password: demo.Password, Kind: "browser"})
	if err != nil {
		t.Fatal(err)
	}
	now.set(now.time().Add(11 * time.Hour))
	if a, err := l.WhoHas(t.Context(), secret); err != nil || a.Person().Name != "rhea" {
		t.Errorf("after eleven hours: %v", err)
	}
	now.set(now.time().Add(time.Hour))
	if _, err := l.WhoHas(t.Context(), secret); !errors.Is(err, library.ErrNotSignedIn) {
		t.Errorf("after twelve hours: %v", err)
	}
	if _, err := l.WhoHas(t.Context(), ""); !errors.Is(err, library.ErrNotSignedIn) {
		t.Errorf("without a secret: %v", err)
	}
}

func TestAccountsAreChecked(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	adda := as(t, l, "adda")
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
	if err := adda.PutPerson(t.Context(), own, ""); err == nil || !strings.Contains(err.Error(), "your own administrator") {
		t.Errorf("giving oneself up: %v", err)
	}
}

// TestUsualValuesAndLastRun fills a form from a person's own values.
func TestUsualValuesAndLastRun(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	runa, dora := as(t, l, "runa"), as(t, l, "dora")
	kept, err := runa.KeepCriteria(t.Context(), model.Criteria{Report: "intake-lots", Name: " Hollin  lots ", Shared: "field", Typed: map[string]string{"received": "last quarter", "unit": "Hollin"}})
	if err != nil || kept.Name != "Hollin lots" || kept.Sentence != "Received 1 July – 30 September 2026; district Hollin with everything below; all grades." {
		t.Fatalf("%+v, %v", kept, err)
	}
	if err := runa.SetUsual(t.Context(), kept.Number, true); err != nil {
		t.Fatal(err)
	}
	form, err := runa.Form(t.Context(), "intake-lots")
	if err != nil || form.Defaults["received"] != "last quarter" || form.From["received"] != "your usual values" {
		t.Errorf("%v %v, %v", form.Defaults, form.From, err)
	}
	if form, err := dora.Form(t.Context(), "intake-lots"); err != nil || form.Defaults["received"] != "last month" || len(form.Lists["unit"]) != 9 {
		t.Errorf("another's form: %v, %d units, %v", form.Defaults, len(form.Lists["unit"]), err)
	}
	// What was resolved moves with the day; what was typed does not.
	now.set(time.Date(2027, 1, 2, 9, 0, 0, 0, time.UTC))
	if again, err := dora.CriteriaOf(t.Context(), kept.Number); err != nil || !strings.HasPrefix(again.Sentence, "Received 1 October – 31 December 2026") || again.Typed["received"] != "last quarter" {
		t.Errorf("%+v, %v", again, err)
	}
	if _, err := dora.ChangeCriteria(t.Context(), model.Criteria{Number: kept.Number, Name: "x", Revision: 1}); err == nil || !strings.Contains(err.Error(), "belongs to runa") {
		t.Errorf("another's criteria were changed: %v", err)
	}
	run := finish(t, dora, library.Ask{Report: "weighing-waits", Typed: map[string]string{"windows": "2026-09"}})
	if form, err := dora.Form(t.Context(), "weighing-waits"); err != nil || run.State != model.Done || form.Defaults["windows"] != "2026-09" || form.From["windows"] != "your last run" {
		t.Errorf("%v, %v, %v", form.Defaults, form.From, err)
	}
}

// TestOverwrittenCriteriaComeBack overwrites shared criteria and brings their
// earlier values back; that is for their owner, and overwrites nothing for good.
func TestOverwrittenCriteriaComeBack(t *testing.T) {
	l := withPeople(t, clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	runa, dora := as(t, l, "runa"), as(t, l, "dora")
	kept, err := runa.KeepCriteria(t.Context(), model.Criteria{Report: "intake-lots", Name: "lots", Shared: "everyone", Typed: map[string]string{"received": "2026-08"}})
	if err != nil {
		t.Fatal(err)
	}
	finish(t, runa, library.Ask{Report: "intake-lots", Typed: kept.Typed, Criteria: kept.Number})
	change := kept.Criteria
	change.Typed = map[string]string{"received": "2026-09"}
	if _, err := runa.ChangeCriteria(t.Context(), change); err != nil {
		t.Fatal(err)
	}
	past, err := runa.PastCriteria(t.Context(), kept.Number)
	if err != nil || len(past) != 1 || past[0].Revision != kept.Revision || !strings.HasPrefix(past[0].Sentence, "Received 1–31 August 2026") {
		t.Fatalf("%+v, %v", past, err)
	}
	if _, err := dora.PastCriteria(t.Context(), kept.Number); err == nil || !strings.Contains(err.Error(), "belongs to runa") {
		t.Errorf("another's earlier values: %v", err)
	}
	if _, err := dora.RestoreCriteria(t.Context(), kept.Number, kept.Revision); err == nil {
		t.Error("another brought earlier values back")
	}
	if _, err := runa.RestoreCriteria(t.Context(), kept.Number, 99); err == nil || !strings.Contains(err.Error(), "no earlier values of revision 99") {
		t.Errorf("values that never were: %v", err)
	}
	back, err := runa.RestoreCriteria(t.Context(), kept.Number, kept.Revision)
	if err != nil || back.Typed["received"] != "2026-08" || back.Shared != "everyone" || back.Revision != 3 {
		t.Errorf("%+v, %v", back, err)
	}
	if past, err := runa.PastCriteria(t.Context(), kept.Number); err != nil || len(past) != 2 || past[0].Typed["received"] != "2026-09" {
		t.Errorf("what was replaced is gone: %+v, %v", past, err)
	}
	if seen, err := dora.CriteriaOf(t.Context(), kept.Number); err != nil || seen.LastRows != -1 || seen.LastRun.IsZero() {
		t.Errorf("she is told of rows of all units: %+v, %v", seen, err)
	}
}

// TestMomentsInOnesOwnZone sets zones, and takes a result away in one: moments of
// the service are said in it, what is in the rows stays as it was.
func TestMomentsInOnesOwnZone(t *testing.T) {
	l := withPeople(t, clockAt(time.Date(2026, 10, 15, 22, 30, 0, 0, time.UTC)))
	runa := as(t, l, "runa")
	run := finish(t, runa, library.Ask{Report: "lot-changes", Typed: map[string]string{"changed": "2026-09-01"}})
	for _, zone := range []string{"Moon/Base", "Local", "../etc"} {
		if err := runa.SetZone(t.Context(), zone); err == nil || !strings.Contains(err.Error(), "not an IANA time zone") {
			t.Errorf("%q: %v", zone, err)
		}
	}
	taken := func() (rows, made string) {
		a := as(t, l, "runa")
		x, err := a.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		var b strings.Builder
		file, err := a.TakeAway(t.Context(), x, library.Take{Format: "html"})
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
	if zone := as(t, l, "runa").Zone().String(); zone != "Asia/Tokyo" {
		t.Errorf("said in %s", zone)
	}
	rowsThere, madeThere := taken()
	if made != "16 October 2026 00:30:00 CEST" || madeThere != "16 October 2026 07:30:00 JST" {
		t.Errorf("at home %q, there %q", made, madeThere)
	}
	if rows != rowsThere || !strings.Contains(rows, "CEST") {
		t.Errorf("the rows differ:\n%s\n%s", rows[:min(len(rows), 600)], rowsThere[:min(len(rowsThere), 600)])
	}
	if err := runa.SetZone(t.Context(), ""); err != nil || as(t, l, "runa").Zone().String() != "Europe/Berlin" {
		t.Errorf("no longer their own: %v", err)
	}
}

// TestCriteriaSayWhatNoLongerFits changes a report under kept criteria.
func TestCriteriaSayWhatNoLongerFits(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	runa, lila := as(t, l, "runa"), as(t, l, "lila")
	kept, err := runa.KeepCriteria(t.Context(), model.Criteria{Report: "payout-detail", Name: "unpaid", Typed: map[string]string{"paid": "unpaid"}})
	if err != nil {
		t.Fatal(err)
	}
	d, err := lila.Report("payout-detail")
	if err != nil {
		t.Fatal(err)
	}
	text := strings.ReplaceAll(strings.Replace(d.Text, "id: paid,", "id: is_paid,", 1), ":paid =", ":is_paid =")
	if _, err := lila.PutReport(t.Context(), []byte(text), d.Version); err != nil {
		t.Fatal(err)
	}
	after, err := runa.CriteriaOf(t.Context(), kept.Number)
	if err != nil || len(after.Unfit) != 1 || !strings.Contains(after.Unfit[0], `no parameter "paid"; did you mean`) || after.Typed["paid"] != "unpaid" {
		t.Errorf("%+v, %v", after, err)
	}
}

// TestKeptResultIsOffered runs the same again with the source unchanged, and
// then changed.
func TestKeptResultIsOffered(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	runa, dora := as(t, l, "runa"), as(t, l, "dora")
	run := finish(t, runa, library.Ask{Report: "intake-lots", Typed: map[string]string{"unit": "Hollin"}})
	kept := func(a *library.Access, typed map[string]string) int64 {
		r, err := a.Resolve(t.Context(), "intake-lots", typed, library.With{})
		if err != nil {
			t.Fatal(err)
		}
		if r.Kept == nil {
			return 0
		}
		return r.Kept.Number
	}
	if got := kept(runa, map[string]string{"unit": "UF-HOL", "received": "2026-09"}); got != run.Result {
		t.Errorf("the same values written otherwise offer result %d", got)
	}
	if got := kept(runa, map[string]string{"unit": "Marr"}); got != 0 {
		t.Errorf("other values offer result %d", got)
	}
	if got := kept(dora, map[string]string{"unit": "Hollin"}); got != 0 {
		t.Errorf("a person of another reach is offered result %d", got)
	}
}

func TestSharedParametersAreChangedAsOne(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	lila := as(t, l, "lila")
	before, err := lila.Shared()
	if err != nil {
		t.Fatal(err)
	}
	if err := lila.PutShared(t.Context(), []byte(strings.Replace(before, "default: last month", "default: last moon", 1))); err == nil || !strings.Contains(err.Error(), "is not right") {
		t.Errorf("a wrong default was taken: %v", err)
	}
	version := func() string {
		d, err := lila.Report("intake-lots")
		if err != nil {
			t.Fatal(err)
		}
		return d.Version
	}
	first := version()
	if err := lila.PutShared(t.Context(), []byte(strings.Replace(before, "label: Received", "label: Taken in", 1))); err != nil {
		t.Fatal(err)
	}
	d, _ := lila.Report("intake-lots")
	if d.Version == first || d.Parameter("received").Label != "Taken in" {
		t.Errorf("the report is still %s with %q", d.Version[:8], d.Parameter("received").Label)
	}
	if list, err := lila.Versions(t.Context(), "intake-lots"); err != nil || len(list) != 2 {
		t.Errorf("versions %v, %v", list, err)
	}
	if slices.Contains(as(t, l, "aron").Rights(), "catalog") {
		t.Error("an author keeps the catalog")
	}
}

func TestSourcesLieWithinTheDataDirectory(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	lila := as(t, l, "lila")
	for file, says := range map[string]string{
		"../coop.db": "must lie within the data directory", "/etc/passwd": "must lie within the data directory",
		"mantilla.db": "holds the service's own records", "x/../mantilla.db": "holds the service's own records", "gone.db": "is missing",
	} {
		text := "source: other\nkind: sqlite\nfile: " + file + "\nlists: {x: {from: t, code: a, label: a}}\n"
		if err := lila.PutSource(t.Context(), "other", []byte(text)); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v; want %q", file, err, says)
		}
	}
	if err := lila.PutSource(t.Context(), "another", []byte("source: coop\nkind: sqlite\nfile: coop.db\n")); err == nil || !strings.Contains(err.Error(), "is of the source coop, not another") {
		t.Errorf("under another id: %v", err)
	}
}
