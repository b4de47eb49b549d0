package results

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

const viewColumns = `select id, report, view, name, owner, everyone, changes, seen, revision, changed_at from kept_view
	where deleted_at is null`

func scanView(row interface{ Scan(...any) error }) (v model.View, err error) {
	var changes, seen string
	var at sql.NullString
	if err = row.Scan(&v.Number, &v.Report, &v.Base, &v.Name, &v.Owner, &v.Everyone, &changes, &seen, &v.Revision,
		&at); err != nil {
		return v, db.Explain(err)
	}
	v.ChangedAt = db.Unstamp(at)
	if err = json.Unmarshal([]byte(changes), &v.Changes); err == nil {
		err = json.Unmarshal([]byte(seen), &v.Seen)
	}
	return v, err
}

// View returns one kept view.
func (s Results) View(ctx context.Context, number int64) (model.View, error) {
	return scanView(s.Read.QueryRowContext(ctx, viewColumns+` and id = ?`, number))
}

// Views returns the views of a report that a person keeps or that are kept for
// everyone, by name.
func (s Results) Views(ctx context.Context, report, person string) ([]model.View, error) {
	rows, err := s.Read.QueryContext(ctx,
		viewColumns+` and report = ? and (owner = ? or everyone) order by name collate nocase, id`, report, person)
	return db.Collect(rows, err, func(r *sql.Rows) (model.View, error) { return scanView(r) })
}

// AddView keeps a view. It fails with [ErrTaken] when the owner has another of
// that name for the report.
func (s Results) AddView(ctx context.Context, v model.View) (model.View, error) {
	changes, _ := json.Marshal(v.Changes)
	seen, _ := json.Marshal(v.Seen)
	err := s.Write.QueryRowContext(ctx,
		`insert into kept_view (report, view, name, owner, everyone, changes, seen, changed_at)
			values (?, ?, ?, ?, ?, ?, ?, ?) returning id`,
		v.Report, v.Base, v.Name, v.Owner, v.Everyone, string(changes), string(seen), db.Stamp(v.ChangedAt)).Scan(&v.Number)
	if err != nil {
		return v, db.Taken(err)
	}
	return s.View(ctx, v.Number)
}

// PutView changes a kept view whose revision is still the one seen.
func (s Results) PutView(ctx context.Context, v model.View) error {
	changes, _ := json.Marshal(v.Changes)
	seen, _ := json.Marshal(v.Seen)
	done, err := s.Write.ExecContext(ctx, `update kept_view set view = ?, name = ?, everyone = ?, changes = ?, seen = ?,
		changed_at = ?, revision = revision + 1
		where id = ? and revision = ? and deleted_at is null`,
		v.Base, v.Name, v.Everyone, string(changes), string(seen), db.Stamp(v.ChangedAt), v.Number, v.Revision)
	if err != nil {
		return db.Taken(err)
	}
	return db.OnlyIf(done, nil, model.ErrStale)
}

// DeleteView puts a kept view into the trash.
func (s Results) DeleteView(ctx context.Context, number int64, at time.Time) error {
	done, err := s.Write.ExecContext(ctx, `update kept_view set deleted_at = ? where id = ? and deleted_at is null`,
		db.Stamp(at), number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// DeletedView returns whose a view in the trash is, what of and how it is called.
func (s Results) DeletedView(ctx context.Context, number int64) (v model.View, err error) {
	v.Number = number
	err = s.Read.QueryRowContext(ctx,
		`select report, name, owner, everyone from kept_view where id = ? and deleted_at is not null`, number).
		Scan(&v.Report, &v.Name, &v.Owner, &v.Everyone)
	return v, db.Explain(err)
}

// RestoreView takes a view out of the trash; [model.ErrTaken] when its name is in use meanwhile.
func (s Results) RestoreView(ctx context.Context, number int64) error {
	done, err := s.Write.ExecContext(ctx, `update kept_view set deleted_at = null where id = ? and deleted_at is not null`,
		number)
	if err != nil {
		return db.Taken(err)
	}
	return db.OnlyIf(done, nil, model.ErrNotFound)
}
