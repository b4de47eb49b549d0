// Package runs keeps the queue, the ends of runs, and the rows that come in.
package runs

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"mantilla/model"
	"mantilla/store/db"
	"mantilla/store/results"
)

// Runs are the queue, and the results that runs become.
type Runs struct{ *db.DB }

// RunColumns are what [ScanRun] reads, and where from.
const RunColumns = `r.number, r.report, r.title, r.version, r.state, r.typed, r.facts, r.sentence, r.asked_by,
	r.asked_at,

	r.started_at, r.ended_at, r.rows, r.reason, r.after_crash, coalesce(k.number, 0),
	r.note, r.limited, r.units, coalesce(r.criteria, 0), coalesce(r.control_run, 0), r.step, r.terms, r.resolved, r.making
	from run r left join result k on k.run = r.number and k.trashed_at is null`

// ScanRun reads a run.
func ScanRun(row interface{ Scan(...any) error }) (r model.Run, err error) {
	var typed, facts, units, terms, values, making string
	var asked, started, ended sql.NullString
	err = row.Scan(&r.Number, &r.Report, &r.Title, &r.Version, &r.State, &typed, &facts, &r.Sentence, &r.AskedBy, &asked,
		&started, &ended, &r.Rows, &r.Reason, &r.AfterCrash, &r.Result,
		&r.Note, &r.Reach.Limited, &units, &r.Criteria, &r.ControlRun, &r.Step, &terms, &values, &making)
	if err != nil {
		return r, db.Explain(err)
	}
	r.Values = []byte(values)
	if making != "" {
		if err := json.Unmarshal([]byte(making), &r.Making); err != nil {
			return r, err
		}
	}
	r.AskedAt, r.StartedAt, r.EndedAt = db.Unstamp(asked), db.Unstamp(started), db.Unstamp(ended)
	return r, errors.Join(json.Unmarshal([]byte(typed), &r.Typed), json.Unmarshal([]byte(facts), &r.Facts),
		json.Unmarshal([]byte(units), &r.Reach.Units), json.Unmarshal([]byte(terms), &r.Terms))
}

// Origin is what a name was first noted as; see [results.Results.Origin].
func (s Runs) Origin(ctx context.Context, name, present string) (string, error) {
	return results.Results{DB: s.DB}.Origin(ctx, name, present)
}

// Waiting is how many runs of somebody wait.
func (s Runs) Waiting(ctx context.Context, person string) (n int, err error) {
	err = s.Read.QueryRowContext(ctx, `select count(*) from run where asked_by = ? and state = 'waiting'`, person).Scan(&n)
	return n, db.Explain(err)
}

// WithRows tells which of some runs go on or have a result, in the trash too.
func (s Runs) WithRows(ctx context.Context, numbers []int64) ([]int64, error) {
	list, err := json.Marshal(append([]int64{}, numbers...))
	if err != nil {
		return nil, err
	}
	rows, err := s.Read.QueryContext(ctx, `select r.number from json_each(?) j join run r on r.number = j.value
		where r.state in ('waiting', 'running') or exists (select 1 from result k where k.run = r.number)`, string(list))
	return db.Collect(rows, err, func(rows *sql.Rows) (n int64, err error) { return n, rows.Scan(&n) })
}

// AddRun puts a waiting run in the queue and returns it with its number. When
// the idempotency key was used before, the run it made is returned instead, or
// [ErrKeyUsed] when that was asked for with something else.
func (s Runs) AddRun(ctx context.Context, r model.Run, idempotency string) (model.Run, error) {
	key := sql.NullString{String: idempotency, Valid: idempotency != ""}
	err := s.Change(ctx, func(tx *sql.Tx) error {
		asked, before := askedDigest(r), ""
		err := tx.QueryRowContext(ctx, `select number, asked from run where idempotency = ?`, key).Scan(&r.Number, &before)
		switch {
		case err == nil && before != "" && before != asked:
			return model.ErrKeyUsed
		case errors.Is(err, sql.ErrNoRows):
			if r.Number, err = AddRun(ctx, tx, r, key); err == nil && idempotency != "" {
				_, err = tx.ExecContext(ctx, `update run set asked = ? where number = ?`, asked, r.Number)
			}
		}
		return err
	})
	if err != nil {
		return r, fmt.Errorf("queueing the run: %w", err)
	}
	return s.Run(ctx, r.Number)
}

// askedDigest identifies what was asked for.
func askedDigest(r model.Run) string {
	of := []any{r.Report, r.Typed, r.Criteria}
	if r.Making != nil {
		of = append(of, r.Making)
	}
	text, _ := json.Marshal(of) // of texts and numbers alone
	return model.Digest(string(text))
}

// AddRun puts a run in the queue, within a transaction.
func AddRun(ctx context.Context, tx db.Carrying, r model.Run, idempotency sql.NullString) (number int64, err error) {
	typed, _ := json.Marshal(r.Typed)
	facts, _ := json.Marshal(r.Facts)
	units, _ := json.Marshal(append([]string{}, r.Reach.Units...))
	terms, _ := json.Marshal(r.Terms)
	var making []byte
	if r.Making != nil {
		making, _ = json.Marshal(r.Making)
	}
	none := func(n int64) sql.NullInt64 { return sql.NullInt64{Int64: n, Valid: n > 0} }
	var opens, closes sql.NullInt64
	if h := r.Terms.Hours; h != nil {
		opens, closes = sql.NullInt64{Int64: int64(h.Opens), Valid: true}, sql.NullInt64{Int64: int64(h.Closes), Valid: true}
	}
	err = tx.QueryRowContext(ctx, `insert into run (report, title, version, state, typed, facts, sentence, asked_by,
		asked_at, after_crash, idempotency,
		limited, units, criteria, control_run, step, terms, opens_at, closes_at, resolved, making, beside)
		values (?, ?, ?, 'waiting', ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) returning number`,
		r.Report, r.Title, r.Version, string(typed), string(facts), r.Sentence, r.AskedBy, db.Stamp(r.AskedAt), r.AfterCrash,
		idempotency,
		r.Reach.Limited, string(units), none(r.Criteria), none(r.ControlRun), r.Step, string(terms), opens, closes,
		string(r.Values), string(making), r.Making.Beside(r.Report)).Scan(&number)
	return number, err
}

// Run returns one run.
func (s Runs) Run(ctx context.Context, number int64) (model.Run, error) {
	return ScanRun(s.Read.QueryRowContext(ctx, `select `+RunColumns+` where r.number = ?`, number))
}

// Runs returns runs, the newest first.
func (s Runs) Runs(ctx context.Context, w model.RunWish) ([]model.Run, error) {
	test, args := db.SeenWhere(w.Sees, "r")
	tests := []string{test}
	for _, t := range []struct {
		when bool
		test string
		arg  any
	}{{w.State != "", "r.state = ?", w.State}, {w.Report != "", "r.report = ?", w.Report},
		{w.Before > 0, "r.number < ?", w.Before}} {
		if t.when {
			tests, args = append(tests, t.test), append(args, t.arg)
		}
	}
	rows, err := s.Read.QueryContext(ctx,
		`select `+RunColumns+` where `+strings.Join(tests, " and ")+` order by r.number desc limit ?`,
		append(args, w.Limit)...)
	return db.Collect(rows, err, func(rows *sql.Rows) (model.Run, error) { return ScanRun(rows) })
}

// Claim takes the run that waits longest, of those that may start at this
// minute of the local day and have no earlier step, or run to make something of, to wait for, and marks it
// running. It returns [ErrNotFound] when there is none.
func (s Runs) Claim(ctx context.Context, now time.Time, minute int) (model.Run, error) {
	var number int64
	err := s.Write.QueryRowContext(ctx, `update run set state = 'running', started_at = ?1, ended_at = null, rows = 0,
		reason = ''
		where number = (select w.number from (select min(w.number) number, w.asked_by from run w where w.state = 'waiting'
			and (w.opens_at is null or case when w.opens_at <= w.closes_at then ?2 >= w.opens_at
			and ?2 < w.closes_at else ?2 >= w.opens_at or ?2 < w.closes_at end)
			and not exists (select 1 from run b where b.control_run = w.control_run and b.step < w.step
			and b.state in ('waiting', 'running'))
			and not exists (select 1 from json_each(iif(w.making = '', '{}', w.making), '$.of') o
			join run b on b.number = o.value ->> 'run' where b.state in ('waiting', 'running')) group by w.asked_by) w
			order by (select count(*) from run b where b.state = 'running' and b.asked_by = w.asked_by),
			(select max(b.started_at) from run b where b.asked_by = w.asked_by), w.number limit 1)
		returning number`, db.Stamp(now), minute).Scan(&number)
	if err != nil {
		return model.Run{}, db.Explain(err)
	}
	return s.Run(ctx, number)
}
