package people

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

const passkeyColumns = `select id, person, label, credential, made_at, last_at from passkey`

func scanPasskey(row interface{ Scan(...any) error }) (k model.Passkey, err error) {
	var made, last sql.NullString
	err = row.Scan(&k.ID, &k.Person, &k.Label, &k.Credential, &made, &last)
	k.MadeAt, k.LastAt = db.Unstamp(made), db.Unstamp(last)
	return k, db.Explain(err)
}

// Passkeys returns the passkeys of an account, the oldest first.
func (s People) Passkeys(ctx context.Context, person string) ([]model.Passkey, error) {
	rows, err := s.Read.QueryContext(ctx, passkeyColumns+` where person = ? order by made_at, id`, person)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Passkey, error) { return scanPasskey(r) })
}

// Passkey returns a passkey by its id; [ErrNotFound] where nobody has it.
func (s People) Passkey(ctx context.Context, id string) (model.Passkey, error) {
	return scanPasskey(s.Read.QueryRowContext(ctx, passkeyColumns+` where id = ?`, id))
}

// AddPasskey keeps a new passkey.
func (s People) AddPasskey(ctx context.Context, k model.Passkey) error {
	_, err := s.Write.ExecContext(ctx,
		`insert into passkey (id, person, label, credential, made_at) values (?, ?, ?, ?, ?)`,
		k.ID, k.Person, k.Label, k.Credential, db.Stamp(k.MadeAt))
	return db.Explain(err)
}

// UsedPasskey keeps that a passkey was used, and what it is checked by next time. Of two uses of one answer
// one fails, with [ErrStale]: what it is checked by is not what it was.
func (s People) UsedPasskey(ctx context.Context, k model.Passkey, was []byte) error {
	done, err := s.Write.ExecContext(ctx, `update passkey set credential = ?, last_at = ? where id = ? and credential = ?`,
		k.Credential, db.Stamp(k.LastAt), k.ID, was)
	return db.OnlyIf(done, db.Explain(err), model.ErrStale)
}

// DeletePasskey deletes a passkey of an account; all of them where no id is given.
func (s People) DeletePasskey(ctx context.Context, person, id string) error {
	done, err := s.Write.ExecContext(ctx, `delete from passkey where person = ?1 and ?2 in (id, '')`, person, id)
	if id == "" {
		return db.Explain(err)
	}
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
