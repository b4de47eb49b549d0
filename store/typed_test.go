package store

import (
	"encoding/json"
	"errors"
	"testing"
	"time"

	"mantilla/model"
)

func TestSignsHoldsAndNotes(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	result, k := sealed(t, s, 3).Number, s.Keeping()
	lila := model.Sign{Person: "lila", Title: "Lila", At: now, Says: awkward}
	act := model.Act{What: model.ActSigned, Person: "lila", At: now, Says: awkward}
	if err := k.PutSigns(ctx, result, nil, []model.Sign{lila}, true, act); err != nil {
		t.Fatal(err)
	}
	if err := k.PutSigns(ctx, result, nil, []model.Sign{lila}, true, act); !errors.Is(err, model.ErrStale) {
		t.Errorf("signed by who had not seen the other sign: %v", err)
	}
	withdrawn := model.Act{What: model.ActWithdrawn, Person: "lila", At: now.Add(time.Hour), Says: "a lot was missing"}
	if err := k.PutSigns(ctx, result, []model.Sign{lila}, nil, false, withdrawn); err != nil {
		t.Fatal(err)
	}
	held := model.Act{What: model.ActHeld, Person: "adda", At: now.Add(2 * time.Hour)}
	if err := k.PutHold(ctx, result, true, held); err != nil {
		t.Fatal(err)
	}
	if err := k.PutHold(ctx, result, true, held); !errors.Is(err, model.ErrStale) {
		t.Errorf("held twice: %v", err)
	}
	acts, err := k.Acts(ctx, result)
	same(t, "what was done", acts, []model.Act{act, withdrawn, held}, err)

	note := model.ResultNote{Result: result, Person: "dora", At: now, Says: awkward,
		About: model.NoteAbout{View: "lots", Filters: []string{"keeper~é"}, Says: "of which keeper é"}}
	if note.Number, err = k.AddNote(ctx, note); err != nil {
		t.Fatal(err)
	}
	answer := model.ResultNote{Result: result, Answers: note.Number, Person: "lila", At: now, Says: "Seen.",
		About: model.NoteAbout{Filters: []string{}}}
	if answer.Number, err = k.AddNote(ctx, answer); err != nil {
		t.Fatal(err)
	}
	notes, err := k.Notes(ctx, result)
	same(t, "the notes", notes, []model.ResultNote{note, answer}, err)
	if err := k.SettleNote(ctx, note.Number, "lila", now.Add(time.Minute)); err != nil {
		t.Fatal(err)
	}
	note.SettledBy, note.SettledAt = "lila", now.Add(time.Minute)
	got, err := k.Note(ctx, note.Number)
	same(t, "the settled note", got, note, err)
	if err := k.SettleNote(ctx, note.Number, "", time.Time{}); err != nil {
		t.Fatal(err)
	}
	if got, err = k.Note(ctx, note.Number); err != nil || got.SettledBy != "" || !got.SettledAt.IsZero() {
		t.Errorf("opened again it is %+v, %v", got, err)
	}
	if err := k.SettleNote(ctx, 99, "lila", now); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a note that is not there: %v", err)
	}

	putReport(t, s, "ages")
	rule := model.SignRule{Report: "ages", Who: []model.Opening{{Kind: "person", Name: "lila"}}, Steps: 2}
	if err := k.PutSignRule(ctx, rule); err != nil {
		t.Fatal(err)
	}
	back, err := k.SignRule(ctx, "ages")
	same(t, "who may sign", back, rule, err)
	if err := k.PutSignRule(ctx, model.SignRule{Report: "none", Steps: 1}); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("of a report that is not there: %v", err)
	}
}

func TestEntriesOfTwoPeople(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	put := func(person string, at time.Time, undoes int64, cells ...model.EntryCell) ([]model.Entry, error) {
		return s.Entering().PutEntries(ctx, "forecast", "jobs", cells, model.Entry{Person: person, At: at, Says: awkward,
			Way: model.WayTyped, Undoes: undoes})
	}
	first, err := put("dora", now, 0, model.EntryCell{Column: "figure", Key: `["J-1"]`, Value: "60"},
		model.EntryCell{Column: "figure", Key: `["J-2"]`, Value: awkward})
	if err != nil || len(first) != 2 || first[0].Change != first[0].Number || first[1].Change != first[0].Number {
		t.Fatalf("%+v, %v", first, err)
	}
	// Somebody who saw neither is told what stands there, and nothing of theirs is kept.
	_, err = put("runa", now.Add(time.Minute), 0, model.EntryCell{Column: "figure", Key: `["J-3"]`, Value: "1"},
		model.EntryCell{Column: "figure", Key: `["J-1"]`, Value: "70"})
	var conflict *model.EntryConflict
	if !errors.As(err, &conflict) || conflict.Entry.Value != "60" || !errors.Is(err, model.ErrStale) ||
		err.Error() != "dora typed 60 into figure of J-1 meanwhile" {
		t.Errorf("the conflict is %v", err)
	}
	if there, err := s.Entering().Cell(ctx, "forecast", "jobs", "figure", `["J-3"]`); err != nil || len(there) != 0 {
		t.Errorf("half of a refused change is kept: %+v, %v", there, err)
	}
	second, err := put("runa", now.Add(time.Hour), 0,
		model.EntryCell{Column: "figure", Key: `["J-1"]`, Value: "70", Seen: first[0].Number})
	if err != nil {
		t.Fatal(err)
	}
	cell, err := s.Entering().Cell(ctx, "forecast", "jobs", "figure", `["J-1"]`)
	same(t, "all that was typed into a cell", cell, []model.Entry{second[0], first[0]}, err)
	all, err := s.Entering().Entries(ctx, "forecast", "jobs", time.Time{})
	same(t, "what stands now", all, []model.Entry{first[1], second[0]}, err)
	all, err = s.Entering().Entries(ctx, "forecast", "jobs", now.Add(time.Minute))
	same(t, "what stood then", all, first, err)
	mine, err := s.Entering().LastChange(ctx, "forecast", "jobs", "dora")
	same(t, "what dora changed last", mine, first, err)
	if _, err = put("dora", now.Add(2*time.Hour), first[0].Change,
		model.EntryCell{Column: "figure", Key: `["J-2"]`, Value: "", Seen: first[1].Number}); err != nil {
		t.Fatal(err)
	}
	if mine, err = s.Entering().LastChange(ctx, "forecast", "jobs", "dora"); err != nil || len(mine) != 0 {
		t.Errorf("what was undone can be undone again: %+v, %v", mine, err)
	}
}

func TestFilesOfTables(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	v := model.FileVersion{Source: "budget", Table: "plan", Name: awkward, Bytes: 4, Digest: "abc", Rows: 2, LeftOut: 1,
		Faults: json.RawMessage(`[{"line":3}]`), Person: "lila", At: now}
	ready := func() error { return nil }
	for i, data := range []string{"one\n", "two\n"} {
		number, err := s.Files().Add(ctx, v, []byte(data), ready)
		if err != nil || number != int64(i)+1 {
			t.Fatalf("%d, %v", number, err)
		}
	}
	broken := errors.New("the table could not be made")
	if _, err := s.Files().Add(ctx, v, []byte("three\n"), func() error { return broken }); !errors.Is(err, broken) {
		t.Errorf("a file whose table was not made: %v", err)
	}
	all, err := s.Files().Versions(ctx, "budget")
	v.Number, v.InUse = 2, true
	first := v
	first.Number, first.InUse = 1, false
	same(t, "the files", all, []model.FileVersion{v, first}, err)
	got, data, err := s.Files().Version(ctx, "budget", "plan", 1)
	same(t, "the first file", got, first, err)
	same(t, "its bytes", string(data), "one\n", err)
	if _, _, err := s.Files().Version(ctx, "budget", "other", 1); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a file of another table: %v", err)
	}
	if err := s.Files().Use(ctx, first, func() error { return broken }); !errors.Is(err, broken) {
		t.Errorf("an earlier one whose table was not made: %v", err)
	}
	inUse, err := s.Files().InUse(ctx, "budget")
	same(t, "what the table has", string(inUse["plan"]), "two\n", err)
	if err := s.Files().Use(ctx, first, ready); err != nil {
		t.Fatal(err)
	}
	inUse, err = s.Files().InUse(ctx, "budget")
	same(t, "what it has then", string(inUse["plan"]), "one\n", err)

	look, err := s.Files().Looked(ctx, "budget", "plan")
	same(t, "before anybody looked", look, model.FileLook{Source: "budget", Table: "plan"}, err)
	look = model.FileLook{Source: "budget", Table: "plan", At: now, State: "etag", Digest: "abc", Fault: awkward}
	for range 2 {
		if err := s.Files().PutLook(ctx, look); err != nil {
			t.Fatal(err)
		}
	}
	back, err := s.Files().Looked(ctx, "budget", "plan")
	same(t, "the look", back, look, err)
}

func TestStatementsAreKept(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	x := model.Statement{Report: "payouts", Declared: "bank", Name: awkward, Digest: "abc", Lines: 3, First: "2026-09-01",
		Until: "2026-09-30", Total: "-12.50", At: now, By: "runa"}
	number, err := s.Reconciling().AddStatement(ctx, x, []byte{0, 255})
	if err != nil {
		t.Fatal(err)
	}
	x.Number = number
	got, data, err := s.Reconciling().Statement(ctx, number)
	same(t, "the statement", got, x, err)
	same(t, "its file", data, []byte{0, 255}, err)
	if others, err := s.Reconciling().Statements(ctx, "lots"); err != nil || len(others) != 0 {
		t.Errorf("of another report: %+v, %v", others, err)
	}
	if err := s.Reconciling().DeleteStatement(ctx, number); err != nil {
		t.Error(err)
	}
	if _, _, err := s.Reconciling().Statement(ctx, number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("after it was deleted: %v", err)
	}
	if err := s.Reconciling().DeleteStatement(ctx, number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}
