package runs

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// ending is how a run ends, whatever ended it: its result, a fault, somebody who
// stopped it, or the end of the service.
type ending struct {
	run    int64
	state  model.State
	reason string
	note   string // in the place of the run's; "" leaves that
	rows   int64
	from   []model.State // in which the run may be; in any other it has ended
}

// end writes the end of a run: the only place that does. It tells whether the run
// had not ended before. What a run had kept is swept away unless it is a result.
func end(ctx context.Context, tx db.Carrying, e ending, now time.Time) (ended bool, err error) {
	from, err := json.Marshal(e.from)
	if err != nil {
		return false, err
	}
	done, err := tx.ExecContext(ctx, `update run set state = ?, reason = ?,
		note = iif(? = '', note, ?), rows = ?, ended_at = ? where number = ? and state in (select value from json_each(?))`,
		e.state, e.reason, e.note, e.note, e.rows, db.Stamp(now), e.run, string(from))
	if err != nil {
		return false, err
	}
	n, err := done.RowsAffected()
	if err != nil || n == 0 || e.state == model.Done {
		return n > 0, err
	}
	return true, sweep(ctx, tx, e.run)
}

// requeue lets a running run wait again, from its beginning.
func requeue(ctx context.Context, tx db.Carrying, run int64) error {
	_, err := tx.ExecContext(ctx,
		`update run set state = 'waiting', started_at = null, rows = 0 where number = ? and state = 'running'`, run)
	if err != nil {
		return err
	}
	return sweep(ctx, tx, run)
}

// sweep forgets what a run without a result had kept.
func sweep(ctx context.Context, tx db.Carrying, run int64) error {
	for _, table := range []string{"batch", "cells"} {
		if _, err := tx.ExecContext(ctx,
			`delete from `+table+` where run = ? and run not in (select run from result)`, run); err != nil {
			return err
		}
	}
	return nil
}

// EndRun ends a run without a result. It changes nothing when the run has ended
// already.
func (s Runs) EndRun(ctx context.Context, number int64, state model.State, reason string, rows int64,
	now time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := end(ctx, tx, ending{run: number, state: state, reason: reason, rows: rows,
			from: []model.State{model.Waiting, model.Running}}, now)
		return err
	})
}

// StopWaiting stops a run that has not started; it tells whether it did.
func (s Runs) StopWaiting(ctx context.Context, number int64, now time.Time) (stopped bool, err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		stopped, err = end(ctx, tx, ending{run: number, state: model.Stopped, from: []model.State{model.Waiting}}, now)
		return err
	})
	return stopped, err
}

// Requeue puts a running run back in the queue.
func (s Runs) Requeue(ctx context.Context, number int64) error {
	return s.Change(ctx, func(tx *sql.Tx) error { return requeue(ctx, tx, number) })
}
