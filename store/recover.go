package store

import (
	"context"
	"database/sql"
	"fmt"
	"time"
)

// GiveUpAfter is how often the service may end while it does a piece of work
// before it gives that work up.
const GiveUpAfter = 2

// killed is told of work that is given up.
const killed = "the service ended %d times while it did this; it is not tried again by itself"

// Recover settles the runs that the end of the service cut off: each waits
// again or fails, as its setting says, and what they had kept is swept away.
// It returns how many there were.
func (s Runs) Recover(ctx context.Context, now time.Time) (again, failed int64, err error) {
	err = s.change(ctx, func(tx *sql.Tx) error {
		for _, step := range []struct {
			count *int64
			sql   string
			args  []any
		}{
			{new(int64), `update run set crashes = crashes + 1 where state = 'running'`, nil},
			{&again, `update run set state = 'waiting', started_at = null, rows = 0 where state = 'running'
				and after_crash = 'again' and crashes < ?`, []any{GiveUpAfter}},
			{new(int64), `update run set state = 'failed', ended_at = ?, reason = ? where state = 'running'
				and after_crash = 'again'`, []any{stamp(now), fmt.Sprintf(killed, GiveUpAfter)}},
			{&failed, `update run set state = 'failed', ended_at = ?, reason = ? where state = 'running'`,
				[]any{stamp(now), "the service ended while the run was under way; run it again"}},
			{new(int64), `delete from batch where run not in (select run from result)`, nil},
		} {
			done, err := tx.ExecContext(ctx, step.sql, step.args...)
			if err != nil {
				return err
			}
			if *step.count, err = done.RowsAffected(); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		err = fmt.Errorf("settling runs that were cut off: %w", err)
	}
	return again, failed, err
}
