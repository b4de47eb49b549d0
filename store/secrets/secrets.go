// Package secrets keeps what is sealed by a key that is elsewhere.
package secrets

import (
	"context"
	"database/sql"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Secrets are passwords and keys, sealed.
type Secrets struct{ *db.DB }

// Secrets returns the names of what is kept, with who changed it last.
func (s Secrets) Secrets(ctx context.Context) ([]model.Secret, error) {
	rows, err := s.Read.QueryContext(ctx, `select name, changed_by, changed_at from secret order by name`)
	return db.Collect(rows, err, func(r *sql.Rows) (x model.Secret, err error) {
		var at sql.NullString
		err = r.Scan(&x.Name, &x.ChangedBy, &at)
		x.From, x.ChangedAt = model.SecretOfStore, db.Unstamp(at)
		return x, err
	})
}

// Sealed returns what is kept under a name.
func (s Secrets) Sealed(ctx context.Context, name string) (sealed []byte, err error) {
	err = s.Read.QueryRowContext(ctx, `select sealed from secret where name = ?`, name).Scan(&sealed)
	return sealed, db.Explain(err)
}

// PutSecret keeps what is sealed under a name.
func (s Secrets) PutSecret(ctx context.Context, name string, sealed []byte, by string, at time.Time) error {
	_, err := s.Write.ExecContext(ctx, `insert into secret (name, sealed, changed_by, changed_at) values (?, ?, ?, ?)
		on conflict (name) do update set sealed = excluded.sealed, changed_by = excluded.changed_by,
			changed_at = excluded.changed_at`, name, sealed, by, db.Stamp(at))
	return db.Explain(err)
}

// DeleteSecret forgets what is kept under a name.
func (s Secrets) DeleteSecret(ctx context.Context, name string) error {
	done, err := s.Write.ExecContext(ctx, `delete from secret where name = ?`, name)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
