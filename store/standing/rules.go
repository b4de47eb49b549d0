package standing

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"mantilla/model"
	"mantilla/store/db"
	"mantilla/store/results"
)

// KeepRules are how long results are kept, the most particular first.
func (s Standing) KeepRules(ctx context.Context) ([]model.KeepRule, error) {
	rows, err := s.Read.QueryContext(ctx, `select kind, id, days, final, by, at from keep_rule
		order by case kind when 'report' then 0 when 'category' then 1 else 2 end, id`)
	return db.Collect(rows, err, func(r *sql.Rows) (x model.KeepRule, err error) {
		var at sql.NullString
		err = r.Scan(&x.Kind, &x.ID, &x.Days, &x.Final, &x.By, &at)
		x.At = db.Unstamp(at)
		return x, err
	})
}

// PutKeepRule keeps a rule.
func (s Standing) PutKeepRule(ctx context.Context, x model.KeepRule) error {
	return s.Change(ctx, func(tx *sql.Tx) error { return putRule(ctx, tx, x) })
}

func putRule(ctx context.Context, tx *sql.Tx, x model.KeepRule) error {
	_, err := tx.ExecContext(ctx, `insert into keep_rule (kind, id, days, final, by, at) values (?, ?, ?, ?, ?, ?)
		on conflict do update set days = excluded.days, final = excluded.final, by = excluded.by, at = excluded.at`,
		x.Kind, x.ID, x.Days, x.Final, x.By, db.Stamp(x.At))
	return err
}

// DeleteKeepRule forgets a rule.
func (s Standing) DeleteKeepRule(ctx context.Context, kind, id string) error {
	done, err := s.Write.ExecContext(ctx, `delete from keep_rule where kind = ? and id = ?`, kind, id)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// errTried ends a transaction in which a rule was only tried.
var errTried = errors.New("it was tried")

// TryKeepRule tells what would go by a rule at once; nothing of it is kept.
func (s Standing) TryKeepRule(ctx context.Context, x model.KeepRule, now time.Time, sample int) (e model.RuleEffect,
	err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		if err := putRule(ctx, tx, x); err != nil {
			return err
		}
		const of = results.Ruled + ` where u.kind = ?2 and u.id = ?3 and k.trashed_at is null`
		var oldest, newest sql.NullString
		err := tx.QueryRowContext(ctx, `select count(*), coalesce(sum(k.bytes), 0), min(k.kept_at), max(k.kept_at) `+of,
			db.Stamp(now), x.Kind, x.ID).Scan(&e.Results, &e.Bytes, &oldest, &newest)
		if err != nil {
			return err
		}
		e.Oldest, e.Newest = db.Unstamp(oldest), db.Unstamp(newest)
		rows, err := tx.QueryContext(ctx, `select k.number, k.report, k.title, k.rows, k.bytes, k.kept_at `+of+
			` order by k.kept_at limit ?4`, db.Stamp(now), x.Kind, x.ID, sample)
		e.Sample, err = db.Collect(rows, err, func(r *sql.Rows) (k model.Result, err error) {
			var at sql.NullString
			err = r.Scan(&k.Number, &k.Report, &k.Title, &k.Rows, &k.Bytes, &at)
			k.KeptAt = db.Unstamp(at)
			return k, err
		})
		return errors.Join(err, errTried)
	})
	if errors.Is(err, errTried) {
		err = nil
	}
	return e, err
}

// Quotas are how much people's results may take.
func (s Standing) Quotas(ctx context.Context) ([]model.Quota, error) {
	rows, err := s.Read.QueryContext(ctx, `select kind, id, bytes from quota
		order by case kind when 'person' then 0 when 'group' then 1 else 2 end, id`)
	return db.Collect(rows, err, func(r *sql.Rows) (x model.Quota, err error) {
		return x, r.Scan(&x.Kind, &x.ID, &x.Bytes)
	})
}

// PutQuota keeps a quota; of no bytes it is forgotten.
func (s Standing) PutQuota(ctx context.Context, x model.Quota) error {
	if x.Bytes == 0 {
		done, err := s.Write.ExecContext(ctx, `delete from quota where kind = ? and id = ?`, x.Kind, x.ID)
		return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
	}
	_, err := s.Write.ExecContext(ctx, `insert into quota (kind, id, bytes) values (?, ?, ?)
		on conflict do update set bytes = excluded.bytes`, x.Kind, x.ID, x.Bytes)
	return db.Explain(err)
}

// Allowance is how much somebody's results take, and may: by the quota of the person, or else by the
// largest of their groups, or else by that of everyone.
func (s Standing) Allowance(ctx context.Context, person string) (a model.Allowance, err error) {
	err = s.Read.QueryRowContext(ctx, `select kind, bytes from quota where kind = 'person' and id = ?1
		or kind = 'group' and id in (select grp from group_member where person = ?1) or kind = 'everyone'
		order by case kind when 'person' then 0 when 'group' then 1 else 2 end, bytes desc limit 1`, person).
		Scan(&a.Of, &a.Allowed)
	if errors.Is(err, sql.ErrNoRows) {
		return a, nil
	}
	if err == nil {
		err = s.Read.QueryRowContext(ctx, `select coalesce(sum(bytes), 0) from result where asked_by = ?`, person).
			Scan(&a.Used)
	}
	return a, db.Explain(err)
}
