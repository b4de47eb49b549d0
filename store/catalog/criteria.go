package catalog

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"mantilla/model"
	"mantilla/store/db"
	"mantilla/store/results"
)

// Criteria are kept values, usual ones, and marks of the last look.
type Criteria struct{ *db.DB }

const criteriaColumns = `select c.id, c.report, c.name, c.owner, c.shared, c.typed, c.version, c.revision,
	c.changed_at, c.deleted_at is not null,

	u.person is not null, r.ended_at, coalesce(r.rows, 0)
	from criteria c left join usual u on u.criteria = c.id and u.person = ?
	left join run r on r.number = (select max(number) from run where criteria = c.id and state = 'done')`

func scanCriteria(row interface{ Scan(...any) error }) (c model.Criteria, err error) {
	var typed string
	var changed, last sql.NullString
	if err = row.Scan(&c.Number, &c.Report, &c.Name, &c.Owner, &c.Shared, &typed, &c.Version, &c.Revision, &changed,
		&c.Deleted, &c.Usual, &last, &c.LastRows); err != nil {
		return c, db.Explain(err)
	}
	c.ChangedAt, c.LastRun = db.Unstamp(changed), db.Unstamp(last)
	return c, json.Unmarshal([]byte(typed), &c.Typed)
}

// CriteriaOf returns one set of criteria, also a deleted one, as a person has it.
func (s Criteria) CriteriaOf(ctx context.Context, number int64, person string) (model.Criteria, error) {
	return scanCriteria(s.Read.QueryRowContext(ctx, criteriaColumns+` where c.id = ?`, person, number))
}

// CriteriaFor returns the criteria of a report that a person sees and whose
// names hold a search, their usual first, then by name; at most limit.
func (s Criteria) CriteriaFor(ctx context.Context, report string, w model.Seen, search string,
	limit int) ([]model.Criteria, error) {
	test, args := db.SharedWhere(w, "c")
	rows, err := s.Read.QueryContext(ctx, criteriaColumns+` where c.id in (select c.id from criteria c
		left join usual u on u.criteria = c.id and u.person = ?
		where c.report = ? and c.deleted_at is null and instr(lower(c.name), lower(?)) > 0 and `+test+`
			order by u.person is null, c.name collate nocase, c.id limit ?)
		order by u.person is null, c.name collate nocase,
		c.id`, append(append([]any{w.Person, w.Person, report, search}, args...), limit)...)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Criteria, error) { return scanCriteria(r) })
}

// AddCriteria keeps new criteria. It fails with [ErrTaken] when the owner has
// others of that name for the report.
func (s Criteria) AddCriteria(ctx context.Context, c model.Criteria) (model.Criteria, error) {
	typed, _ := json.Marshal(c.Typed)
	err := s.Write.QueryRowContext(ctx,
		`insert into criteria (report, name, owner, shared, typed, version, changed_at) values (?, ?, ?, ?, ?, ?, ?)
			returning id`,
		c.Report, c.Name, c.Owner, c.Shared, string(typed), c.Version, db.Stamp(c.ChangedAt)).Scan(&c.Number)
	if err != nil {
		return c, db.Taken(err)
	}
	return s.CriteriaOf(ctx, c.Number, c.Owner)
}

// KeptPast is how many earlier values of criteria are kept.
const KeptPast = 50

// PutCriteria changes criteria whose revision is still the one seen. Values that
// are overwritten are kept; see [Criteria.PastCriteria].
func (s Criteria) PutCriteria(ctx context.Context, c model.Criteria) error {
	typed, _ := json.Marshal(c.Typed)
	err := s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `insert into criteria_past (criteria, revision, typed, version, changed_at)
			select id, revision, typed, version, changed_at from criteria where id = ? and revision = ? and deleted_at is null
			and typed <> ?`, c.Number, c.Revision, string(typed))
		if err == nil {
			_, err = tx.ExecContext(ctx, `delete from criteria_past where criteria = ?1 and revision not in
				(select revision from criteria_past where criteria = ?1 order by revision desc limit ?2)`, c.Number, KeptPast)
		}
		if err != nil {
			return err
		}
		done, err := tx.ExecContext(ctx, `update criteria set name = ?, shared = ?, typed = ?, version = ?, changed_at = ?,
			revision = revision + 1
			where id = ? and revision = ? and deleted_at is null`,
			c.Name, c.Shared, string(typed), c.Version, db.Stamp(c.ChangedAt), c.Number, c.Revision)
		return db.OnlyIf(done, err, model.ErrStale)
	})
	return db.Taken(err)
}

// PastCriteria returns the values that criteria had before they were overwritten,
// with the revision, the report's version and the time of each, the newest first.
func (s Criteria) PastCriteria(ctx context.Context, number int64) ([]model.Criteria, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select criteria, revision, typed, version, changed_at from criteria_past where criteria = ? order by revision desc`,
		number)
	return db.Collect(rows, err, func(r *sql.Rows) (c model.Criteria, err error) {
		var typed string
		var changed sql.NullString
		if err := r.Scan(&c.Number, &c.Revision, &typed, &c.Version, &changed); err != nil {
			return c, err
		}
		c.ChangedAt = db.Unstamp(changed)
		return c, json.Unmarshal([]byte(typed), &c.Typed)
	})
}

// DeleteCriteria takes criteria out of sight, from where [Criteria.RestoreCriteria]
// brings them back.
func (s Criteria) DeleteCriteria(ctx context.Context, number int64, now time.Time) error {
	done, err := s.Write.ExecContext(ctx, `update criteria set deleted_at = ? where id = ? and deleted_at is null`,
		db.Stamp(now), number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// RestoreCriteria brings deleted criteria back; [ErrTaken] when their name is
// in use meanwhile.
func (s Criteria) RestoreCriteria(ctx context.Context, number int64) error {
	done, err := s.Write.ExecContext(ctx, `update criteria set deleted_at = null where id = ? and deleted_at is not null`,
		number)
	if err != nil {
		return db.Taken(err)
	}
	return db.OnlyIf(done, nil, model.ErrNotFound)
}

// SetUsual makes criteria a person's usual ones for their report; number 0
// means that there are none from now on.
func (s Criteria) SetUsual(ctx context.Context, person, report string, number int64) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `delete from usual where person = ? and report = ?`, person, report)
		if err == nil && number > 0 {
			_, err = tx.ExecContext(ctx, `insert into usual (person, report, criteria) values (?, ?, ?)`, person, report, number)
		}
		return err
	})
}

// Usual returns a person's usual values for a report; nil when there are none.
func (s Criteria) Usual(ctx context.Context, person, report string) (typed map[string]string, err error) {
	var text string
	err = s.Read.QueryRowContext(ctx,
		`select typed from criteria where deleted_at is null and id = (select criteria from usual where person = ?
			and report = ?)`, person, report).Scan(&text)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, db.Explain(err)
	}
	return typed, json.Unmarshal([]byte(text), &typed)
}

// SameResult returns the newest result of the digest and fingerprint.
func (s Criteria) SameResult(ctx context.Context, digest, fingerprint string) (model.Result, error) {
	return results.ScanResult(s.Read.QueryRowContext(ctx,
		`select `+results.ResultColumns+` where k.facts = ? and k.fingerprint = ?
			and k.trashed_at is null order by k.number desc limit 1`, digest, fingerprint))
}

// SignedFacts returns what the values of the report's result came to that was signed off last;
// nil where none is.
func (s Criteria) SignedFacts(ctx context.Context, report string) ([]model.Fact, error) {
	r, err := results.ScanResult(s.Read.QueryRowContext(ctx,
		`select `+results.ResultColumns+` where k.report = ? and k.signed
		and k.made = '' and k.trashed_at is null order by k.number desc limit 1`, report))
	if errors.Is(err, model.ErrNotFound) {
		return nil, nil
	}
	return r.Manifest.Facts, err
}

// LastTyped returns what a person last ran a report with; nil for never.
func (s Criteria) LastTyped(ctx context.Context, person, report string) (typed map[string]string, err error) {
	var text string
	err = s.Read.QueryRowContext(ctx,
		`select typed from run where asked_by = ? and report = ? and making = ''
			and state = 'done' order by number desc limit 1`, person,
		report).Scan(&text)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, db.Explain(err)
	}
	return typed, json.Unmarshal([]byte(text), &typed)
}

// SentenceOf says what a run was of.
func (s Criteria) SentenceOf(ctx context.Context, run int64) (sentence string, err error) {
	err = s.Read.QueryRowContext(ctx, `select sentence from run where number = ?`, run).Scan(&sentence)
	return sentence, db.Explain(err)
}

// ControlOf tells the title of a run control, and whose it is.
func (s Criteria) ControlOf(ctx context.Context, id string) (title, owner string, err error) {
	err = s.Read.QueryRowContext(ctx, `select title, owner from control where id = ?`, id).Scan(&title, &owner)
	return title, owner, db.Explain(err)
}
