// Package care keeps who looks after reports, who asks for them, and who uses them.
package care

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"mantilla/core/period"
	"mantilla/model"
	"mantilla/store/db"
)

// Care is the records of who looks after reports.
type Care struct{ *db.DB }

// Cares returns how each report is looked after.
func (s Care) Cares(ctx context.Context) ([]model.Care, error) {
	rows, err := s.Read.QueryContext(ctx, `select id, owner, review_on, review_every, listed from report`)
	return db.Collect(rows, err, scanCare)
}

func scanCare(r *sql.Rows) (c model.Care, err error) {
	var day string
	if err := r.Scan(&c.Report, &c.Owner, &day, &c.Every, &c.Listed); err != nil {
		return c, err
	}
	if day != "" {
		c.Review = true
		c.ReviewOn, err = period.ParseDay(day)
	}
	return c, err
}

// Adopt gives a report without an owner to one, and returns how it is looked after.
func (s Care) Adopt(ctx context.Context, report, owner string) (c model.Care, err error) {
	rows, err := s.Write.QueryContext(ctx, `update report set owner = iif(owner = '', ?, owner) where id = ?
		returning id, owner, review_on, review_every, listed`, owner, report)
	all, err := db.Collect(rows, err, scanCare)
	if err == nil && len(all) == 0 {
		err = model.ErrNotFound
	}
	if err != nil {
		return c, err
	}
	return all[0], nil
}

// PutCare keeps how a report is looked after.
func (s Care) PutCare(ctx context.Context, c model.Care) error {
	done, err := s.Write.ExecContext(ctx,
		`update report set owner = ?, review_on = ?, review_every = ?, listed = ? where id = ?`,
		c.Owner, dayOf(c), c.Every, c.Listed, c.Report)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

func dayOf(c model.Care) string {
	if !c.Review {
		return ""
	}
	return c.ReviewOn.String()
}

// Unreminded are the reports whose day of review has come and whose owners were not told.
func (s Care) Unreminded(ctx context.Context, today period.Day) ([]model.Care, error) {
	rows, err := s.Read.QueryContext(ctx, `select id, owner, review_on, review_every, listed from report
		where review_on <> '' and review_on <= ? and reminded <> review_on and retired_at is null`, today.String())
	return db.Collect(rows, err, scanCare)
}

// Reminded notes that the owner of a report was told of its review.
func (s Care) Reminded(ctx context.Context, c model.Care) error {
	_, err := s.Write.ExecContext(ctx, `update report set reminded = ? where id = ?`, dayOf(c), c.Report)
	return db.Explain(err)
}

// AddRequest keeps somebody's wish for a report and returns its number. A second wish of the
// same person while the first is open takes its place.
func (s Care) AddRequest(ctx context.Context, r model.Request) (number int64, err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `delete from request where report = ? and person = ? and state = 'open'`,
			r.Report, r.Person); err != nil {
			return err
		}
		return tx.QueryRowContext(ctx, `insert into request (report, person, at, says) values (?, ?, ?, ?) returning number`,
			r.Report, r.Person, db.Stamp(r.At), r.Says).Scan(&number)
	})
	return number, db.Explain(err)
}

const requestColumns = `select number, report, person, at, says, state, answer, answered_by, answered_at from request`

func scanRequest(row interface{ Scan(...any) error }) (r model.Request, err error) {
	var at, answered sql.NullString
	err = row.Scan(&r.Number, &r.Report, &r.Person, &at, &r.Says, &r.State, &r.Answer, &r.AnsweredBy, &answered)
	r.At, r.AnsweredAt = db.Unstamp(at), db.Unstamp(answered)
	return r, db.Explain(err)
}

// Requests returns the wishes of one person, or of all where person is "", the open ones
// first.
func (s Care) Requests(ctx context.Context, person string, limit int) ([]model.Request, error) {
	rows, err := s.Read.QueryContext(ctx, requestColumns+` where ?1 in ('', person)
		order by state <> 'open', number desc limit ?2`, person, limit)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Request, error) { return scanRequest(r) })
}

// Request returns one wish.
func (s Care) Request(ctx context.Context, number int64) (model.Request, error) {
	return scanRequest(s.Read.QueryRowContext(ctx, requestColumns+` where number = ?`, number))
}

// AnswerRequest keeps the answer to an open wish; it fails with [model.ErrStale] where it
// was answered before.
func (s Care) AnswerRequest(ctx context.Context, r model.Request) error {
	done, err := s.Write.ExecContext(ctx, `update request set state = ?, answer = ?, answered_by = ?, answered_at = ?
		where number = ? and state = 'open'`, r.State, r.Answer, r.AnsweredBy, db.Stamp(r.AnsweredAt), r.Number)
	return db.OnlyIf(done, db.Explain(err), model.ErrStale)
}

// Visit counts what somebody did with a report.
func (s Care) Visit(ctx context.Context, person, report, what string, at time.Time) error {
	return s.Lightly(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `insert into visit (person, report, month, what, times, last_at)
			values (?, ?, ?, ?, 1, ?) on conflict do update set times = times + 1, last_at = excluded.last_at`,
			person, report, at.UTC().Format("2006-01"), what, db.Stamp(at))
		return err
	})
}

// Recent are the reports that somebody had to do with last, the latest first.
func (s Care) Recent(ctx context.Context, person string, most int) ([]string, error) {
	rows, err := s.Read.QueryContext(ctx, `select report from visit where person = ? group by report
		order by max(last_at) desc limit ?`, person, most)
	return db.Collect(rows, err, func(r *sql.Rows) (id string, err error) { return id, r.Scan(&id) })
}

// Popular are the reports that some people ran and read most since a month, the most used
// first.
func (s Care) Popular(ctx context.Context, people []string, since time.Time, most int) ([]string, error) {
	names, err := json.Marshal(append([]string{}, people...))
	if err != nil {
		return nil, err
	}
	rows, err := s.Read.QueryContext(ctx, `select v.report from json_each(?) p join visit v on v.person = p.value
		where v.month >= ? and v.what <> 'form' group by v.report order by sum(v.times) desc, v.report limit ?`,
		string(names), since.UTC().Format("2006-01"), most)
	return db.Collect(rows, err, func(r *sql.Rows) (id string, err error) { return id, r.Scan(&id) })
}

// Used is how often a report was opened in a month.
type Used struct {
	Month                 string
	Forms, Reads, Exports int
	Readers               int // who read results
}

// Used returns how a report was used, by month, the newest first.
func (s Care) Used(ctx context.Context, report string, most int) ([]Used, error) {
	rows, err := s.Read.QueryContext(ctx, `select month, sum(iif(what = 'form', times, 0)),
		sum(iif(what = 'read', times, 0)), sum(iif(what = 'export', times, 0)),
		count(distinct iif(what = 'read', person, null))
		from visit where report = ? group by month order by month desc limit ?`, report, most)
	return db.Collect(rows, err, func(r *sql.Rows) (u Used, err error) {
		return u, r.Scan(&u.Month, &u.Forms, &u.Reads, &u.Exports, &u.Readers)
	})
}
