package keeping

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

// SigningKeys are all keys that proofs were ever signed with, the newest first.
func (s Keeping) SigningKeys(ctx context.Context) ([]model.SigningKey, error) {
	rows, err := s.Read.QueryContext(ctx, `select id, public, private, made_at from signing_key
		order by private is null, made_at desc, rowid desc`)
	return db.Collect(rows, err, func(r *sql.Rows) (k model.SigningKey, err error) {
		var at sql.NullString
		err = r.Scan(&k.ID, &k.Public, &k.Seed, &at)
		k.MadeAt = db.Unstamp(at)
		return k, err
	})
}

// PutSigningKey makes a key the one that proofs are signed with; the private halves of all
// others are forgotten.
func (s Keeping) PutSigningKey(ctx context.Context, k model.SigningKey) error {
	return db.Explain(s.Change(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `update signing_key set private = null`); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `insert into signing_key (id, public, private, made_at) values (?, ?, ?, ?)`, k.ID,
			k.Public, k.Seed, db.Stamp(k.MadeAt))
		return err
	}))
}
