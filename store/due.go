package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"mantilla/core/period"
	"mantilla/model"
)

// DueControls returns the run controls whose next due moment has come, those
// that wait longest first.
func (s *Store) DueControls(ctx context.Context, now time.Time, limit int) ([]model.Control, error) {
	rows, err := s.read.QueryContext(ctx, controlColumns+` where c.next_at <= ? and not c.paused and c.deleted_at is null order by c.next_at limit ?`, stamp(now), limit)
	return collect(rows, err, func(r *sql.Rows) (model.Control, error) { return scanControl(r) })
}

// NextDue returns when the next control is due; the zero time when none is.
func (s *Store) NextDue(ctx context.Context) (time.Time, error) {
	var at sql.NullString
	err := s.read.QueryRowContext(ctx, `select min(next_at) from control where next_at is not null and not paused and deleted_at is null`).Scan(&at)
	return unstamp(at), explain(err)
}

// Timed returns all run controls that are due some time, or were and may say why
// they no longer are, by their next moment.
func (s *Store) Timed(ctx context.Context, w model.Seen) ([]model.Control, error) {
	test, args := sharedWhere(w, "c")
	rows, err := s.read.QueryContext(ctx, controlColumns+` where c.deleted_at is null and (c.next_at is not null or exists (select 1 from due_note n where n.control = c.id)) and `+test+` order by c.next_at, c.id`, args...)
	return collect(rows, err, func(r *sql.Rows) (model.Control, error) { return scanControl(r) })
}

// SettleDue settles due moments in one transaction. A moment that was settled
// before, or of a control whose timetable was changed meanwhile, is left out:
// each moment gives its runs once, whatever happens between.
func (s *Store) SettleDue(ctx context.Context, all []model.Due) (queued int, err error) {
	err = s.change(ctx, func(tx *sql.Tx) error {
		queued = 0
		prepared := &statements{tx, map[string]*sql.Stmt{}}
		for _, d := range all {
			n, err := settleDue(ctx, prepared, d)
			if err != nil {
				return err
			}
			queued += n
		}
		return nil
	})
	return queued, err
}

func settleDue(ctx context.Context, tx carrying, d model.Due) (queued int, err error) {
	done, err := tx.ExecContext(ctx, `update control set next_at = ? where id = ? and next_at = ? and deleted_at is null and not paused`, optional(d.Next), d.Control, stamp(d.Moment))
	if err != nil {
		return 0, err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return 0, err
	}
	for i := range d.Runs {
		added, err := addDueRun(ctx, tx, &d.Runs[i])
		if err != nil {
			return 0, err
		}
		if added {
			queued += len(d.Runs[i].Runs)
		} else if d.State == "" { // a clock that was set back, say
			d.State, d.Reason = "skipped", "it ran for this moment before"
		}
	}
	if d.State != "" {
		_, err = tx.ExecContext(ctx, `insert or replace into due_note (control, moment, state, reason) values (?, ?, ?, ?)`, d.Control, stamp(d.Moment), d.State, d.Reason)
	}
	return queued, err
}

// addDueRun queues the runs of a moment and part, unless there are some: then a
// clock was set back, or a part was named twice.
func addDueRun(ctx context.Context, tx carrying, c *model.ControlRun) (added bool, err error) {
	var there bool
	err = tx.QueryRowContext(ctx, `select exists (select 1 from control_run where control = ? and moment = ? and part = ?)`, c.Control, optional(c.Moment), c.Part).Scan(&there)
	if err != nil || there {
		return false, err
	}
	return true, addControlRun(ctx, tx, c)
}

// Refuse notes that a moment of a control gave no run for a reason, and sets the
// next one; zero ends its timetable.
func (s *Store) Refuse(ctx context.Context, d model.Due) error {
	d.Runs, d.State = nil, "refused"
	_, err := s.SettleDue(ctx, []model.Due{d})
	return err
}

// SetNext sets a control's next due moment; zero for none.
func (s *Store) SetNext(ctx context.Context, control string, next time.Time) error {
	_, err := s.write.ExecContext(ctx, `update control set next_at = ? where id = ?`, optional(next), control)
	return explain(err)
}

// PauseControl stops a control's timetable for a while, or lets it go on.
func (s *Store) PauseControl(ctx context.Context, control string, paused bool, next time.Time) error {
	_, err := s.write.ExecContext(ctx, `update control set paused = ?, next_at = ? where id = ?`, paused, optional(next), control)
	return explain(err)
}

// DueNotes returns the moments that gave no run since a time, the newest first.
func (s *Store) DueNotes(ctx context.Context, since time.Time, limit int) ([]model.DueNote, error) {
	rows, err := s.read.QueryContext(ctx, `select control, moment, state, reason from due_note where moment >= ? order by moment desc limit ?`, stamp(since), limit)
	return collect(rows, err, func(r *sql.Rows) (n model.DueNote, err error) {
		var at sql.NullString
		err = r.Scan(&n.Control, &at, &n.State, &n.Reason)
		n.Moment = unstamp(at)
		return n, err
	})
}

// TimedRuns returns the runs of due moments, the newest first.
func (s *Store) TimedRuns(ctx context.Context, limit int) ([]model.ControlRun, error) {
	return s.controlRuns(ctx, `where moment is not null order by number desc limit ?`, limit)
}

// ToSend returns the runs of controls that have ended and wait to be sent.
// Those named are left out.
func (s *Store) ToSend(ctx context.Context, limit int, without []int64) ([]model.ControlRun, error) {
	list, err := json.Marshal(append([]int64{}, without...))
	if err != nil {
		return nil, err
	}
	return s.controlRuns(ctx, `where sending = 'waiting' and number not in (select value from json_each(?))
		and not exists (select 1 from run r where r.control_run = control_run.number and r.state in ('waiting', 'running')) order by number limit ?`, string(list), limit)
}

// BeginSending records that the files of a control's run are being composed:
// what cannot be recorded is not begun.
func (s *Store) BeginSending(ctx context.Context, controlRun int64) error {
	done, err := s.write.ExecContext(ctx, `update control_run set composing = 1 where number = ? and sending = 'waiting'`, controlRun)
	return onlyIf(done, explain(err), model.ErrStale)
}

// SettleSending lets go what a control's run sends and marks it as sent, in one
// transaction; when composing failed, what is held of it is thrown away.
func (s *Store) SettleSending(ctx context.Context, controlRun int64, state, note string) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `update control_run set sending = ?, sent_note = ?, composing = 0 where number = ? and sending = 'waiting'`, state, note, controlRun)
		if err := onlyIf(done, err, model.ErrStale); err != nil {
			return err
		}
		release := `update parcel set held = 0 where control_run = ? and held`
		if state == "failed" {
			release = `delete from parcel where control_run = ? and held`
		}
		_, err = tx.ExecContext(ctx, release, controlRun)
		return err
	})
}

// AgainControlRun puts what failed of a control's run back in the queue: its runs
// that gave no result, which keep why, and its sending. It fails with
// [ErrNotFound] when nothing of it failed.
func (s *Store) AgainControlRun(ctx context.Context, controlRun int64) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		var open int64
		for _, text := range []string{
			`update run set state = 'waiting', crashes = 0, rows = 0, started_at = null, ended_at = null, reason = '',
				note = trim(note || ' tried again after: ' || case reason when '' then state else reason end)
				where control_run = ? and state in ('failed', 'stopped')`,
			`update control_run set sending = 'waiting', sent_note = '', crashes = 0 where number = ? and sending = 'failed'`,
		} {
			done, err := tx.ExecContext(ctx, text, controlRun)
			if err != nil {
				return err
			}
			n, err := done.RowsAffected()
			if err != nil {
				return err
			}
			open += n
		}
		if open == 0 {
			return model.ErrNotFound
		}
		return nil
	})
}

// Calendars returns all calendars of days off.
func (s *Store) Calendars(ctx context.Context) ([]model.Calendar, error) {
	rows, err := s.read.QueryContext(ctx, `select id, title, text, days, revision from calendar order by id`)
	return collect(rows, err, func(r *sql.Rows) (c model.Calendar, err error) {
		var days string
		if err = r.Scan(&c.ID, &c.Title, &c.Text, &days, &c.Revision); err != nil {
			return c, err
		}
		return c, json.Unmarshal([]byte(days), &c.Days)
	})
}

// PutCalendar keeps a calendar, in the place of one of the same id.
func (s *Store) PutCalendar(ctx context.Context, c model.Calendar) error {
	days, err := json.Marshal(append([]period.Day{}, c.Days...))
	if err != nil {
		return err
	}
	_, err = s.write.ExecContext(ctx, `insert into calendar (id, title, text, days) values (?1, ?2, ?3, ?4)
		on conflict (id) do update set title = ?2, text = ?3, days = ?4, revision = revision + 1`, c.ID, c.Title, c.Text, string(days))
	return explain(err)
}

// DeleteCalendar deletes a calendar.
func (s *Store) DeleteCalendar(ctx context.Context, id string) error {
	done, err := s.write.ExecContext(ctx, `delete from calendar where id = ?`, id)
	return onlyIf(done, explain(err), model.ErrNotFound)
}

// PutFeed keeps the digest of a person's secret, in the place of an earlier one.
func (s *Store) PutFeed(ctx context.Context, person, digest string) error {
	_, err := s.write.ExecContext(ctx, `insert into feed (person, digest) values (?1, ?2) on conflict (person) do update set digest = ?2`, person, digest)
	return explain(err)
}

// FeedPerson returns whose secret has a digest.
func (s *Store) FeedPerson(ctx context.Context, digest string) (model.Person, error) {
	return scanPerson(s.read.QueryRowContext(ctx, personColumns+` where name = (select person from feed where digest = ?) and not closed`, digest))
}

// Desk returns a desk; one that nobody made yet is empty.
func (s *Store) Desk(ctx context.Context, kind, owner string) (model.Desk, error) {
	d := model.Desk{Kind: kind, Owner: owner, Tiles: json.RawMessage("[]")}
	var tiles string
	err := s.read.QueryRowContext(ctx, `select tiles, revision from desk where kind = ? and owner = ?`, kind, owner).Scan(&tiles, &d.Revision)
	if errors.Is(err, sql.ErrNoRows) {
		return d, nil
	}
	d.Tiles = json.RawMessage(tiles)
	return d, explain(err)
}

// PutDesk keeps a desk, unless it was changed since the revision seen.
func (s *Store) PutDesk(ctx context.Context, d model.Desk) error {
	if d.Revision == 0 {
		done, err := s.write.ExecContext(ctx, `insert into desk (kind, owner, tiles) values (?, ?, ?) on conflict do nothing`, d.Kind, d.Owner, string(d.Tiles))
		return onlyIf(done, explain(err), model.ErrStale)
	}
	done, err := s.write.ExecContext(ctx, `update desk set tiles = ?, revision = revision + 1 where kind = ? and owner = ? and revision = ?`, string(d.Tiles), d.Kind, d.Owner, d.Revision)
	return onlyIf(done, explain(err), model.ErrStale)
}

// LatestOf returns the numbers of the newest results of a step of a control, of
// a part by its key or name, that are in sight.
func (s *Store) LatestOf(ctx context.Context, sees model.Sight, control string, step int, part string, limit int) ([]int64, error) {
	test, args := seenWhere(sees, "k")
	rows, err := s.read.QueryContext(ctx, `select k.number from control_run c join run r on r.control_run = c.number join result k on k.run = r.number
		where c.control = ? and r.step = ? and (? in (c.part, c.part_name)) and `+test+` order by k.number desc limit ?`, append(append([]any{control, step, part}, args...), limit)...)
	return collect(rows, err, func(r *sql.Rows) (n int64, err error) { return n, r.Scan(&n) })
}
