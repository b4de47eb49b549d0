package store

import (
	"errors"
	"fmt"
	"reflect"
	"testing"
	"time"

	"mantilla/core/period"
	"mantilla/model"
)

// awkward is a text that a record may hold: quotes, a line's end, letters beside ASCII, a character
// outside the first plane, and what SQL and JSON would take for their own.
const awkward = "O'Hara said \"ü → 🐝\";\n-- {\"a\": [1]}\\"

// same fails where something is not read as it was kept.
func same(t *testing.T, what string, got, want any, err error) {
	t.Helper()
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%s is\n%+v, want\n%+v, %v", what, got, want, err)
	}
}

// putReport adds a report to the records.
func putReport(t *testing.T, s *Store, id string) {
	t.Helper()
	r := model.Report{ID: id, Title: id, Category: "Intake", Version: "v1", Text: "report: " + id, By: "aron"}
	if err := s.Catalog().PutReport(t.Context(), r, "", now); err != nil {
		t.Fatal(err)
	}
}

func TestCareOfReports(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	putReport(t, s, "lots")
	putReport(t, s, "ages")
	today := period.Date(2026, 10, 15)
	care := model.Care{Report: "lots", Owner: "aron", Review: true, ReviewOn: today, Every: 6, Listed: true}
	if err := s.Care().PutCare(ctx, care); err != nil {
		t.Fatal(err)
	}
	if err := s.Care().PutCare(ctx, model.Care{Report: "none"}); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a report that is not there: %v", err)
	}
	all, err := s.Care().Cares(ctx)
	if len(all) != 2 {
		t.Fatalf("%+v, %v", all, err)
	}
	for _, c := range all {
		if c.Report == "lots" {
			same(t, "the care", c, care, err)
		} else {
			same(t, "no care", c, model.Care{Report: "ages"}, err)
		}
	}
	due, err := s.Care().Unreminded(ctx, today)
	same(t, "what is due", due, []model.Care{care}, err)
	if due, err = s.Care().Unreminded(ctx, today-1); err != nil || len(due) != 0 {
		t.Errorf("the day before: %+v, %v", due, err)
	}
	if err := s.Care().Reminded(ctx, care); err != nil {
		t.Fatal(err)
	}
	if due, err = s.Care().Unreminded(ctx, today+30); err != nil || len(due) != 0 {
		t.Errorf("told again: %+v, %v", due, err)
	}
	adopted, err := s.Care().Adopt(ctx, "lots", "runa")
	same(t, "a report that has an owner", adopted, care, err)
	adopted, err = s.Care().Adopt(ctx, "ages", "runa")
	same(t, "one that had none", adopted, model.Care{Report: "ages", Owner: "runa"}, err)
	if _, err = s.Care().Adopt(ctx, "none", "runa"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("adopting nothing: %v", err)
	}
}

func TestRequestsAreAnsweredOnce(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	wish := model.Request{Report: "lots", Person: "dora", At: now, Says: awkward}
	first, err := s.Care().AddRequest(ctx, wish)
	if err != nil {
		t.Fatal(err)
	}
	wish.Says = "for the audit"
	number, err := s.Care().AddRequest(ctx, wish)
	if err != nil || number == first {
		t.Fatalf("a second wish has the number %d after %d, %v", number, first, err)
	}
	wish.Number, wish.State = number, "open"
	got, err := s.Care().Request(ctx, number)
	same(t, "the wish", got, wish, err)
	if _, err := s.Care().Request(ctx, first); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("the first stayed: %v", err)
	}
	wish.State, wish.Answer, wish.AnsweredBy, wish.AnsweredAt = "granted", awkward, "lila", now.Add(time.Hour)
	if err := s.Care().AnswerRequest(ctx, wish); err != nil {
		t.Fatal(err)
	}
	if err := s.Care().AnswerRequest(ctx, wish); !errors.Is(err, model.ErrStale) {
		t.Errorf("answered twice: %v", err)
	}
	all, err := s.Care().Requests(ctx, "dora", 10)
	same(t, "hers", all, []model.Request{wish}, err)
	if others, err := s.Care().Requests(ctx, "runa", 10); err != nil || len(others) != 0 {
		t.Errorf("somebody else's: %+v, %v", others, err)
	}
}

func TestVisitsTellWhatIsUsed(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	for i, v := range []struct{ person, report string }{{"dora", "lots"}, {"dora", "ages"}, {"runa", "lots"},
		{"dora", "lots"}} {
		if err := s.Care().Visit(ctx, v.person, v.report, model.VisitRun, now.Add(time.Duration(i)*time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
	recent, err := s.Care().Recent(ctx, "dora", 10)
	same(t, "what dora opened last", recent, []string{"lots", "ages"}, err)
	recent, err = s.Care().Recent(ctx, "dora", 1)
	same(t, "the last of them", recent, []string{"lots"}, err)
	popular, err := s.Care().Popular(ctx, []string{"dora", "runa"}, now.Add(-time.Hour), 10)
	if err != nil || len(popular) == 0 || popular[0] != "lots" {
		t.Errorf("what both use: %v, %v", popular, err)
	}
	if none, err := s.Care().Popular(ctx, []string{"dora"}, now.AddDate(0, 2, 0), 10); err != nil || len(none) != 0 {
		t.Errorf("since two months later: %v, %v", none, err)
	}
}

func TestDraftsNoticesAndFeedback(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	d := model.Draft{Report: "lots", Title: awkward, Text: "report: lots\n" + awkward, Base: "v1", Owner: "aron",
		ChangedAt: now, ChangedBy: "aron"}
	number, err := s.Drafting().AddDraft(ctx, d)
	if err != nil {
		t.Fatal(err)
	}
	d, err = s.Drafting().Draft(ctx, number)
	if err != nil || d.Title != awkward || d.State != model.Writing || !d.ChangedAt.Equal(now) {
		t.Fatalf("%+v, %v", d, err)
	}
	d.Writers, d.Testers, d.State = []string{"runa"}, []model.Opening{{Kind: "group", Name: "field"}}, model.HandedIn
	d.Note, d.NotedBy = awkward, "aron"
	if err := s.Drafting().PutDraft(ctx, d, "v2"); err != nil {
		t.Fatal(err)
	}
	if err := s.Drafting().PutDraft(ctx, d, ""); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	d.Revision++
	got, err := s.Drafting().Draft(ctx, number)
	same(t, "the draft", got, d, err)
	if text, _, err := s.Catalog().ReportText(ctx, d.ReportID(), "v2"); err != nil || text != d.Text {
		t.Errorf("the version that is tried is %q, %v", text, err)
	}
	thrown := model.Thrown{Kind: model.ThrownDraft, ID: fmt.Sprintf("D-%d", number), At: now}
	if err := s.Drafting().DeleteDraft(ctx, thrown); err != nil {
		t.Fatal(err)
	}
	if err := s.Drafting().DeleteDraft(ctx, thrown); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	if err := s.Drafting().PutBack(ctx, thrown.Kind, thrown.ID); err != nil {
		t.Error(err)
	}
	if text, _, err := s.Catalog().ReportText(ctx, d.ReportID(), "v2"); err != nil || text != d.Text {
		t.Errorf("the version that came back is %q, %v", text, err)
	}
	if err := s.Drafting().ForgetDraft(ctx, d); err != nil {
		t.Error(err)
	}
	if err := s.Drafting().ForgetDraft(ctx, d); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("forgotten twice: %v", err)
	}
	if _, _, err := s.Catalog().ReportText(ctx, d.ReportID(), "v2"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a version that nothing ran stays: %v", err)
	}

	told := []model.Notice{{Person: "dora", At: now, About: "draft", Says: awkward, Place: "/drafts/1"},
		{Person: "runa", At: now, About: "report", Says: "lots changed"}}
	if err := s.Drafting().AddNotices(ctx, told); err != nil {
		t.Fatal(err)
	}
	hers, err := s.Drafting().Notices(ctx, "dora", 10)
	if len(hers) != 1 {
		t.Fatalf("%+v, %v", hers, err)
	}
	told[0].Number = hers[0].Number
	same(t, "the notice", hers[0], told[0], err)
	if err := s.Drafting().PutNoticeAway(ctx, "runa", hers[0].Number, now, now); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("somebody else's was put away: %v", err)
	}
	for _, do := range []func() error{
		func() error { return s.Drafting().PutNoticeAway(ctx, "dora", hers[0].Number, now, now) },
		func() error { return s.Drafting().ReturnNotice(ctx, "dora", hers[0].Number) },
		func() error { return s.Drafting().PutNoticeAway(ctx, "dora", hers[0].Number, now, now) },
	} {
		if err := do(); err != nil {
			t.Error(err)
		}
	}
	if err := s.Drafting().PutNoticeAway(ctx, "dora", 0, now, now); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a notice that is not there was put away: %v", err)
	}

	f := model.Feedback{Report: "lots", Result: 0, Person: "dora", At: now, Says: awkward}
	if f.Number, err = s.Drafting().AddFeedback(ctx, f); err != nil {
		t.Fatal(err)
	}
	f.State, f.Answer, f.AnsweredBy, f.AnsweredAt = "answered", awkward, "lila", now.Add(time.Minute)
	if err := s.Drafting().AnswerFeedback(ctx, f); err != nil {
		t.Fatal(err)
	}
	back, err := s.Drafting().FeedbackNumbered(ctx, f.Number)
	same(t, "the feedback", back, f, err)
	if list, err := s.Drafting().Feedback(ctx, "runa", 10); err != nil || len(list) != 0 {
		t.Errorf("somebody else's feedback: %+v, %v", list, err)
	}
}

func TestTheGlossaryIsKept(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	term := model.Term{ID: "net", Name: awkward, Also: []string{"mass", awkward}, Meaning: awkward, Owner: "aron",
		ChangedAt: now, ChangedBy: "aron"}
	if err := s.Meaning().PutTerm(ctx, term); err != nil {
		t.Fatal(err)
	}
	if err := s.Meaning().PutTerm(ctx, term); !errors.Is(err, model.ErrTaken) {
		t.Errorf("an id that is in use: %v", err)
	}
	term.Revision = 1
	all, err := s.Meaning().Terms(ctx)
	same(t, "the terms", all, []model.Term{term}, err)
	term.Also = []string{}
	if err := s.Meaning().PutTerm(ctx, term); err != nil {
		t.Fatal(err)
	}
	if err := s.Meaning().PutTerm(ctx, term); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	term.Revision = 2
	all, err = s.Meaning().Terms(ctx)
	same(t, "without other words", all, []model.Term{term}, err)
	if err := s.Meaning().DeleteTerm(ctx, "net"); err != nil {
		t.Error(err)
	}
	if err := s.Meaning().DeleteTerm(ctx, "net"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}

func TestTheShelfIsKept(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	r := model.Resource{ID: "guide", Title: awkward, About: awkward, Category: "Intake", Report: "lots"}
	if err := s.Shelf().PutResource(ctx, r); err != nil {
		t.Fatal(err)
	}
	if err := s.Shelf().PutResource(ctx, r); !errors.Is(err, model.ErrTaken) {
		t.Errorf("an id that is in use: %v", err)
	}
	version := model.ResourceVersion{Name: "a b.txt", Type: "text/plain", Bytes: 3, SHA256: "abc", At: now, By: "lila",
		Note: awkward}
	for number := 1; number <= 2; number++ {
		got, err := s.Shelf().AddVersion(ctx, "guide", version, []byte{0, 255, byte(number)})
		if err != nil || got != number {
			t.Fatalf("version %d has the number %d, %v", number, got, err)
		}
	}
	version.Number = 2
	r.Revision, r.Latest = 1, version
	all, err := s.Shelf().Resources(ctx)
	same(t, "the shelf", all, []model.Resource{r}, err)
	data, err := s.Shelf().Data(ctx, "guide", 1)
	same(t, "the first version", data, []byte{0, 255, 1}, err)
	if _, err := s.Shelf().Data(ctx, "guide", 3); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a version that is not there: %v", err)
	}
	r.Title = "Guide"
	if err := s.Shelf().PutResource(ctx, r); err != nil {
		t.Error(err)
	}
	if err := s.Shelf().PutResource(ctx, r); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	thrown := model.Thrown{Kind: model.ThrownDocument, ID: "guide", At: now}
	if err := s.Shelf().DeleteResource(ctx, thrown); err != nil {
		t.Error(err)
	}
	if left, err := s.Shelf().Versions(ctx, "guide"); err != nil || len(left) != 0 {
		t.Errorf("of a document that is gone: %+v, %v", left, err)
	}
	if err := s.Shelf().PutBack(ctx, thrown.Kind, thrown.ID); err != nil {
		t.Error(err)
	}
	data, err = s.Shelf().Data(ctx, "guide", 1)
	same(t, "the first version that came back", data, []byte{0, 255, 1}, err)
	if err := s.Shelf().ForgetResource(ctx, "guide"); err != nil {
		t.Error(err)
	}
	if err := s.Shelf().DeleteResource(ctx, thrown); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}

func TestSecretsAreKeptAsTheyAreSealed(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	if _, err := s.Secrets().Sealed(ctx, "shop"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("before: %v", err)
	}
	for i, sealed := range [][]byte{{0, 1, 2}, {255, 0}} {
		if err := s.Secrets().PutSecret(ctx, "shop", sealed, "lila", now.Add(time.Duration(i)*time.Hour)); err != nil {
			t.Fatal(err)
		}
		got, err := s.Secrets().Sealed(ctx, "shop")
		same(t, "what is sealed", got, sealed, err)
	}
	all, err := s.Secrets().Secrets(ctx)
	same(t, "the secrets", all, []model.Secret{{Name: "shop", From: model.SecretOfStore, ChangedBy: "lila",
		ChangedAt: now.Add(time.Hour)}}, err)
	if err := s.Secrets().DeleteSecret(ctx, "shop"); err != nil {
		t.Error(err)
	}
	if err := s.Secrets().DeleteSecret(ctx, "shop"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}

func TestTheAddressBookTellsItsChanges(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	a := model.Address{Nickname: "hal", Name: awkward, Mail: "hal@brackenfell.example", Units: []string{"UF-HOL"},
		Groups: []string{"districts"}, Owner: "dora"}
	book := s.Sending()
	if err := book.PutAddress(ctx, a, "dora", now); err != nil {
		t.Fatal(err)
	}
	if err := book.PutAddress(ctx, a, "dora", now); !errors.Is(err, model.ErrTaken) {
		t.Errorf("a nickname that is in use: %v", err)
	}
	all, err := book.Addresses(ctx)
	if len(all) != 1 {
		t.Fatalf("%+v, %v", all, err)
	}
	a.ID, a.Revision = all[0].ID, all[0].Revision
	same(t, "the entry", all[0], a, err)
	a.Mail = "hal.heath@brackenfell.example"
	if err := book.PutAddress(ctx, a, "lila", now.Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	if err := book.PutAddress(ctx, a, "lila", now); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	if err := book.DeleteAddress(ctx, "hal", "adda", now.Add(2*time.Hour)); err != nil {
		t.Fatal(err)
	}
	if err := book.DeleteAddress(ctx, "hal", "adda", now); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	history, err := book.AddressHistory(ctx, "hal")
	if err != nil || len(history) != 3 || history[0].What != "deleted" || history[0].By != "adda" ||
		history[1].Entry.Mail != a.Mail || history[2].Entry.Name != awkward || !history[2].At.Equal(now) {
		t.Errorf("its history is %+v, %v", history, err)
	}
}
