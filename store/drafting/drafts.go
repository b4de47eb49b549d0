// Package drafting keeps drafts, notices, and finds what depends on a report.
package drafting

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Drafting is drafts and notices.
type Drafting struct{ *db.DB }

const draftColumns = `select number, report, title, text, base, owner, writers, testers, state, note, noted_by,
	revision, changed_at, changed_by from draft`

func scanDraft(row interface{ Scan(...any) error }) (d model.Draft, err error) {
	var writers, testers string
	var at sql.NullString
	err = row.Scan(&d.Number, &d.Report, &d.Title, &d.Text, &d.Base, &d.Owner, &writers, &testers, &d.State, &d.Note,
		&d.NotedBy, &d.Revision, &at, &d.ChangedBy)
	if err == nil {
		err = json.Unmarshal([]byte(writers), &d.Writers)
	}
	if err == nil {
		err = json.Unmarshal([]byte(testers), &d.Testers)
	}
	d.ChangedAt = db.Unstamp(at)
	return d, db.Explain(err)
}

// Drafts returns all drafts, those changed last first.
func (s Drafting) Drafts(ctx context.Context) ([]model.Draft, error) {
	rows, err := s.Read.QueryContext(ctx, draftColumns+` order by changed_at desc, number desc`)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Draft, error) { return scanDraft(r) })
}

// Draft returns one draft.
func (s Drafting) Draft(ctx context.Context, number int64) (model.Draft, error) {
	return scanDraft(s.Read.QueryRowContext(ctx, draftColumns+` where number = ?`, number))
}

// AddDraft keeps a new draft and returns its number.
func (s Drafting) AddDraft(ctx context.Context, d model.Draft) (number int64, err error) {
	err = s.Write.QueryRowContext(ctx, `insert into draft (report, title, text, base, owner, changed_at, changed_by)
		values (?, ?, ?, ?, ?, ?, ?) returning number`, d.Report, d.Title, d.Text, d.Base, d.Owner, db.Stamp(d.ChangedAt),
		d.ChangedBy).Scan(&number)
	return number, db.Explain(err)
}

// PutDraft keeps a draft as it then is, unless it was changed since the revision seen.
// Tried is the version that it can be run at, "" where its text is not right, with to
// whom it is open.
func (s Drafting) PutDraft(ctx context.Context, d model.Draft, tried string) error {
	writers, err := json.Marshal(append([]string{}, d.Writers...))
	if err != nil {
		return err
	}
	testers, err := json.Marshal(append([]model.Opening{}, d.Testers...))
	if err != nil {
		return err
	}
	return s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `update draft set report = ?, title = ?, text = ?, base = ?, writers = ?,
			testers = ?, state = ?, note = ?, noted_by = ?, revision = revision + 1, changed_at = ?, changed_by = ?
			where number = ? and revision = ?`, d.Report, d.Title, d.Text, d.Base, string(writers), string(testers), d.State,
			d.Note, d.NotedBy, db.Stamp(d.ChangedAt), d.ChangedBy, d.Number, d.Revision)
		if err := db.OnlyIf(done, err, model.ErrStale); err != nil || tried == "" {
			return err
		}
		_, err = tx.ExecContext(ctx, `insert into report_version (report, version, text, at, shared)
			values (?, ?, ?, ?, (select max(id) from shared)) on conflict do nothing`,
			d.ReportID(), tried, d.Text, db.Stamp(d.ChangedAt))
		return err
	})
}

// DeleteDraft deletes a draft, so that it can be put back; the versions at which it was run stay for the
// results.
func (s Drafting) DeleteDraft(ctx context.Context, t model.Thrown) error {
	const report = `'draft-' || substr(?1, 3)`
	return s.Throw(ctx, t,
		db.Part{Table: "draft", Where: "number = cast(substr(?1, 3) as integer)", How: db.Removed},
		db.Part{Table: "opening", Where: "report = " + report, How: db.Removed},
		db.Part{Table: "report_version", Where: "report = " + report +
			" and version not in (select version from run where report = " + report + ")", How: db.Removed})
}

// ForgetDraft deletes a draft that went into the catalog, for good.
func (s Drafting) ForgetDraft(ctx context.Context, d model.Draft) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `delete from draft where number = ?`, d.Number)
		if err := db.OnlyIf(done, err, model.ErrNotFound); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `delete from opening where report = ?`, d.ReportID()); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `delete from report_version where report = ? and version not in
			(select version from run where report = ?)`, d.ReportID(), d.ReportID())
		return err
	})
}

// AddNotices tells several people.
func (s Drafting) AddNotices(ctx context.Context, all []model.Notice) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		for _, n := range all {
			if _, err := tx.ExecContext(ctx, `insert into notice (person, at, about, says, place) values (?, ?, ?, ?, ?)`,
				n.Person, db.Stamp(n.At), n.About, n.Says, n.Place); err != nil {
				return err
			}
		}
		return nil
	})
}

// Notices are what a person is told, the newest first.
func (s Drafting) Notices(ctx context.Context, person string, limit int) ([]model.Notice, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select number, person, at, about, says, place from notice where person = ? and away is null
		order by number desc limit ?`, person, limit)
	return db.Collect(rows, err, func(r *sql.Rows) (n model.Notice, err error) {
		var at sql.NullString
		err = r.Scan(&n.Number, &n.Person, &at, &n.About, &n.Says, &n.Place)
		n.At = db.Unstamp(at)
		return n, err
	})
}

// PutNoticeAway puts a notice of a person away, and forgets what they put away before a moment.
func (s Drafting) PutNoticeAway(ctx context.Context, person string, number int64, now, before time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `delete from notice where person = ? and away < ?`, person,
			db.Stamp(before)); err != nil {
			return err
		}
		done, err := tx.ExecContext(ctx, `update notice set away = ? where person = ? and number = ? and away is null`,
			db.Stamp(now), person, number)
		return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
	})
}

// ReturnNotice has a notice back that a person put away.
func (s Drafting) ReturnNotice(ctx context.Context, person string, number int64) error {
	done, err := s.Write.ExecContext(ctx,
		`update notice set away = null where person = ? and number = ? and away is not null`,
		person, number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
