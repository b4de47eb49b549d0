package controls

import (
	"context"
	"database/sql"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// DueControls returns the run controls whose next due moment has come, those
// that wait longest first.
func (s Controls) DueControls(ctx context.Context, now time.Time, limit int) ([]model.Control, error) {
	rows, err := s.Read.QueryContext(ctx,
		controlColumns+` where c.next_at <= ? and not c.paused and c.deleted_at is null order by c.next_at limit ?`,
		db.Stamp(now), limit)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Control, error) { return scanControl(r) })
}

// NextDue returns when the next control is due; the zero time when none is.
func (s Controls) NextDue(ctx context.Context) (time.Time, error) {
	var at sql.NullString
	err := s.Read.QueryRowContext(ctx,
		`select min(next_at) from control where next_at is not null and not paused and deleted_at is null`).Scan(&at)
	return db.Unstamp(at), db.Explain(err)
}

// Timed returns all run controls that are due some time, or were and may say why
// they no longer are, by their next moment.
func (s Controls) Timed(ctx context.Context, w model.Seen) ([]model.Control, error) {
	test, args := db.SharedWhere(w, "c")
	rows, err := s.Read.QueryContext(ctx,
		controlColumns+` where c.deleted_at is null and (c.next_at is not null or exists (select 1 from due_note n
			where n.control = c.id)) and `+test+` order by c.next_at, c.id`, args...)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Control, error) { return scanControl(r) })
}

// SettleDue settles due moments in one transaction. A moment that was settled
// before, or of a control whose timetable was changed meanwhile, is left out:
// each moment gives its runs once, whatever happens between.
func (s Controls) SettleDue(ctx context.Context, all []model.Due) (queued int, err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		queued = 0
		prepared := db.Prepared(tx)
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

func settleDue(ctx context.Context, tx db.Carrying, d model.Due) (queued int, err error) {
	done, err := tx.ExecContext(ctx,
		`update control set next_at = ? where id = ? and next_at = ? and deleted_at is null and not paused`,
		db.Optional(d.Next),
		d.Control, db.Stamp(d.Moment))
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
		_, err = tx.ExecContext(ctx, `insert or replace into due_note (control, moment, state, reason) values (?, ?, ?, ?)`,
			d.Control, db.Stamp(d.Moment), d.State, d.Reason)
	}
	return queued, err
}

// addDueRun queues the runs of a moment and part, unless there are some: then a
// clock was set back, or a part was named twice.
func addDueRun(ctx context.Context, tx db.Carrying, c *model.ControlRun) (added bool, err error) {
	var there bool
	err = tx.QueryRowContext(ctx,
		`select exists (select 1 from control_run where control = ? and moment = ? and part = ?)`, c.Control,
		db.Optional(c.Moment), c.Part).Scan(&there)
	if err != nil || there {
		return false, err
	}
	return true, addControlRun(ctx, tx, c)
}

// Refuse notes that a moment of a control gave no run for a reason, and sets the
// next one; zero ends its timetable.
func (s Controls) Refuse(ctx context.Context, d model.Due) error {
	d.Runs, d.State = nil, "refused"
	_, err := s.SettleDue(ctx, []model.Due{d})
	return err
}

// SetNext sets a control's next due moment; zero for none.
func (s Controls) SetNext(ctx context.Context, control string, next time.Time) error {
	_, err := s.Write.ExecContext(ctx, `update control set next_at = ? where id = ?`, db.Optional(next), control)
	return db.Explain(err)
}

// PauseControl stops a control's timetable for a while, or lets it go on.
func (s Controls) PauseControl(ctx context.Context, control string, paused bool, next time.Time) error {
	_, err := s.Write.ExecContext(ctx, `update control set paused = ?, next_at = ? where id = ?`, paused,
		db.Optional(next),
		control)
	return db.Explain(err)
}

// DueNotes returns the moments that gave no run since a time, the newest first.
func (s Controls) DueNotes(ctx context.Context, since time.Time, limit int) ([]model.DueNote, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select control, moment, state, reason from due_note where moment >= ? order by moment desc limit ?`, db.Stamp(since),
		limit)
	return db.Collect(rows, err, func(r *sql.Rows) (n model.DueNote, err error) {
		var at sql.NullString
		err = r.Scan(&n.Control, &at, &n.State, &n.Reason)
		n.Moment = db.Unstamp(at)
		return n, err
	})
}

// TimedRuns returns the runs of due moments, the newest first.
func (s Controls) TimedRuns(ctx context.Context, limit int) ([]model.ControlRun, error) {
	return ControlRuns(ctx, s.DB, `where moment is not null order by number desc limit ?`, limit)
}

// AgainControlRun puts what failed of a control's run back in the queue: its runs
// that gave no result, which keep why, and its sending. It fails with
// [ErrNotFound] when nothing of it failed.
func (s Controls) AgainControlRun(ctx context.Context, controlRun int64) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
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
