package store

import (
	"context"
	"database/sql"
	"fmt"
	"time"

	"mantilla/model"
)

// KeptFor says what there is of a person: "3 runs", "1 run control".
func (s *Store) KeptFor(ctx context.Context, person string) (kept []string, err error) {
	for _, part := range []struct{ one, many, query string }{
		{"run", "runs", `select count(*) from run where asked_by = ?`},
		{"run control", "run controls", `select count(*) from control where owner = ?`},
		{"set of criteria", "sets of criteria", `select count(*) from criteria where owner = ?`},
		{"kept view", "kept views", `select count(*) from kept_view where owner = ?`},
		{"address", "addresses", `select count(*) from address where owner = ?1 or person = ?1`},
		{"parcel", "parcels", `select count(*) from parcel where owner = ?`},
	} {
		var n int
		if err := s.read.QueryRowContext(ctx, part.query, person).Scan(&n); err != nil {
			return nil, explain(err)
		}
		switch {
		case n == 1:
			kept = append(kept, "1 "+part.one)
		case n > 1:
			kept = append(kept, fmt.Sprintf("%d %s", n, part.many))
		}
	}
	return kept, nil
}

// all carries out changes of one transaction, each with the same argument; the
// first must change something.
func (s *Store) all(ctx context.Context, arg string, changes ...string) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		for i, text := range changes {
			done, err := tx.ExecContext(ctx, text, arg)
			if i == 0 {
				err = onlyIf(done, err, model.ErrNotFound)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// DeletePerson deletes an account with its sessions, memberships and desk.
func (s *Store) DeletePerson(ctx context.Context, name string) error {
	return s.all(ctx, name, `delete from person where name = ?`, `delete from opening where kind = 'person' and name = ?`,
		`delete from desk where kind = 'person' and owner = ?`, `delete from usual where person = ?`, `delete from mark where whose = 'person ' || ?`)
}

// DeleteGroup deletes a group; what it shared is its owners' alone again.
func (s *Store) DeleteGroup(ctx context.Context, id string) error {
	return s.all(ctx, id, `delete from people_group where id = ?`, `delete from opening where kind = 'group' and name = ?`,
		`update criteria set shared = '' where shared = ?`, `update control set shared = '' where shared = ?`, `delete from desk where kind = 'group' and owner = ?`)
}

// DeleteReport takes a report out of the catalog; its versions stay.
func (s *Store) DeleteReport(ctx context.Context, id string) error {
	return s.all(ctx, id, `delete from report where id = ?`, `delete from opening where report = ?`)
}

// DeleteSource takes the declaration of a source out of the catalog.
func (s *Store) DeleteSource(ctx context.Context, id string) error {
	return s.all(ctx, id, `delete from source where id = ?`)
}

// Sessions returns what a person is signed in with, the newest first.
func (s *Store) Sessions(ctx context.Context, person string, now time.Time) ([]model.Session, error) {
	rows, err := s.read.QueryContext(ctx, `select digest, person, kind, label, made_at, ends_at from session where person = ? and ends_at > ? order by made_at desc`, person, stamp(now))
	return collect(rows, err, func(r *sql.Rows) (n model.Session, err error) {
		var made, ends sql.NullString
		err = r.Scan(&n.Digest, &n.Person, &n.Kind, &n.Label, &made, &ends)
		n.MadeAt, n.EndsAt = unstamp(made), unstamp(ends)
		return n, err
	})
}
