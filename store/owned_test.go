package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"testing"
	"time"

	"database/sql"

	"mantilla/core/period"
	"mantilla/model"
	"mantilla/store/catalog"
	"mantilla/store/controls"
)

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
	thrown := model.Thrown{Kind: model.ThrownCalendar, ID: "holidays", Name: awkward, Owner: "lila", At: now}
	if err := s.Controls().DeleteCalendar(ctx, thrown); err != nil {
		t.Error(err)
	}
	if err := s.Controls().DeleteCalendar(ctx, thrown); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	if err := s.Controls().PutBack(ctx, thrown.Kind, thrown.ID); err != nil {
		t.Error(err)
	}
	all, err = s.Controls().Calendars(ctx)
	same(t, "what came back", all, []model.Calendar{c}, err)
	if err := s.Controls().PutBack(ctx, thrown.Kind, thrown.ID); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("brought back twice: %v", err)
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
	thrown := model.Thrown{Kind: model.ThrownMark, ID: fmt.Sprintf("M-%d", mark.Number), At: now}
	if err := s.Criteria().DeleteMark(ctx, thrown); err != nil {
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
