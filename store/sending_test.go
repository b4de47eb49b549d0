package store

import (
	"errors"
	"slices"
	"testing"
	"time"

	"mantilla/model"
)

func parcel(key string, to ...string) model.Parcel {
	p := model.Parcel{
		Key:     key,
		Way:     "mail",
		Title:   key,
		Owner:   "me",
		MadeAt:  now,
		Payload: []byte("whole"),
		Files:   []model.Filed{{Name: "a.csv", Bytes: 3}},
	}
	for _, a := range to {
		p.Recipients = append(p.Recipients, model.Recipient{Address: a, Name: a, Line: "to"})
	}
	return p
}

func TestAParcelOfAKeyIsMadeOnce(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	for range 2 {
		if err := s.Sending().AddParcels(ctx, []model.Parcel{parcel("one", "a", "b"), parcel("two", "c")}); err != nil {
			t.Fatal(err)
		}
	}
	all, err := s.Sending().Parcels(ctx, "me", "", 0, 10)
	if err != nil || len(all) != 2 || all[0].Title != "two" || len(all[1].Recipients) != 2 || all[1].Payload != nil ||
		all[1].Files[0].Bytes != 3 {
		t.Fatalf("%+v, %v", all, err)
	}
	if others, err := s.Sending().Parcels(ctx, "you", "", 0, 10); err != nil || len(others) != 0 {
		t.Errorf("%+v, %v", others, err)
	}
	if older, err := s.Sending().Parcels(ctx, "", model.Waiting, all[0].Number, 10); err != nil || len(older) != 1 {
		t.Errorf("%+v, %v", older, err)
	}
}

// minute is how long these parcels wait after a try.
func minute(int) time.Duration { return time.Minute }

func TestParcelsWaitAndEnd(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	if err := s.Sending().AddParcels(ctx, []model.Parcel{parcel("one", "a", "b"), parcel("two", "c")}); err != nil {
		t.Fatal(err)
	}
	p, err := s.Sending().NextParcel(ctx, "mail", now, minute)
	if err != nil || p.Title != "one" || string(p.Payload) != "whole" {
		t.Fatalf("%+v, %v", p, err)
	}
	if p.Tries != 1 {
		t.Errorf("the try is not recorded: %+v", p)
	}
	p.State, p.NextAt, p.Reason = model.Waiting, now.Add(time.Minute), "later"
	p.Recipients[0].State, p.Recipients[1].State = model.Sent, model.Waiting
	if err := s.Sending().SettleParcel(ctx, p, now); err != nil {
		t.Fatal(err)
	}
	if at, err := s.Sending().NextSending(ctx, "mail"); err != nil || !at.Equal(now) {
		t.Errorf("next at %s, %v", at, err)
	}
	if _, err := s.Sending().NextParcel(ctx, "folder", now, minute); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("another way: %v", err)
	}
	two, err := s.Sending().NextParcel(ctx, "mail", now, minute)
	if err != nil || two.Title != "two" {
		t.Errorf("%+v, %v", two, err)
	}
	if again, err := s.Sending().NextParcel(ctx, "mail", now, minute); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("what is being tried is taken again: %+v, %v", again, err)
	}
	later := now.Add(61 * time.Second)
	two.State = model.Sent
	two.Recipients[0].State = model.Sent
	if err := s.Sending().SettleParcel(ctx, two, now); err != nil {
		t.Fatal(err)
	}
	if p, err = s.Sending().NextParcel(ctx, "mail", later, minute); err != nil || p.Title != "one" ||
		p.Recipients[0].State != model.Sent || p.Recipients[1].State != model.Waiting {
		t.Fatalf("%+v, %v", p, err)
	}
	p.State, p.Recipients[1].State, p.Recipients[1].Answer = model.Failed, model.Turned, "no such person"
	if err := s.Sending().SettleParcel(ctx, p, later); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Sending().NextParcel(ctx, "mail", later, minute); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("what failed waits: %v", err)
	}
	if err := s.Sending().MendParcel(ctx, p.Number, map[string]string{"b": "d", "a": "e"}, later); err != nil {
		t.Fatal(err)
	}
	p, err = s.Sending().NextParcel(ctx, "mail", later, minute)
	if err != nil ||
		!slices.ContainsFunc(p.Recipients,
			func(r model.Recipient) bool {
				return r.Address == "d" && r.State == model.Waiting
			}) || !slices.ContainsFunc(p.Recipients,
		func(r model.Recipient) bool { return r.Address == "a" && r.State == model.Sent }) {
		t.Errorf("who has it was replaced, or who has not was not: %+v, %v", p.Recipients, err)
	}
	if err := s.Sending().StopParcel(ctx, p.Number, later); err != nil {
		t.Fatal(err)
	}
	for _, err := range []error{s.Sending().StopParcel(ctx, p.Number, later),
		s.Sending().StopParcel(ctx, two.Number, later), s.Sending().MendParcel(ctx, two.Number, nil, later)} {
		if !errors.Is(err, model.ErrNotFound) {
			t.Errorf("got %v", err)
		}
	}
	var left int
	if err := s.db.Read.QueryRow(`select length(payload) from parcel where number = ?`,
		two.Number).Scan(&left); err != nil ||
		left != 0 {
		t.Errorf("%d bytes of what was sent are kept, %v", left, err)
	}
}

// due is a control whose moment has come.
func dueControl(t *testing.T, s *Store, id string, at time.Time) model.Control {
	t.Helper()
	if err := s.Controls().PutControl(t.Context(),
		model.Control{ID: id, Title: id, Owner: "me", Body: []byte("{}"), ChangedAt: now, Next: at}); err != nil {
		t.Fatal(err)
	}
	c, err := s.Controls().Control(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func TestADueMomentIsSettledOnce(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	c := dueControl(t, s, "daily", now)
	dueControl(t, s, "later", now.Add(time.Hour))
	if all, err := s.Controls().DueControls(ctx, now, 10); err != nil || len(all) != 1 || all[0].ID != "daily" {
		t.Fatalf("%+v, %v", all, err)
	}
	d := model.Due{Control: "daily", Moment: c.Next, Next: now.Add(24 * time.Hour),
		Runs: []model.ControlRun{{Control: "daily", AskedBy: "me", AskedAt: now, Moment: now, Part: "x", Sending: "waiting",
			Runs: []model.Run{{Report: "lots", AskedBy: "me", AskedAt: now}}}}}
	for i, want := range []int{1, 0} { // the second is of a moment that is settled
		if n, err := s.Controls().SettleDue(ctx, []model.Due{d}); err != nil || n != want {
			t.Errorf("settling it for the %d. time queues %d, %v", i+1, n, err)
		}
	}
	ran, err := s.Controls().TimedRuns(ctx, 10)
	if err != nil || len(ran) != 1 || ran[0].Part != "x" || !ran[0].Moment.Equal(now) {
		t.Errorf("%+v, %v", ran, err)
	}
	if ready, err := s.Sending().ToSend(ctx, 10, nil); err != nil || len(ready) != 0 {
		t.Errorf("what still waits is to be sent: %+v, %v", ready, err)
	}
	run := claim(t, s)
	if err := s.Runs().EndRun(ctx, run.Number, model.Failed, "no", 0, now); err != nil {
		t.Fatal(err)
	}
	ready, err := s.Sending().ToSend(ctx, 10, nil)
	if err != nil || len(ready) != 1 {
		t.Fatalf("%+v, %v", ready, err)
	}
	held := parcel("p", "a")
	held.ControlRun = ready[0].Number
	if err := errors.Join(s.Sending().BeginSending(ctx, held.ControlRun),
		s.Sending().HoldParcels(ctx, []model.Parcel{held}), s.Sending().HoldParcels(ctx, []model.Parcel{held})); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Sending().NextParcel(ctx, "mail", now, minute); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a part is sent before all are there: %v", err)
	}
	if err := s.Sending().SettleSending(ctx, held.ControlRun, "done", ""); err != nil {
		t.Fatal(err)
	}
	if p, err := s.Sending().NextParcel(ctx, "mail", now, minute); err != nil || p.Title != "p" {
		t.Errorf("%+v, %v", p, err)
	}
	if err := s.Sending().SettleSending(ctx, held.ControlRun, "done", ""); !errors.Is(err, model.ErrStale) {
		t.Errorf("it was sent twice: %v", err)
	}
	if all, err := s.Sending().Parcels(ctx, "", "", 0, 10); err != nil || len(all) != 1 {
		t.Errorf("%+v, %v", all, err)
	}
	// Paused and deleted controls are not due, and a skipped moment is noted.
	if err := s.Controls().PauseControl(ctx, "later", true, time.Time{}); err != nil {
		t.Fatal(err)
	}
	if at, err := s.Controls().NextDue(ctx); err != nil || !at.Equal(now.Add(24*time.Hour)) {
		t.Errorf("next %s, %v", at, err)
	}
	if _, err := s.Controls().SettleDue(ctx,
		[]model.Due{{Control: "daily", Moment: now.Add(24 * time.Hour), State: "skipped", Reason: "why"}}); err != nil {
		t.Fatal(err)
	}
	if notes, err := s.Controls().DueNotes(ctx, now, 10); err != nil || len(notes) != 1 || notes[0].Reason != "why" {
		t.Errorf("%+v, %v", notes, err)
	}
	if at, err := s.Controls().NextDue(ctx); err != nil || !at.IsZero() {
		t.Errorf("nothing is due any more, but %s, %v", at, err)
	}
}
