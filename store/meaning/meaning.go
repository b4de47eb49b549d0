// Package meaning keeps the glossary.
package meaning

import (
	"context"
	"database/sql"
	"encoding/json"

	"mantilla/model"
	"mantilla/store/db"
)

// Meaning is the records of the glossary.
type Meaning struct{ *db.DB }

// Terms returns all terms by their names.
func (s Meaning) Terms(ctx context.Context) ([]model.Term, error) {
	rows, err := s.Read.QueryContext(ctx, `select id, name, also, meaning, owner, revision, changed_at, changed_by
		from term order by name collate nocase, id`)
	return db.Collect(rows, err, func(r *sql.Rows) (t model.Term, err error) {
		var also string
		var at sql.NullString
		if err := r.Scan(&t.ID, &t.Name, &also, &t.Meaning, &t.Owner, &t.Revision, &at, &t.ChangedBy); err != nil {
			return t, err
		}
		t.ChangedAt = db.Unstamp(at)
		return t, json.Unmarshal([]byte(also), &t.Also)
	})
}

// PutTerm keeps a term. Its revision is that which the writer saw before, 0 for a new one;
// it fails with [model.ErrStale] when another is kept.
func (s Meaning) PutTerm(ctx context.Context, t model.Term) error {
	return s.Change(ctx, func(tx *sql.Tx) error { return PutTerm(ctx, tx, t) })
}

// PutTerm keeps a term within a change.
func PutTerm(ctx context.Context, tx *sql.Tx, t model.Term) error {
	also, err := json.Marshal(append([]string{}, t.Also...))
	if err != nil {
		return err
	}
	if t.Revision == 0 {
		_, err := tx.ExecContext(ctx, `insert into term (id, name, also, meaning, owner, changed_at, changed_by)
			values (?, ?, ?, ?, ?, ?, ?)`, t.ID, t.Name, string(also), t.Meaning, t.Owner, db.Stamp(t.ChangedAt), t.ChangedBy)
		return db.Taken(err)
	}
	done, err := tx.ExecContext(ctx, `update term set name = ?, also = ?, meaning = ?, owner = ?, revision = revision + 1,
		changed_at = ?, changed_by = ? where id = ? and revision = ?`, t.Name, string(also), t.Meaning, t.Owner,
		db.Stamp(t.ChangedAt), t.ChangedBy, t.ID, t.Revision)
	return db.OnlyIf(done, db.Explain(err), model.ErrStale)
}

// DeleteTerm forgets a term.
func (s Meaning) DeleteTerm(ctx context.Context, id string) error {
	done, err := s.Write.ExecContext(ctx, `delete from term where id = ?`, id)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
