// Package controls keeps run controls, their timetables and calendars.
package controls

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"mantilla/model"
	"mantilla/store/db"
	"mantilla/store/runs"
)

// Controls are run controls, their timetables and calendars.
type Controls struct{ *db.DB }

const controlColumns = `select c.id, c.title, c.owner, c.shared, c.body, c.revision, c.changed_at, c.changed_by,
	c.deleted_at is not null, r.asked_at, c.next_at, c.paused

	from control c left join control_run r on r.number = (select max(number) from control_run where control = c.id)`

func scanControl(row interface{ Scan(...any) error }) (c model.Control, err error) {
	var body string
	var changed, last, next sql.NullString
	if err = row.Scan(&c.ID, &c.Title, &c.Owner, &c.Shared, &body, &c.Revision, &changed, &c.ChangedBy, &c.Deleted,
		&last, &next, &c.Paused); err != nil {
		return c, db.Explain(err)
	}
	c.Body, c.ChangedAt, c.LastRun = json.RawMessage(body), db.Unstamp(changed), db.Unstamp(last)
	c.Next = db.Unstamp(next)
	return c, nil
}

// Control returns one run control, also a deleted one.
func (s Controls) Control(ctx context.Context, id string) (model.Control, error) {
	return scanControl(s.Read.QueryRowContext(ctx, controlColumns+` where c.id = ?`, id))
}

// Controls returns the run controls that a person sees and whose titles or ids
// hold a search, by title; at most limit.
func (s Controls) Controls(ctx context.Context, w model.Seen, search string, limit int) ([]model.Control, error) {
	test, args := db.SharedWhere(w, "c")
	rows, err := s.Read.QueryContext(ctx, controlColumns+` where c.id in (select c.id from control c
		where c.deleted_at is null
		and instr(lower(c.title || ' ' || c.id), lower(?)) > 0 and `+test+` order by c.title collate nocase, c.id limit ?)
			order by c.title collate nocase, c.id`,
		append(append([]any{search}, args...), limit)...)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Control, error) { return scanControl(r) })
}

// PutControl keeps a run control. Revision is the one seen before, 0 for a new
// one: [ErrTaken] when its id is in use, [ErrStale] when it was changed. What is overwritten
// is kept; see [Controls.PastControls].
func (s Controls) PutControl(ctx context.Context, c model.Control) error {
	if c.Revision == 0 {
		_, err := s.Write.ExecContext(ctx,
			`insert into control (id, title, owner, shared, body, changed_at, changed_by, next_at)
				values (?, ?, ?, ?, ?, ?, ?, ?)`,
			c.ID, c.Title, c.Owner, c.Shared, string(c.Body), db.Stamp(c.ChangedAt), c.ChangedBy, db.Optional(c.Next))
		return db.Taken(err)
	}
	return s.Change(ctx, func(tx *sql.Tx) error {
		if err := keepPast(ctx, tx, c); err != nil {
			return err
		}
		done, err := tx.ExecContext(ctx, `update control set title = ?, shared = ?, body = ?, changed_at = ?,
			changed_by = ?, next_at = ?, revision = revision + 1 where id = ? and revision = ? and deleted_at is null`,
			c.Title, c.Shared, string(c.Body), db.Stamp(c.ChangedAt), c.ChangedBy, db.Optional(c.Next), c.ID, c.Revision)
		return db.OnlyIf(done, db.Explain(err), model.ErrStale)
	})
}

// DeleteControl takes a run control out of sight; RestoreControl brings it back.
func (s Controls) DeleteControl(ctx context.Context, id string, now time.Time) error {
	done, err := s.Write.ExecContext(ctx, `update control set deleted_at = ? where id = ? and deleted_at is null`,
		db.Stamp(now), id)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// RestoreControl brings a deleted run control back.
// Its timetable goes on with the moment next; zero for none.
func (s Controls) RestoreControl(ctx context.Context, id string, next time.Time) error {
	done, err := s.Write.ExecContext(ctx,
		`update control set deleted_at = null, next_at = ? where id = ? and deleted_at is not null`, db.Optional(next), id)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// AddControlRuns queues all runs of a control at once, or none.
func (s Controls) AddControlRuns(ctx context.Context, all []model.ControlRun) ([]model.ControlRun, error) {
	err := s.Change(ctx, func(tx *sql.Tx) error {
		for i := range all {
			if err := addControlRun(ctx, tx, &all[i]); err != nil {
				return err
			}
		}
		return nil
	})
	return all, err
}

func addControlRun(ctx context.Context, tx db.Carrying, c *model.ControlRun) error {
	if c.Plan == nil {
		c.Plan = json.RawMessage("{}")
	}
	err := tx.QueryRowContext(ctx,
		`insert into control_run (control, asked_by, asked_at, moment, part, part_name, plan, sending)
			values (?, ?, ?, ?, ?, ?, ?, ?) returning number`,
		c.Control, c.AskedBy, db.Stamp(c.AskedAt), db.Optional(c.Moment), c.Part, c.PartName, string(c.Plan),
		c.Sending).Scan(&c.Number)
	for i := range c.Runs {
		if err == nil {
			c.Runs[i].ControlRun, c.Runs[i].Step = c.Number, i
			c.Runs[i].Number, err = runs.AddRun(ctx, tx, c.Runs[i], sql.NullString{})
		}
	}
	return err
}

// ControlRuns returns the runs of a control, the newest first.
func (s Controls) ControlRuns(ctx context.Context, control string, limit int) ([]model.ControlRun, error) {
	return ControlRuns(ctx, s.DB, `where control = ? order by number desc limit ?`, control, limit)
}

// ControlRun returns one run of a control.
func (s Controls) ControlRun(ctx context.Context, number int64) (model.ControlRun, error) {
	all, err := ControlRuns(ctx, s.DB, `where number = ?`, number)
	if err == nil && len(all) == 0 {
		err = model.ErrNotFound
	}
	if err != nil {
		return model.ControlRun{}, err
	}
	return all[0], nil
}

// ControlRuns returns the runs of controls that a clause chooses, with their runs.
func ControlRuns(ctx context.Context, s *db.DB, which string, args ...any) ([]model.ControlRun, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select number, control, asked_by, asked_at, moment, part, part_name, plan, sending, sent_note from control_run `+
			which, args...)
	all, err := db.Collect(rows, err, func(r *sql.Rows) (c model.ControlRun, err error) {
		var at, moment sql.NullString
		var plan string
		err = r.Scan(&c.Number, &c.Control, &c.AskedBy, &at, &moment, &c.Part, &c.PartName, &plan, &c.Sending, &c.SentNote)
		c.AskedAt, c.Moment, c.Plan = db.Unstamp(at), db.Unstamp(moment), json.RawMessage(plan)
		return c, err
	})
	for i := range all {
		if err == nil {
			all[i].Runs, err = runsOf(ctx, s, all[i].Number)
		}
	}
	return all, err
}

func runsOf(ctx context.Context, s *db.DB, controlRun int64) ([]model.Run, error) {
	rows, err := s.Read.QueryContext(ctx, `select `+runs.RunColumns+` where r.control_run = ? order by r.step`, controlRun)
	return db.Collect(rows, err, func(rows *sql.Rows) (model.Run, error) { return runs.ScanRun(rows) })
}
