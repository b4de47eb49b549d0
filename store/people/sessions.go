package people

import (
	"context"
	"database/sql"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// AddSession keeps a session and forgets those that have ended.
func (s People) AddSession(ctx context.Context, n model.Session) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `delete from session where ends_at <= ?`, db.Stamp(n.MadeAt))
		if err == nil {
			_, err = tx.ExecContext(ctx,
				`insert into session (digest, person, kind, label, made_at, ends_at) values (?, ?, ?, ?, ?, ?)`,
				n.Digest, n.Person, n.Kind, n.Label, db.Stamp(n.MadeAt), db.Stamp(n.EndsAt))
		}
		return err
	})
}

// SessionPerson returns whose session it is; [ErrNotFound] when it has ended
// or the account is closed.
func (s People) SessionPerson(ctx context.Context, digest string, now time.Time) (model.Person, error) {
	return ScanPerson(s.Read.QueryRowContext(ctx,
		PersonColumns+` where not closed and name = (select person from session where digest = ? and ends_at > ?)`, digest,
		db.Stamp(now)))
}

// EndSession forgets a session.
func (s People) EndSession(ctx context.Context, digest string) error {
	_, err := s.Write.ExecContext(ctx, `delete from session where digest = ?`, digest)
	return db.Explain(err)
}

// Sessions returns what a person is signed in with, the newest first.
func (s People) Sessions(ctx context.Context, person string, now time.Time) ([]model.Session, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select digest, person, kind, label, made_at, ends_at from session where person = ? and ends_at > ?
			order by made_at desc`, person, db.Stamp(now))
	return db.Collect(rows, err, func(r *sql.Rows) (n model.Session, err error) {
		var made, ends sql.NullString
		err = r.Scan(&n.Digest, &n.Person, &n.Kind, &n.Label, &made, &ends)
		n.MadeAt, n.EndsAt = db.Unstamp(made), db.Unstamp(ends)
		return n, err
	})
}
