package sending

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// addParcels puts parcels in the queue; those whose key is known are left
// as they are. Held parcels wait until [Sending.SettleSending] lets them go.
func addParcels(ctx context.Context, tx *sql.Tx, parcels []model.Parcel, held bool) error {
	for i := range parcels {
		p := &parcels[i]
		files, _ := json.Marshal(append([]model.Filed{}, p.Files...))
		none := func(n int64) sql.NullInt64 { return sql.NullInt64{Int64: n, Valid: n > 0} }
		err := tx.QueryRowContext(ctx, `insert into parcel (key, way, target, title, owner, result, control_run, made_at,
			state, next_at, body, payload, held)
			values (?, ?, ?, ?, ?, ?, ?, ?, 'waiting', ?, ?, ?, ?) on conflict (key) do nothing returning number`,
			p.Key, p.Way, p.Target, p.Title, p.Owner, none(p.Result), none(p.ControlRun), db.Stamp(p.MadeAt), db.Stamp(p.MadeAt),
			string(files), p.Payload, held).Scan(&p.Number)
		if errors.Is(err, sql.ErrNoRows) {
			continue
		}
		for _, r := range p.Recipients {
			if err == nil {
				_, err = tx.ExecContext(ctx,
					`insert into parcel_recipient (parcel, address, name, line, state) values (?, ?, ?, ?, 'waiting')
						on conflict do nothing`, p.Number, r.Address, r.Name, r.Line)
			}
		}
		if err != nil {
			return fmt.Errorf("queueing %s: %w", p.Title, err)
		}
	}
	return nil
}

// AddParcels puts parcels in the queue and sets their numbers.
func (s Sending) AddParcels(ctx context.Context, parcels []model.Parcel) error {
	return s.Change(ctx, func(tx *sql.Tx) error { return addParcels(ctx, tx, parcels, false) })
}

// HoldParcels keeps parcels of a control's run, composed one part after the
// other, until all are there.
func (s Sending) HoldParcels(ctx context.Context, parcels []model.Parcel) error {
	return s.Change(ctx, func(tx *sql.Tx) error { return addParcels(ctx, tx, parcels, true) })
}

const parcelColumns = `select number, key, way, target, title, owner, coalesce(result, 0), coalesce(control_run, 0),
	made_at, state, tries, next_at, ended_at, reason, body from parcel`

func scanParcel(row interface{ Scan(...any) error }) (p model.Parcel, err error) {
	var made, next, ended sql.NullString
	var files string
	err = row.Scan(&p.Number, &p.Key, &p.Way, &p.Target, &p.Title, &p.Owner, &p.Result, &p.ControlRun, &made, &p.State,
		&p.Tries, &next, &ended, &p.Reason, &files)
	if err != nil {
		return p, db.Explain(err)
	}
	p.MadeAt, p.NextAt, p.EndedAt = db.Unstamp(made), db.Unstamp(next), db.Unstamp(ended)
	return p, json.Unmarshal([]byte(files), &p.Files)
}

func (s Sending) withRecipients(ctx context.Context, parcels []model.Parcel) ([]model.Parcel, error) {
	for i := range parcels {
		rows, err := s.Read.QueryContext(ctx,
			`select address, name, line, state, answer, at from parcel_recipient where parcel = ? order by line desc, rowid`,
			parcels[i].Number)
		parcels[i].Recipients, err = db.Collect(rows, err, func(r *sql.Rows) (x model.Recipient, err error) {
			var at sql.NullString
			err = r.Scan(&x.Address, &x.Name, &x.Line, &x.State, &x.Answer, &at)
			x.At = db.Unstamp(at)
			return x, err
		})
		if err != nil {
			return nil, err
		}
	}
	return parcels, nil
}

// Parcels returns parcels without their payload, the newest first. Owner and
// state are left open where they are empty.
func (s Sending) Parcels(ctx context.Context, owner string, state model.State, before int64, limit int) ([]model.Parcel,
	error) {
	rows, err := s.Read.QueryContext(ctx,
		parcelColumns+` where (?1 = '' or owner = ?1) and (?2 = '' or state = ?2) and (?3 = 0 or number < ?3)
			order by number desc limit ?4`, owner, state, before, limit)
	parcels, err := db.Collect(rows, err, func(r *sql.Rows) (model.Parcel, error) { return scanParcel(r) })
	if err != nil {
		return nil, err
	}
	return s.withRecipients(ctx, parcels)
}

// Parcel returns one parcel without its payload.
func (s Sending) Parcel(ctx context.Context, number int64) (model.Parcel, error) {
	p, err := scanParcel(s.Read.QueryRowContext(ctx, parcelColumns+` where number = ?`, number))
	if err != nil {
		return p, err
	}
	all, err := s.withRecipients(ctx, []model.Parcel{p})
	if err != nil {
		return p, err
	}
	return all[0], nil
}

// NextParcel takes the parcel of one way that is to be sent now and waits
// longest, with its payload; [ErrNotFound] when there is none. That it is tried
// is written first, with when it is tried again if nothing is heard of this try:
// what cannot be recorded is not sent.
func (s Sending) NextParcel(ctx context.Context, way string, now time.Time,
	wait func(tries int) time.Duration) (model.Parcel, error) {
	var p model.Parcel
	err := s.Change(ctx, func(tx *sql.Tx) (err error) {
		p, err = scanParcel(tx.QueryRowContext(ctx,
			parcelColumns+` where state = 'waiting' and way = ? and next_at <= ? and not held order by next_at, number limit 1`,
			way, db.Stamp(now)))
		if err != nil {
			return err
		}
		p.Tries++
		p.NextAt = now.Add(wait(p.Tries))
		_, err = tx.ExecContext(ctx, `update parcel set tries = ?, next_at = ?, trying = 1 where number = ?`, p.Tries,
			db.Stamp(p.NextAt), p.Number)
		return err
	})
	if err != nil {
		return p, err
	}
	if err := s.Read.QueryRowContext(ctx, `select payload from parcel where number = ?`,
		p.Number).Scan(&p.Payload); err != nil {
		return p, db.Explain(err)
	}
	all, err := s.withRecipients(ctx, []model.Parcel{p})
	if err != nil {
		return p, err
	}
	return all[0], nil
}

// NextSending returns when the next waiting parcel of a way is to be tried; the zero
// time when none waits.
func (s Sending) NextSending(ctx context.Context, way string) (time.Time, error) {
	var at sql.NullString
	err := s.Read.QueryRowContext(ctx, `select min(next_at) from parcel where state = 'waiting' and way = ? and not held`,
		way).Scan(&at)
	return db.Unstamp(at), db.Explain(err)
}

// SettleParcel records what became of an attempt: of the parcel, and of its
// recipients where they changed. The payload of a parcel that was sent is let
// go. One that somebody stopped meanwhile stays stopped unless it was sent.
func (s Sending) SettleParcel(ctx context.Context, p model.Parcel, now time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		var next, ended sql.NullString
		if p.State == model.Waiting {
			next = sql.NullString{String: db.Stamp(p.NextAt), Valid: true}
		} else {
			ended = sql.NullString{String: db.Stamp(now), Valid: true}
		}
		_, err := tx.ExecContext(ctx, `update parcel set state = ?1, tries = ?2, next_at = ?3, ended_at = ?4, reason = ?5,
			trying = 0, payload = case when ?1 = 'sent' then x'' else payload end
			where number = ?6 and (state = 'waiting' or ?1 = 'sent')`,
			p.State, p.Tries, next, ended, p.Reason, p.Number)
		for _, r := range p.Recipients {
			if err == nil {
				_, err = tx.ExecContext(ctx,
					`update parcel_recipient set state = ?, answer = ?, at = ? where parcel = ? and address = ? and state <> 'sent'`,
					r.State, r.Answer, db.Stamp(now), p.Number, r.Address)
			}
		}
		return err
	})
}

// MendParcel lets a parcel that failed or waits be tried again now, and may
// write to another address in the place of one. It fails with [ErrNotFound]
// when there is nothing to try.
func (s Sending) MendParcel(ctx context.Context, number int64, instead map[string]string, now time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx,
			`update parcel set state = 'waiting', tries = 0, crashes = 0, next_at = ?, ended_at = null, reason = ''
				where number = ? and state in ('waiting', 'failed', 'stopped')`, db.Stamp(now), number)
		if err := db.OnlyIf(done, err, model.ErrNotFound); err != nil {
			return err
		}
		for from, to := range instead {
			if _, err := tx.ExecContext(ctx,
				`update or replace parcel_recipient set address = ? where parcel = ? and address = ? and state <> 'sent'`, to,
				number, from); err != nil {
				return err
			}
		}
		_, err = tx.ExecContext(ctx,
			`update parcel_recipient set state = 'waiting', answer = '' where parcel = ? and state = 'refused'`, number)
		return err
	})
}

// StopParcel takes a waiting or failed parcel out of the queue.
func (s Sending) StopParcel(ctx context.Context, number int64, now time.Time) error {
	done, err := s.Write.ExecContext(ctx,
		`update parcel set state = 'stopped', next_at = null, ended_at = ? where number = ?
			and state in ('waiting', 'failed')`, db.Stamp(now), number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
