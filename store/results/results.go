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
	"mantilla/seal"
	"mantilla/store/cache"
	"mantilla/store/db"
)

// Results are kept rows with their manifests, and views kept of them.
type Results struct{ *db.DB }

// DeleteExpired puts into the trash what was to be kept until now at most, by itself or by a rule, less
// what is signed off or held, and deletes what was in it long enough, or goes for good by a rule. It returns the
// numbers of each.
func (s Results) DeleteExpired(ctx context.Context, now time.Time) (trashed, deleted []int64, err error) {
	number := func(r *sql.Rows) (n int64, err error) { return n, r.Scan(&n) }
	rows, err := s.Write.QueryContext(ctx, `update result set trashed_at = ?1 where trashed_at is null and not signed
		and not held and (keep_until <= ?1 or number in (select k.number `+Ruled+` where not u.final)) returning number`,
		db.Stamp(now))
	if trashed, err = db.Collect(rows, err, number); err != nil {
		return nil, nil, err
	}
	_, err = s.Write.ExecContext(ctx, `update result set trashed_at = ?1, trashed_by = '' where trashed_at is null
		and number in (select k.number `+Ruled+` where u.final)`, db.Stamp(now))
	if err != nil {
		return trashed, nil, db.Explain(err)
	}
	rows, err = s.Read.QueryContext(ctx, `select number from result where trashed_at <= ?2
		union select k.number `+Ruled+` where u.final`, db.Stamp(now), db.Stamp(now.AddDate(0, 0, -model.TrashDays)))
	deleted, err = db.Collect(rows, err, number)
	for _, n := range deleted {
		if err == nil {
			err = s.DeleteResult(ctx, n)
		}
	}
	return trashed, deleted, err
}

// Ruled are the results k that go by a rule u at the moment ?1, of the rules that are of a result the most
// particular.
const Ruled = `from result k left join report d on d.id = k.report join keep_rule u on u.rowid = (
	select x.rowid from keep_rule x where x.kind = 'report' and x.id = k.report or x.kind = 'category'
	and x.id = d.category or x.kind = 'all' order by case x.kind when 'report' then 0 when 'category' then 1 else 2 end
	limit 1) and not k.signed and (u.final or not k.held)
	and k.kept_at <= strftime('%Y-%m-%dT%H:%M:%fZ', ?1, '-' || u.days || ' days')`

// ResultColumns are what [ScanResult] reads, and where from.
const ResultColumns = `k.number, k.run, k.report, k.title, k.sentence, k.kept_at, k.rows, k.bytes, k.manifest,
	k.keep_until, k.signs, k.signed, k.held, k.trashed_at from result k`

// ScanResult reads a result.
func ScanResult(row interface{ Scan(...any) error }) (r model.Result, err error) {
	var at, till, trashed sql.NullString
	var manifest, signs string
	if err = row.Scan(&r.Number, &r.Run, &r.Report, &r.Title, &r.Sentence, &at, &r.Rows, &r.Bytes, &manifest,
		&till, &signs, &r.Signed, &r.Held, &trashed); err != nil {
		return r, db.Explain(err)
	}
	if err := json.Unmarshal([]byte(signs), &r.Signs); err != nil {
		return r, err
	}
	r.KeptAt, r.KeptTill, r.TrashedAt = db.Unstamp(at), db.Unstamp(till), db.Unstamp(trashed)
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
	r, err := ScanResult(s.Read.QueryRowContext(ctx, `select `+ResultColumns+` where k.number = ?
		and k.trashed_at is null`, number))
	if err != nil || r.Manifest.Form < seal.WholeForm {
		return r, err
	}
	if r.Settled, err = s.settledOf(ctx, r); err != nil {
		return r, err
	}
	batches := sha256.New()
	for _, k := range r.Manifest.Datasets {
		if err := seal.Again(k, batches); err != nil {
			return r, fmt.Errorf("result R-%06d %w", number, err)
		}
	}
	if seal, err := seal.Over(r.Manifest, batches.Sum(nil)); err != nil || seal != r.Manifest.Seal ||
		!s.named(ctx, r) {
		return r, fmt.Errorf("result R-%06d %w", number, model.ErrBroken)
	}
	return r, nil
}

// ResultOf returns the number of the result that a run became.
func (s Results) ResultOf(ctx context.Context, run int64) (number int64, err error) {
	err = s.Read.QueryRowContext(ctx, `select number from result where run = ? and trashed_at is null`, run).Scan(&number)
	return number, db.Explain(err)
}

// Results returns results, the newest first.
func (s Results) Results(ctx context.Context, w model.ResultWish) ([]model.Result, error) {
	test, args := db.SeenWhere(w.Sees, "k")
	tests := []string{test}
	if w.Report != "" {
		tests, args = append(tests, "k.report = ?"), append(args, w.Report)
	}
	for _, t := range []struct {
		when bool
		test string
		args []any
	}{
		{w.Before > 0, "k.number < ?", []any{w.Before}},
		{w.By != "", "k.asked_by = ?", []any{w.By}},
		{w.Control != "", `exists (select 1 from run u join control_run c on c.number = u.control_run
			where u.number = k.run and c.control = ?)`, []any{w.Control}},
		{!w.Since.IsZero(), "k.kept_at >= ?", []any{db.Stamp(w.Since)}},
		{!w.Until.IsZero(), "k.kept_at < ?", []any{db.Stamp(w.Until)}},
		{w.Signed, "k.signed", nil},
		{w.Held, "(k.held or k.signed)", nil},
		{w.Noted, "exists (select 1 from result_note n where n.result = k.number and n.settled_at is null)", nil},
		{w.Trashed, "k.trashed_at is not null", nil},
		{!w.Trashed, "k.trashed_at is null", nil},
	} {
		if t.when {
			tests, args = append(tests, t.test), append(args, t.args...)
		}
	}
	for _, word := range strings.Fields(strings.ToLower(w.Search)) {
		tests, args = append(tests, `(instr(lower(k.report || ' ' || k.title || ' ' || k.sentence || ' ' ||
			printf('R-%06d', k.number)), ?) > 0 or exists (select 1 from result_note n where n.result = k.number
			and instr(lower(n.says || ' ' || n.about), ?) > 0))`), append(args, word, word)
	}
	rows, err := s.Read.QueryContext(ctx,
		`select `+ResultColumns+` where `+strings.Join(tests, " and ")+` order by k.number desc limit ?`,
		append(args, w.Limit)...)
	return db.Collect(rows, err, func(rows *sql.Rows) (model.Result, error) { return ScanResult(rows) })
}

// DeleteResult deletes a result that is in the trash, with its rows and notes; its run remains.
func (s Results) DeleteResult(ctx context.Context, number int64) error {
	var run int64
	err := s.Change(ctx, func(tx *sql.Tx) error {
		if err := tx.QueryRowContext(ctx, `delete from result where number = ? and trashed_at is not null returning run`,
			number).Scan(&run); err != nil {
			return err
		}
		if err := s.unhook(ctx, tx, run); err != nil {
			return err
		}
		for _, d := range []struct {
			text string
			of   int64
		}{{`delete from batch where run = ?`, run}, {`delete from cells where run = ?`, run},
			{`delete from result_note where result = ?`, number}, {`delete from kept_act where result = ?`, number}} {
			if _, err := tx.ExecContext(ctx, d.text, d.of); err != nil {
				return err
			}
		}
		return nil
	})
	s.DB.Cache.Forget(fmt.Sprintf("%d/", number))
	return db.Explain(err)
}

// Trash puts a result into the trash, unless it is signed off or held.
func (s Results) Trash(ctx context.Context, number int64, by string, at time.Time) error {
	done, err := s.Write.ExecContext(ctx, `update result set trashed_at = ?, trashed_by = ?
		where number = ? and trashed_at is null and not signed and not held`, db.Stamp(at), by, number)
	return db.OnlyIf(done, db.Explain(err), model.ErrHeld)
}

// BringBack takes a result out of the trash.
func (s Results) BringBack(ctx context.Context, number int64) error {
	done, err := s.Write.ExecContext(ctx, `update result set trashed_at = null, trashed_by = '', keep_until = null
		where number = ? and trashed_at is not null`, number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// Trashed returns a result that is in the trash.
func (s Results) Trashed(ctx context.Context, number int64) (model.Result, error) {
	return ScanResult(s.Read.QueryRowContext(ctx, `select `+ResultColumns+` where k.number = ?
		and k.trashed_at is not null`, number))
}

// Warm returns how many bytes of decoded rows are in memory.
func (s Results) Warm() int { return s.DB.Cache.Used() }

// Cache is what is kept in memory of results: decoded rows, and what readers have
// computed of them, all within one budget. Keys begin with the number of the result,
// as 17/, and are forgotten with it.
func (s Results) Cache() *cache.Cache { return s.DB.Cache }
