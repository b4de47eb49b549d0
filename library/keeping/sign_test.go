package keeping_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/keeping"
	"mantilla/library/librarytest"
	"mantilla/model"
	"mantilla/render"

	"github.com/ncruces/go-sqlite3"

	"mantilla/library/reading"
)

// refused wants an error that says something.
func refused(t *testing.T, err error, says string) {
	t.Helper()
	if err == nil || !strings.Contains(err.Error(), says) {
		t.Errorf("it is answered by %v and not by %q", err, says)
	}
}

// A result is signed off in two steps by different people of those who may. It is held then, says
// so in what is taken away, and withdrawing that stays on record.
func TestSignOff(t *testing.T) {
	now := librarytest.At(morning)
	l := librarytest.WithPeople(t, now)
	runa, aron, lila := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "aron"), librarytest.SignIn(t, l,
		"lila")
	ctx := t.Context()
	run := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots",
		Typed: map[string]string{"received": "2026-09"}})
	rule := model.SignRule{Report: "intake-lots", Steps: 2, Who: []model.Opening{{Kind: "person", Name: "aron"},
		{Kind: "person", Name: "lila"}}}
	refused(t, runa.Keeping.PutSignRule(ctx, rule), "needs the role librarian")
	refused(t, lila.Keeping.PutSignRule(ctx, model.SignRule{Report: "intake-lots", Steps: 3}), "1 step or in 2")
	refused(t, lila.Keeping.PutSignRule(ctx, model.SignRule{Report: "intake-lots", Steps: 1,
		Who: []model.Opening{{Kind: "everyone"}}}), "anybody")
	if err := lila.Keeping.PutSignRule(ctx, rule); err != nil {
		t.Fatal(err)
	}
	_, err := runa.Keeping.SignOff(ctx, run.Result, "")
	refused(t, err, "are signed off by aron or lila")
	r, err := aron.Keeping.SignOff(ctx, run.Result, "")
	if err != nil || r.Signed || len(r.Signs) != 1 {
		t.Fatalf("after one step: %+v, %v", r, err)
	}
	if note := strings.Join(r.Notes(time.UTC), " "); !strings.Contains(note, "Signed, step 1, not yet signed off, by") {
		t.Errorf("it says %s", note)
	}
	_, err = aron.Keeping.SignOff(ctx, run.Result, "")
	refused(t, err, "another person signs the next step")
	if r, err = lila.Keeping.SignOff(ctx, run.Result, "as the ledger has it"); err != nil || !r.Signed {
		t.Fatalf("after two steps: %+v, %v", r, err)
	}
	_, err = lila.Keeping.SignOff(ctx, run.Result, "")
	refused(t, err, "is signed off already")
	refused(t, runa.Reading.DeleteResult(ctx, run.Result), "withdraw that or release it first")
	if said := librarytest.Told(t, runa); !strings.Contains(said, "was signed off by") {
		t.Errorf("runa is told %s", said)
	}
	found, err := runa.Reading.Results(ctx, model.ResultWish{Signed: true, Limit: 9})
	if err != nil || len(found) != 1 {
		t.Errorf("signed are %d: %v", len(found), err)
	}
	_, err = lila.Keeping.Withdraw(ctx, run.Result, "")
	refused(t, err, "say why")
	_, err = runa.Keeping.Withdraw(ctx, run.Result, "no")
	refused(t, err, "those who signed")
	if r, err = aron.Keeping.Withdraw(ctx, run.Result, "two lots were corrected"); err != nil || r.Signed ||
		len(r.Signs) > 0 {
		t.Fatalf("withdrawn it is %+v: %v", r, err)
	}
	acts, err := runa.Keeping.Acts(ctx, run.Result)
	if err != nil || len(acts) != 3 || acts[2].What != model.ActWithdrawn || acts[2].Says != "two lots were corrected" {
		t.Errorf("on record is %+v: %v", acts, err)
	}
}

// The results of a report that was deleted stay, and librarians sign them off.
func TestResultsOfADeletedReportAreSigned(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila := librarytest.SignIn(t, l, "lila")
	run := librarytest.RunWell(t, lila, capture.Ask{Report: "lot-history", Typed: map[string]string{"lot": "L26-16430"}})
	if err := lila.Catalog.DeleteReport(t.Context(), "lot-history"); err != nil {
		t.Fatal(err)
	}
	if r, err := lila.Keeping.SignOff(t.Context(), run.Result, ""); err != nil || !r.Signed {
		t.Errorf("it is signed as %+v: %v", r, err)
	}
}

// What is deleted can be brought back for 30 days, what is held is not deleted at all, by people
// or by the days that it was to be kept.
func TestHoldsAndTheTrash(t *testing.T) {
	now := librarytest.At(morning)
	l := librarytest.WithPeople(t, now)
	runa, dora := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "dora")
	ctx := t.Context()
	ask := capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}}
	held, gone := librarytest.RunWell(t, runa, ask), librarytest.RunWell(t, runa, ask)
	if _, err := runa.Keeping.Hold(ctx, held.Result, true, "for the auditors"); err != nil {
		t.Fatal(err)
	}
	_, err := dora.Keeping.Hold(ctx, held.Result, false, "")
	refused(t, err, "not found")
	refused(t, runa.Reading.DeleteResult(ctx, held.Result), "signed off or held")
	if err := runa.Reading.DeleteResult(ctx, gone.Result); err != nil {
		t.Fatal(err)
	}
	_, err = runa.Reading.Result(ctx, gone.Result)
	refused(t, err, "not found")
	for trashed, want := range map[bool]int64{false: held.Result, true: gone.Result} {
		found, err := runa.Reading.Results(ctx, model.ResultWish{Trashed: trashed, Limit: 9})
		if err != nil || len(found) != 1 || found[0].Number != want {
			t.Errorf("in the trash %v are %+v: %v", trashed, found, err)
		}
	}
	refused(t, dora.Reading.BringBack(ctx, gone.Result), "not found")
	refused(t, runa.Reading.BringBack(ctx, held.Result), "not found")
	if err := runa.Reading.BringBack(ctx, gone.Result); err != nil {
		t.Fatal(err)
	}
	back, err := runa.Reading.Result(ctx, gone.Result)
	if err != nil {
		t.Fatal(err)
	}
	if whole, err := runa.Reading.CheckSeal(ctx, back); err != nil || !whole {
		t.Errorf("what came back: %v, %v", whole, err)
	}
}

// Notes are on a result, a row or the rows behind a figure; who is mentioned or answered is told;
// they travel with what is taken away where that is asked for, until they are settled.
func TestNotes(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, lila, dora := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l,
		"dora")
	ctx := t.Context()
	run := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots",
		Typed: map[string]string{"received": "2026-09"}})
	write := func(a *library.Access, n keeping.NewNote) (model.ResultNote, error) {
		return a.Keeping.WriteNote(ctx, run.Result, n)
	}
	for says, n := range map[string]keeping.NewNote{
		"1 to 4000 characters":         {Says: "  "},
		`there is no account "nobody"`: {Says: "see @nobody"},
		"@dora does not see R-":        {Says: "@dora: yours?"},
		"is on another result":         {Says: "x", Answers: 9},
		"no view":                      {Says: "x", About: model.NoteAbout{View: "nothing", Says: "it"}},
		"say in up to":                 {Says: "x", About: model.NoteAbout{View: "lots"}},
		"filter": {Says: "x", About: model.NoteAbout{View: "lots", Filters: []string{"moon=1"},
			Says: "it"}},
		"the rows 0 to 546": {Says: "x", About: model.NoteAbout{View: "lots"}, Row: new(547)},
	} {
		_, err := write(runa, n)
		refused(t, err, says)
	}
	if _, err := write(dora, keeping.NewNote{Says: "x"}); err == nil {
		t.Error("dora writes on what she does not see")
	}
	first, err := write(runa, keeping.NewNote{Says: "why so low, @lila? mail x@example.org",
		About: model.NoteAbout{View: "lots.rows",
			Filters: []string{"district=Hollin"}, Says: "Net weight of Hollin"}})
	if err != nil {
		t.Fatal(err)
	}
	row, err := write(runa, keeping.NewNote{Says: "weighed twice", About: model.NoteAbout{View: "lots"}, Row: new(0)})
	if err != nil || len(row.About.Filters) != 1 || !strings.HasPrefix(row.About.Filters[0], "lot_no=L26-") ||
		row.About.Says != "Lot "+strings.TrimPrefix(row.About.Filters[0], "lot_no=") {
		t.Errorf("the note on a row is about %+v: %v", row.About, err)
	}
	if said := librarytest.Told(t, lila); !strings.Contains(said, "(Net weight of Hollin): why so low, @lila?") {
		t.Errorf("lila is told %s", said)
	}
	if _, err := write(lila, keeping.NewNote{Says: "the scale was out", Answers: first.Number}); err != nil {
		t.Fatal(err)
	}
	if said := librarytest.Told(t, runa); !strings.Contains(said, "the scale was out") {
		t.Errorf("runa is told %s", said)
	}
	all, err := runa.Keeping.Notes(ctx, run.Result)
	if err != nil || len(all) != 3 || all[1].Says != "the scale was out" {
		t.Errorf("the notes are %+v: %v", all, err)
	}
	found, err := runa.Reading.Results(ctx, model.ResultWish{Search: "weighed TWICE", Noted: true, Limit: 9})
	if err != nil || len(found) != 1 {
		t.Errorf("by its note it is found %d times: %v", len(found), err)
	}
	taken := func() string {
		r, err := runa.Reading.Result(ctx, run.Result)
		if err != nil {
			t.Fatal(err)
		}
		file, err := runa.Reading.TakeAway(ctx, r, reading.Take{Format: "text", Options: render.Options{Notes: true}})
		if err != nil {
			t.Fatal(err)
		}
		var out strings.Builder
		if _, err := file.Write(ctx, &out, func(render.Progress) {}); err != nil {
			t.Fatal(err)
		}
		return out.String()
	}
	if text := taken(); !strings.Contains(text, "of Net weight of Hollin: why so low") ||
		!strings.Contains(text, "lila answered on") {
		t.Errorf("taken away is %.600s", text)
	}
	if _, err := dora.Keeping.SettleNote(ctx, first.Number, true); err == nil {
		t.Error("dora settles a note on what she does not see")
	}
	if n, err := lila.Keeping.SettleNote(ctx, first.Number, true); err != nil || n.SettledBy != "lila" {
		t.Errorf("settled it is %+v: %v", n, err)
	}
	if text := taken(); strings.Contains(text, "why so low") || strings.Contains(text, "the scale was out") ||
		!strings.Contains(text, "weighed twice") {
		t.Errorf("once it is settled, taken away is %.600s", text)
	}
}

// A run control runs a closed period again and compares it with what was signed off: when a row of
// the source has changed since, those who signed are told which, and when nothing has, nobody is.
func TestThePastHasChanged(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, lila := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "lila")
	ctx := t.Context()
	typed := map[string]string{"received": "2026-09"}
	signed := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots", Typed: typed})
	librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots", Typed: typed}) // is not signed
	if _, err := lila.Keeping.SignOff(ctx, signed.Result, ""); err != nil {
		t.Fatal(err)
	}
	c := librarytest.Control("again", func(c *controls.Control) {
		c.Steps, c.Restate = []controls.Step{{Report: "intake-lots", Typed: typed}}, true
	})
	if kept, err := runa.Controls.PutControl(ctx, c); err != nil || !kept.Restate {
		t.Fatalf("the control is kept as %+v: %v", kept, err)
	}
	rerun := func() *reading.Result {
		t.Helper()
		before, err := runa.Capture.Runs(ctx, model.RunWish{Limit: 1})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := runa.Controls.RunControl(ctx, "again", nil, false); err != nil {
			t.Fatal(err)
		}
		var last model.Run
		librarytest.Until(t, "the comparison", func() bool {
			runs, err := runa.Capture.Runs(ctx, model.RunWish{Limit: 1})
			if err != nil {
				t.Fatal(err)
			}
			last = runs[0]
			return last.Number == before[0].Number+2 && last.State.Ended()
		})
		r, err := runa.Reading.Result(ctx, last.Result)
		if err != nil {
			t.Fatalf("it ended as %s, %s: %v", last.State, last.Reason, err)
		}
		return r
	}
	if r := rerun(); r.Manifest.Made.Of[0].Result != signed.Result || !r.Manifest.Made.Restates ||
		strings.Contains(librarytest.Told(t, lila), "The past has changed") {
		t.Errorf("with nothing changed it is %+v, and lila is told %s", r.Manifest.Made, librarytest.Told(t, lila))
	}
	db, err := sqlite3.Open(l.Settings().DataDir + "/coop.db")
	if err != nil {
		t.Fatal(err)
	}
	err = errors.Join(db.BusyTimeout(10*time.Second),
		db.Exec(`update lot set net_g = net_g + 1000 where received_on = '2026-09-10' and lot_no =
		(select min(lot_no) from lot where received_on = '2026-09-10')`), db.Close())
	if err != nil {
		t.Fatal(err)
	}
	r := rerun()
	if said := says(t, runa, r.Number); said != "1 changed, 0 new, 0 gone, 546 the same." {
		t.Error(said)
	}
	if said := librarytest.Told(t, lila); !strings.Contains(said, "The past has changed: R-000001, Intake lots") ||
		!strings.Contains(said, "1 changed, 0 new, 0 gone") {
		t.Errorf("lila is told %s", said)
	}
}
