// Package catalog keeps sources, reports with their versions, criteria, marks and desks.
package catalog

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Catalog is sources, reports with their versions, and shared parameters.
type Catalog struct{ *db.DB }

// PutSource keeps the declaration of a source.
func (s Catalog) PutSource(ctx context.Context, id, text string) error {
	_, err := s.Write.ExecContext(ctx,
		`insert into source (id, text) values (?, ?) on conflict (id) do update set text = excluded.text`, id, text)
	return db.Explain(err)
}

// Sources returns the declarations of all sources.
func (s Catalog) Sources(ctx context.Context) ([]string, error) {
	rows, err := s.Read.QueryContext(ctx, `select text from source order by id`)
	return db.Collect(rows, err, func(r *sql.Rows) (text string, err error) { return text, r.Scan(&text) })
}

// PutReport makes a version the present one of a report. Was is the version
// that the writer saw before, "" for none, or "*" to take whatever is there; it
// fails with [ErrStale] when the catalog holds another.
func (s Catalog) PutReport(ctx context.Context, r model.Report, was string, at time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		var present, text string
		err := tx.QueryRowContext(ctx, `select r.version, v.text from report r join report_version v
			on v.report = r.id and v.version = r.version where r.id = ?`, r.ID).Scan(&present, &text)
		if err != nil && err != sql.ErrNoRows {
			return err
		}
		if present == r.Version && text == r.Text {
			return nil // it is the same
		}
		if was != "*" && was != present {
			return model.ErrStale
		}
		if present == r.Version { // the same in other words: comments, spaces
			_, err := tx.ExecContext(ctx, `update report_version set text = ? where report = ? and version = ?`, r.Text, r.ID,
				r.Version)
			return err
		}
		return PutVersion(ctx, tx, r, at)
	})
}

// PutVersion makes a version the present one of a report, within a change.
func PutVersion(ctx context.Context, tx *sql.Tx, r model.Report, at time.Time) error {
	_, err := tx.ExecContext(ctx, `insert into report_version (report, version, text, at, shared)
		values (?, ?, ?, ?, (select max(id) from shared))
		on conflict (report, version) do update set text = excluded.text,
		shared = excluded.shared`, r.ID, r.Version, r.Text, db.Stamp(at))
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `insert into report_change (report, number, version, at, by, note, back)
		select ?1, coalesce(max(number), 0) + 1, ?2, ?3, ?4, ?5, ?6 from report_change where report = ?1`,
		r.ID, r.Version, db.Stamp(at), r.By, r.Note, r.Back)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `insert into report (id, title, category, version) values (?, ?, ?, ?)
		on conflict (id) do update set title = excluded.title, category = excluded.category, version = excluded.version`,
		r.ID, r.Title, r.Category, r.Version)
	return err
}

// Reports returns the whole catalog at its present versions.
func (s Catalog) Reports(ctx context.Context) ([]model.Report, error) {
	rows, err := s.Read.QueryContext(ctx, `select r.id, r.title, r.category, r.version, v.text, coalesce(s.text, ''),
		r.retired_at is not null, r.successor from report r join report_version v on v.report = r.id and v.version = r.version
		left join shared s on s.id = v.shared order by r.category, r.title`)
	return db.Collect(rows, err, func(rows *sql.Rows) (r model.Report, err error) {
		return r, rows.Scan(&r.ID, &r.Title, &r.Category, &r.Version, &r.Text, &r.Shared, &r.Retired, &r.Successor)
	})
}

// ReportText returns the text of one version of a report, and the shared
// parameters that it was read with.
func (s Catalog) ReportText(ctx context.Context, report, version string) (text, shared string, err error) {
	err = s.Read.QueryRowContext(ctx, `select v.text, coalesce(s.text, '') from report_version v
		left join shared s on s.id = v.shared
		where v.report = ? and v.version = ?`, report, version).Scan(&text, &shared)
	return text, shared, db.Explain(err)
}

// Shared returns the parameters that are declared for the whole catalog now.
func (s Catalog) Shared(ctx context.Context) (text string, err error) {
	err = s.Read.QueryRowContext(ctx,
		`select coalesce((select text from shared order by id desc limit 1), '')`).Scan(&text)
	return text, db.Explain(err)
}

// PutShared keeps shared parameters with the reports that were read anew with
// them, all or nothing. It does nothing when the text is the present one.
func (s Catalog) PutShared(ctx context.Context, text string, reports []model.Report, at time.Time) error {
	present, err := s.Shared(ctx)
	if err != nil || present == text {
		return err
	}
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `insert into shared (text, at) values (?, ?)`, text, db.Stamp(at))
		for _, r := range reports {
			if err == nil {
				err = PutVersion(ctx, tx, r, at)
			}
		}
		return err
	})
}

// Versions returns the versions that a report had, the newest first.
func (s Catalog) Versions(ctx context.Context, report string) ([]model.Version, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select number, version, at, by, note, back from report_change where report = ? order by number desc`, report)
	return db.Collect(rows, err, func(rows *sql.Rows) (v model.Version, err error) {
		var at sql.NullString
		err = rows.Scan(&v.Number, &v.Version, &at, &v.By, &v.Note, &v.Back)
		v.At = db.Unstamp(at)
		return v, err
	})
}

// DeleteReport takes a report out of the catalog, so that it can be put back; its versions stay.
func (s Catalog) DeleteReport(ctx context.Context, t model.Thrown) error {
	return s.Throw(ctx, t,
		db.Part{Table: "report", Where: "id = ?1", How: db.Removed},
		db.Part{Table: "opening", Where: "report = ?1", How: db.Removed})
}

// DeleteSource takes the declaration of a source out of the catalog, so that it can be put back with the
// files that were brought for it.
func (s Catalog) DeleteSource(ctx context.Context, t model.Thrown) error {
	return s.Throw(ctx, t,
		db.Part{Table: "source", Where: "id = ?1", How: db.Removed},
		db.Part{Table: "file_version", Where: "source = ?1", How: db.Aside, Column: "source"})
}

// Uses returns the last good run of those reports that had one.
func (s Catalog) Uses(ctx context.Context, reports []string) (map[string]model.Use, error) {
	ids, err := json.Marshal(append([]string{}, reports...))
	if err != nil {
		return nil, err
	}
	rows, err := s.Read.QueryContext(ctx, `select r.report, r.started_at, r.ended_at, r.rows from json_each(?) j join run r
		on r.number = (select number from run where report = j.value and making = ''
			and state = 'done' order by number desc limit 1)`,
		string(ids))
	uses := map[string]model.Use{}
	_, err = db.Collect(rows, err, func(rows *sql.Rows) (struct{}, error) {
		var report string
		var started, ended sql.NullString
		var u model.Use
		err := rows.Scan(&report, &started, &ended, &u.Rows)
		u.At, u.Duration = db.Unstamp(ended), db.Unstamp(ended).Sub(db.Unstamp(started))
		uses[report] = u
		return struct{}{}, err
	})
	return uses, err
}

// Retire takes a report out of what is listed, with what takes its place; a zero time
// brings it back.
func (s Catalog) Retire(ctx context.Context, id, successor string, at time.Time) error {
	done, err := s.Write.ExecContext(ctx, `update report set retired_at = ?, successor = ? where id = ?`, db.Optional(at),
		successor, id)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// Favourites are the reports that a person marked.
func (s Catalog) Favourites(ctx context.Context, person string) ([]string, error) {
	rows, err := s.Read.QueryContext(ctx, `select report from favourite where person = ? order by report`, person)
	return db.Collect(rows, err, func(r *sql.Rows) (id string, err error) { return id, r.Scan(&id) })
}

// SetFavourite marks a report for a person, or no longer.
func (s Catalog) SetFavourite(ctx context.Context, person, report string, on bool) error {
	change := `delete from favourite where person = ? and report = ?`
	if on {
		change = `insert into favourite (person, report) values (?, ?) on conflict do nothing`
	}
	_, err := s.Write.ExecContext(ctx, change, person, report)
	return db.Explain(err)
}
