// Package results keeps rows column by column, sealed, with their manifests and kept views.
package results

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
	"mantilla/store/db"
)

// Results are kept rows with their manifests, and views kept of them.
type Results struct{ *db.DB }

// DeleteExpired deletes the results that were to be kept until now at most,
// and returns their numbers.
func (s Results) DeleteExpired(ctx context.Context, now time.Time) (numbers []int64, err error) {
	rows, err := s.Read.QueryContext(ctx, `select number from result where keep_until <= ?`, db.Stamp(now))
	numbers, err = db.Collect(rows, err, func(r *sql.Rows) (n int64, err error) { return n, r.Scan(&n) })
	for _, n := range numbers {
		if err == nil {
			err = s.DeleteResult(ctx, n)
		}
	}
	return numbers, err
}

// ResultColumns are what [ScanResult] reads, and where from.
const ResultColumns = `k.number, k.run, k.report, k.title, k.sentence, k.kept_at, k.rows, k.bytes, k.manifest,
	k.keep_until from result k`

// ScanResult reads a result.
func ScanResult(row interface{ Scan(...any) error }) (r model.Result, err error) {
	var at, till sql.NullString
	var manifest string
	if err = row.Scan(&r.Number, &r.Run, &r.Report, &r.Title, &r.Sentence, &at, &r.Rows, &r.Bytes, &manifest,
		&till); err != nil {
		return r, db.Explain(err)
	}
	r.KeptAt, r.KeptTill = db.Unstamp(at), db.Unstamp(till)
	if err := json.Unmarshal([]byte(manifest), &r.Manifest); err != nil {
		return r, fmt.Errorf("result R-%06d %w", r.Number, model.ErrBroken)
	}
	if r.Manifest.Form > 0 {
		r.Title, r.Sentence = r.Manifest.Title, r.Manifest.Sentence
	}
	return r, nil
}

// named tells whether a result is of the report that it was sealed as one of, which may have
// another id since.
func (s Results) named(ctx context.Context, r model.Result) (is bool) {
	if r.Report == r.Manifest.Report {
		return true
	}
	err := s.Read.QueryRowContext(ctx, `select exists (select 1 from report_name where was = ? and report = ?)`,
		r.Manifest.Report, r.Report).Scan(&is)
	return err == nil && is
}

// Result returns one result with its settled definition, checked against its seal:
// it fails with [ErrBroken] where it was changed.
func (s Results) Result(ctx context.Context, number int64) (model.Result, error) {
	r, err := ScanResult(s.Read.QueryRowContext(ctx, `select `+ResultColumns+` where k.number = ?`, number))
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
	if seal, err := SealOver(r.Manifest, batches.Sum(nil)); err != nil || seal != r.Manifest.Seal ||
		!s.named(ctx, r) {
		return r, fmt.Errorf("result R-%06d %w", number, model.ErrBroken)
	}
	return r, nil
}

// ResultOf returns the number of the result that a run became.
func (s Results) ResultOf(ctx context.Context, run int64) (number int64, err error) {
	err = s.Read.QueryRowContext(ctx, `select number from result where run = ?`, run).Scan(&number)
	return number, db.Explain(err)
}

// Results returns results, the newest first.
func (s Results) Results(ctx context.Context, w model.ResultWish) ([]model.Result, error) {
	test, args := db.SeenWhere(w.Sees, "k")
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
	rows, err := s.Read.QueryContext(ctx,
		`select `+ResultColumns+` where `+strings.Join(tests, " and ")+` order by k.number desc limit ?`,
		append(args, w.Limit)...)
	return db.Collect(rows, err, func(rows *sql.Rows) (model.Result, error) { return ScanResult(rows) })
}

// DeleteResult deletes a result with its rows; its run remains.
func (s Results) DeleteResult(ctx context.Context, number int64) error {
	var run int64
	err := s.Change(ctx, func(tx *sql.Tx) error {
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
	s.DB.Cache.Forget(fmt.Sprintf("%d/", number))
	return err
}

// Warm returns how many bytes of decoded rows are in memory.
func (s Results) Warm() int { return s.DB.Cache.Used() }

// Cache is what is kept in memory of results: decoded rows, and what readers have
// computed of them, all within one budget. Keys begin with the number of the result,
// as 17/, and are forgotten with it.
func (s Results) Cache() *cache.Cache { return s.DB.Cache }
