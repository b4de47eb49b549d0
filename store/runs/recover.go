package runs

import (
	"context"
	"database/sql"
	"fmt"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// GiveUpAfter is how often the service may end while it does a piece of work
// before it gives that work up.
const GiveUpAfter = 2

// Killed is told of work that is given up.
const Killed = "the service ended %d times while it did this; it is not tried again by itself"

// cutOff is a run that went on when the service ended.
type cutOff struct {
	run        int64
	afterCrash string
	crashes    int
}

// why says why it fails.
func (c cutOff) why() string {
	if c.afterCrash == "again" {
		return fmt.Sprintf(Killed, GiveUpAfter)
	}
	return "the service ended while the run was under way; run it again"
}

// Recover settles the runs that the end of the service cut off: each waits
// again or fails, as its setting says, and what they had kept is swept away.
// It returns how many wait again and how many failed, less those that are given up.
func (s Runs) Recover(ctx context.Context, now time.Time) (again, failed int64, err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		rows, err := tx.QueryContext(ctx, `update run set crashes = crashes + 1 where state = 'running'
			returning number, after_crash, crashes`)
		cut, err := db.Collect(rows, err, func(rows *sql.Rows) (c cutOff, err error) {
			return c, rows.Scan(&c.run, &c.afterCrash, &c.crashes)
		})
		if err != nil {
			return err
		}
		for _, c := range cut {
			if c.afterCrash == "again" && c.crashes < GiveUpAfter {
				again++
				err = requeue(ctx, tx, c.run)
			} else {
				if c.afterCrash != "again" {
					failed++
				}
				_, err = end(ctx, tx, ending{run: c.run, state: model.Failed, reason: c.why(), from: []model.State{model.Running}},
					now)
			}
			if err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `delete from batch where run not in (select run from result)`); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `delete from cells where run not in (select run from result)`)
		return err
	})
	if err != nil {
		err = fmt.Errorf("settling runs that were cut off: %w", err)
	}
	return again, failed, err
}
