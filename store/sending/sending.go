// Package sending keeps parcels and the address book.
package sending

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"mantilla/model"
	"mantilla/store/controls"
	"mantilla/store/db"
	"mantilla/store/runs"
)

// Sending is parcels and the address book.
type Sending struct{ *db.DB }

// ToSend returns the runs of controls that have ended and wait to be sent.
// Those named are left out.
func (s Sending) ToSend(ctx context.Context, limit int, without []int64) ([]model.ControlRun, error) {
	list, err := json.Marshal(append([]int64{}, without...))
	if err != nil {
		return nil, err
	}
	return controls.ControlRuns(ctx, s.DB, `where sending = 'waiting' and number not in (select value from json_each(?))
		and not exists (select 1 from run r where r.control_run = control_run.number and r.state in ('waiting', 'running'))
		order by number limit ?`, string(list), limit)
}

// BeginSending records that the files of a control's run are being composed:
// what cannot be recorded is not begun.
func (s Sending) BeginSending(ctx context.Context, controlRun int64) error {
	done, err := s.Write.ExecContext(ctx, `update control_run set composing = 1 where number = ? and sending = 'waiting'`,
		controlRun)
	return db.OnlyIf(done, db.Explain(err), model.ErrStale)
}

// SettleSending lets go what a control's run sends and marks it as sent, in one
// transaction; when composing failed, what is held of it is thrown away.
func (s Sending) SettleSending(ctx context.Context, controlRun int64, state, note string) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx,
			`update control_run set sending = ?, sent_note = ?, composing = 0 where number = ? and sending = 'waiting'`, state,
			note, controlRun)
		if err := db.OnlyIf(done, err, model.ErrStale); err != nil {
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

// Resume settles, at a start, what was being sent when the service ended: it
// is tried again now, or given up where that ended the service more than once.
func (s Sending) Resume(ctx context.Context, now time.Time) error {
	reason := fmt.Sprintf(runs.Killed, runs.GiveUpAfter)
	return s.Change(ctx, func(tx *sql.Tx) error {
		for _, step := range []struct {
			text string
			args []any
		}{
			{`update parcel set crashes = crashes + 1, trying = 0, next_at = ? where trying and state = 'waiting'`,
				[]any{db.Stamp(now)}},
			{`update parcel set state = 'failed', ended_at = ?, next_at = null, reason = ? where state = 'waiting'
				and crashes >= ?`, []any{db.Stamp(now), reason, runs.GiveUpAfter}},
			{`update control_run set crashes = crashes + 1, composing = 0 where composing and sending = 'waiting'`, nil},
			{`update control_run set sending = 'failed', sent_note = ? where sending = 'waiting' and crashes >= ?`,
				[]any{reason, runs.GiveUpAfter}},
			{`delete from parcel where held and control_run in (select number from control_run where sending = 'failed')`, nil},
		} {
			if _, err := tx.ExecContext(ctx, step.text, step.args...); err != nil {
				return fmt.Errorf("settling what was being sent: %w", err)
			}
		}
		return nil
	})
}
