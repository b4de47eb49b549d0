package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"mantilla/model"
	"mantilla/store/cache"
)

// DeleteExpired deletes the results that were to be kept until now at most,
// and returns their numbers.
func (s Results) DeleteExpired(ctx context.Context, now time.Time) (numbers []int64, err error) {
	rows, err := s.read.QueryContext(ctx, `select number from result where keep_until <= ?`, stamp(now))
	numbers, err = collect(rows, err, func(r *sql.Rows) (n int64, err error) { return n, r.Scan(&n) })
	for _, n := range numbers {
		if err == nil {
			err = s.DeleteResult(ctx, n)
		}
	}
	return numbers, err
}

const resultColumns = `k.number, k.run, k.report, k.title, k.sentence, k.kept_at, k.rows, k.bytes, k.manifest,
	k.keep_until from result k`

func scanResult(row interface{ Scan(...any) error }) (r model.Result, err error) {
	var at, till sql.NullString
	var manifest string
	if err = row.Scan(&r.Number, &r.Run, &r.Report, &r.Title, &r.Sentence, &at, &r.Rows, &r.Bytes, &manifest,
		&till); err != nil {
		return r, explain(err)
	}
	r.KeptAt, r.KeptTill = unstamp(at), unstamp(till)
	if err := json.Unmarshal([]byte(manifest), &r.Manifest); err != nil {
		return r, fmt.Errorf("result R-%06d %w", r.Number, model.ErrBroken)
	}
	if r.Manifest.Form > 0 {
		r.Title, r.Sentence = r.Manifest.Title, r.Manifest.Sentence
	}
	return r, nil
}

// Result returns one result with its settled definition, checked against its seal:
// it fails with [ErrBroken] where it was changed.
func (s Results) Result(ctx context.Context, number int64) (model.Result, error) {
	r, err := scanResult(s.read.QueryRowContext(ctx, `select `+resultColumns+` where k.number = ?`, number))
	if err != nil || r.Manifest.Form < wholeForm {
		return r, err
	}
	if r.Settled, err = s.settledOf(ctx, r); err != nil {
		return r, err
	}
	batches := sha256.New()
	for _, k := range r.Manifest.Datasets {
		if err := reseal(k, batches); err != nil {
			return r, fmt.Errorf("result R-%06d %w", number, err)
		}
	}
	if seal, err := sealOver(r.Manifest, batches.Sum(nil)); err != nil || seal != r.Manifest.Seal ||
		r.Report != r.Manifest.Report {
		return r, fmt.Errorf("result R-%06d %w", number, model.ErrBroken)
	}
	return r, nil
}

// Results returns results, the newest first.
func (s Results) Results(ctx context.Context, w model.ResultWish) ([]model.Result, error) {
	test, args := seenWhere(w.Sees, "k")
	tests := []string{test}
	if w.Report != "" {
		tests, args = append(tests, "k.report = ?"), append(args, w.Report)
	}
	if w.Before > 0 {
		tests, args = append(tests, "k.number < ?"), append(args, w.Before)
	}
	for _, word := range strings.Fields(strings.ToLower(w.Search)) {
		tests, args = append(tests, "instr(lower(k.report || ' ' || k.title || ' ' || k.sentence || ' ' || "+
			"printf('R-%06d', k.number)), ?) > 0"), append(args, word)
	}
	rows, err := s.read.QueryContext(ctx,
		`select `+resultColumns+` where `+strings.Join(tests, " and ")+` order by k.number desc limit ?`,
		append(args, w.Limit)...)
	return collect(rows, err, func(rows *sql.Rows) (model.Result, error) { return scanResult(rows) })
}

// DeleteResult deletes a result with its rows; its run remains.
func (s Results) DeleteResult(ctx context.Context, number int64) error {
	var run int64
	err := s.change(ctx, func(tx *sql.Tx) error {
		if err := tx.QueryRowContext(ctx, `delete from result where number = ? returning run`,
			number).Scan(&run); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `delete from batch where run = ?`, run); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `delete from cells where run = ?`, run)
		return err
	})
	s.cache.Forget(fmt.Sprintf("%d/", number))
	return err
}

// Warm returns how many bytes of decoded rows are in memory.
func (s Results) Warm() int { return s.cache.Used() }

// Cache is what is kept in memory of results: decoded rows, and what readers have
// computed of them, all within one budget. Keys begin with the number of the result,
// as 17/, and are forgotten with it.
func (s Results) Cache() *cache.Cache { return s.cache }
