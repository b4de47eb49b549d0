package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"testing"
	"time"

	"mantilla/core/period"
	"mantilla/model"
	"mantilla/store/catalog"
	"mantilla/store/controls"
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

func TestOverwrittenControlsAreKept(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	c := model.Control{ID: "month", Title: awkward, Owner: "dora", Shared: "field", Body: json.RawMessage(`{"steps":[]}`),
		ChangedAt: now, ChangedBy: "dora", Next: now.Add(time.Hour)}
	if err := s.Controls().PutControl(ctx, c); err != nil {
		t.Fatal(err)
	}
	if err := s.Controls().PutControl(ctx, c); !errors.Is(err, model.ErrTaken) {
		t.Errorf("an id that is in use: %v", err)
	}
	c.Revision = 1
	got, err := s.Controls().Control(ctx, "month")
	same(t, "the control", got, c, err)
	for i := range controls.KeptPast + 5 {
		c.Title = "Month " + time.Month(i%12+1).String() + string(rune('a'+i/12))
		if err := s.Controls().PutControl(ctx, c); err != nil {
			t.Fatal(err)
		}
		c.Revision++
	}
	if err := s.Controls().PutControl(ctx, c); err != nil { // with nothing changed: no version
		t.Fatal(err)
	}
	past, err := s.Controls().PastControls(ctx, "month")
	if err != nil || len(past) != controls.KeptPast || past[0].Revision != c.Revision-1 || past[0].Title == c.Title {
		t.Errorf("%d earlier versions, the newest %+v, %v", len(past), past[0], err)
	}
	stale := c
	if err := s.Controls().PutControl(ctx, stale); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	if err := s.Controls().DeleteControl(ctx, "month", now); err != nil {
		t.Fatal(err)
	}
	if due, err := s.Controls().DueControls(ctx, now.Add(2*time.Hour), 10); err != nil || len(due) != 0 {
		t.Errorf("one that is deleted is due: %+v, %v", due, err)
	}
	if err := s.Controls().RestoreControl(ctx, "month", now.Add(3*time.Hour)); err != nil {
		t.Fatal(err)
	}
	next, err := s.Controls().NextDue(ctx)
	same(t, "when it is due again", next, now.Add(3*time.Hour), err)
	if err := s.Controls().RestoreControl(ctx, "month", now); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("brought back twice: %v", err)
	}
}

func TestCalendarsAndFeeds(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	c := model.Calendar{ID: "holidays", Title: awkward, Text: "BEGIN:VCALENDAR",
		Days: []period.Day{period.Date(2026, 12, 25)}}
	if err := s.Controls().PutCalendar(ctx, c); err != nil {
		t.Fatal(err)
	}
	all, err := s.Controls().Calendars(ctx)
	if len(all) != 1 {
		t.Fatalf("%+v, %v", all, err)
	}
	c.Revision = all[0].Revision
	same(t, "the calendar", all[0], c, err)
	if err := s.Controls().DeleteCalendar(ctx, "holidays"); err != nil {
		t.Error(err)
	}
	if err := s.Controls().DeleteCalendar(ctx, "holidays"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	if err := s.People().PutPerson(ctx, model.Person{Name: "dora", Title: "Dora", Role: model.Runner,
		Password: "hash"}); err != nil {
		t.Fatal(err)
	}
	for _, digest := range []string{"one", "two"} { // the second takes the place of the first
		if err := s.Controls().PutFeed(ctx, "dora", digest); err != nil {
			t.Fatal(err)
		}
	}
	if p, err := s.Controls().FeedPerson(ctx, "two"); err != nil || p.Name != "dora" {
		t.Errorf("whose it is: %+v, %v", p, err)
	}
	if _, err := s.Controls().FeedPerson(ctx, "one"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("the earlier address still works: %v", err)
	}
}

func TestDesksAndTheirTiles(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	none, err := s.Desks().Desk(ctx, "person", "dora")
	if err != nil || none.Revision != 0 {
		t.Fatalf("%+v, %v", none, err)
	}
	d := model.Desk{Kind: "person", Owner: "dora", Tiles: json.RawMessage(`[{"control":"month"}]`)}
	if err := s.Desks().PutDesk(ctx, model.DeskChange{Desk: d}); err != nil {
		t.Fatal(err)
	}
	if err := s.Desks().PutDesk(ctx, model.DeskChange{Desk: d}); !errors.Is(err, model.ErrStale) {
		t.Errorf("made twice: %v", err)
	}
	d.Revision = 1
	got, err := s.Desks().Desk(ctx, "person", "dora")
	same(t, "the desk", got, d, err)
	empty := model.Desk{Kind: "person", Owner: "dora", Tiles: json.RawMessage(`[]`), Revision: 1}
	tile := model.Tile{Kind: "person", Owner: "dora", Tile: json.RawMessage(`{"control":"month"}`), Title: awkward,
		At: now}
	if err := s.Desks().PutDesk(ctx, model.DeskChange{Desk: empty, Thrown: []model.Tile{tile}}); err != nil {
		t.Fatal(err)
	}
	tile.Number = 1
	thrown, err := s.Desks().ThrownTile(ctx, 1)
	same(t, "the tile", thrown, tile, err)
	d.Revision = 2
	if err := s.Desks().PutDesk(ctx, model.DeskChange{Desk: d, Returned: 1}); err != nil {
		t.Fatal(err)
	}
	d.Revision = 3
	if err := s.Desks().PutDesk(ctx, model.DeskChange{Desk: d, Returned: 1}); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a tile that is back already: %v", err)
	}
	if now, err := s.Desks().Desk(ctx, "person", "dora"); err != nil || now.Revision != 3 {
		t.Errorf("half of a refused change is kept: %+v, %v", now, err)
	}
}

func TestMarksUsualValuesAndFavourites(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	mark := model.Mark{Whose: "person dora", Report: "lots", Parameter: "changed", Others: "digest", At: now, Run: 1}
	if _, err := s.Criteria().MarkAt(ctx, mark); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("before: %v", err)
	}
	for i := range 2 { // the second look moves the mark
		mark.At, mark.Run = now.Add(time.Duration(i)*time.Hour), int64(i)+1
		if err := s.db.Change(ctx, func(tx *sql.Tx) error {
			return catalog.PutMarks(ctx, tx, []model.Mark{mark})
		}); err != nil {
			t.Fatal(err)
		}
	}
	all, err := s.Criteria().Marks(ctx, "lots")
	if len(all) != 1 {
		t.Fatalf("%+v, %v", all, err)
	}
	mark.Number = all[0].Number
	same(t, "the mark", all[0], mark, err)
	if err := s.Criteria().SetMark(ctx, mark.Number, now); err != nil {
		t.Fatal(err)
	}
	at, err := s.Criteria().MarkAt(ctx, mark)
	same(t, "where it was set", at, now, err)
	if err := s.Criteria().DeleteMark(ctx, mark.Number); err != nil {
		t.Error(err)
	}
	if err := s.Criteria().SetMark(ctx, mark.Number, now); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("one that is gone: %v", err)
	}

	putReport(t, s, "lots")
	c := keepCriteria(t, s, "dora", "Hollin", "")
	if err := s.Criteria().SetUsual(ctx, "dora", "lots", c.Number); err != nil {
		t.Fatal(err)
	}
	typed, err := s.Criteria().Usual(ctx, "dora", "lots")
	same(t, "the usual values", typed, c.Typed, err)
	if typed, err := s.Criteria().Usual(ctx, "runa", "lots"); err != nil || len(typed) != 0 {
		t.Errorf("somebody else's: %v, %v", typed, err)
	}

	for _, on := range []bool{true, true, false, false} {
		if err := s.Catalog().SetFavourite(ctx, "dora", "lots", on); err != nil {
			t.Fatal(err)
		}
		marked, err := s.Catalog().Favourites(ctx, "dora")
		if err != nil || (len(marked) == 1) != on {
			t.Errorf("marked %v: %v, %v", on, marked, err)
		}
	}
}

func TestWhatIsRetiredAndOpen(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	x := model.Retired{Kind: model.KindSource, ID: "old", Successor: "coop", At: now, By: "lila"}
	if err := s.People().Retire(ctx, x); err != nil {
		t.Fatal(err)
	}
	x.Successor, x.At = "", now.Add(time.Hour)
	if err := s.People().Retire(ctx, x); err != nil {
		t.Fatal(err)
	}
	all, err := s.People().Retired(ctx)
	same(t, "what is retired", all, []model.Retired{x}, err)
	if x.Instead() != "nothing takes its place" {
		t.Errorf("it says %q", x.Instead())
	}
	if err := s.People().Reinstate(ctx, model.KindGroup, "old"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("another kind of that id: %v", err)
	}
	if err := s.People().Reinstate(ctx, model.KindSource, "old"); err != nil {
		t.Error(err)
	}
	to := []model.Opening{{Kind: "everyone"}, {Kind: "group", Name: "field"}}
	for _, open := range [][]model.Opening{to, to[:1]} {
		if err := s.People().PutOpenings(ctx, "lots", open); err != nil {
			t.Fatal(err)
		}
		all, err := s.People().Openings(ctx)
		same(t, "to whom it is open", all["lots"], open, err)
	}
}
