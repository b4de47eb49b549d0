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
				`insert into session (digest, person, kind, label, made_at, ends_at, role, strong)
				values (?, ?, ?, ?, ?, ?, ?, ?)`,
				n.Digest, n.Person, n.Kind, n.Label, db.Stamp(n.MadeAt), db.Stamp(n.EndsAt), n.As, n.Strong)
		}
		return err
	})
}

// SessionPerson returns a session and whose it is; [ErrNotFound] when it has ended
// or the account is closed.
func (s People) SessionPerson(ctx context.Context, digest string, now time.Time) (p model.Person, n model.Session,
	err error) {
	n, err = scanSession(s.Read.QueryRowContext(ctx, sessionColumns+` where digest = ? and ends_at > ?`, digest,
		db.Stamp(now)))
	if err != nil {
		return p, n, db.Explain(err)
	}
	p, err = ScanPerson(s.Read.QueryRowContext(ctx, PersonColumns+` where not closed and name = ?`, n.Person))
	return p, n, err
}

// SessionUsed notes that a session was used.
func (s People) SessionUsed(ctx context.Context, digest string, at time.Time) error {
	return s.Lightly(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `update session set last_at = ? where digest = ?`, db.Stamp(at), digest)
		return err
	})
}

const sessionColumns = `select digest, person, kind, label, made_at, ends_at, role, last_at, strong from session`

func scanSession(row interface{ Scan(...any) error }) (n model.Session, err error) {
	var made, ends, last sql.NullString
	err = row.Scan(&n.Digest, &n.Person, &n.Kind, &n.Label, &made, &ends, &n.As, &last, &n.Strong)
	n.MadeAt, n.EndsAt, n.LastAt = db.Unstamp(made), db.Unstamp(ends), db.Unstamp(last)
	return n, err
}

// EndSession forgets a session.
func (s People) EndSession(ctx context.Context, digest string) error {
	_, err := s.Write.ExecContext(ctx, `delete from session where digest = ?`, digest)
	return db.Explain(err)
}

// Sessions returns what a person is signed in with, the newest first.
func (s People) Sessions(ctx context.Context, person string, now time.Time) ([]model.Session, error) {
	rows, err := s.Read.QueryContext(ctx, sessionColumns+` where person = ? and ends_at > ? order by made_at desc`,
		person, db.Stamp(now))
	return db.Collect(rows, err, func(r *sql.Rows) (model.Session, error) { return scanSession(r) })
}
