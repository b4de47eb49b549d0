package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"mantilla/model"
)

const personColumns = `select name, title, role, units, closed, revision, password, zone,
	(select coalesce(json_group_array(grp), '[]') from (select grp from group_member where person = name order by grp)) from person`

func scanPerson(row interface{ Scan(...any) error }) (p model.Person, err error) {
	var units, groups string
	if err = row.Scan(&p.Name, &p.Title, &p.Role, &units, &p.Closed, &p.Revision, &p.Password, &p.Zone, &groups); err != nil {
		return p, explain(err)
	}
	if err = json.Unmarshal([]byte(units), &p.Units); err == nil {
		err = json.Unmarshal([]byte(groups), &p.Groups)
	}
	return p, err
}

// Person returns one account.
func (s *Store) Person(ctx context.Context, name string) (model.Person, error) {
	return scanPerson(s.read.QueryRowContext(ctx, personColumns+` where name = ?`, name))
}

// People returns all accounts by name.
func (s *Store) People(ctx context.Context) ([]model.Person, error) {
	rows, err := s.read.QueryContext(ctx, personColumns+` order by name`)
	return collect(rows, err, func(r *sql.Rows) (model.Person, error) { return scanPerson(r) })
}

// PutPerson keeps an account. Revision is the one seen before, 0 for a new
// account; it fails with [ErrStale] when there is another. An empty password
// leaves the one there is. Whoever loses a right is signed out.
func (s *Store) PutPerson(ctx context.Context, p model.Person) error {
	units, _ := json.Marshal(append([]string{}, p.Units...))
	return s.change(ctx, func(tx *sql.Tx) error {
		if p.Revision == 0 {
			done, err := tx.ExecContext(ctx, `insert into person (name, title, role, units, password, closed) values (?, ?, ?, ?, ?, ?) on conflict do nothing`,
				p.Name, p.Title, p.Role, string(units), p.Password, p.Closed)
			return onlyIf(done, err, model.ErrStale)
		}
		done, err := tx.ExecContext(ctx, `update person set title = ?, role = ?, units = ?, closed = ?, password = coalesce(nullif(?, ''), password),
			revision = revision + 1 where name = ? and revision = ?`,
			p.Title, p.Role, string(units), p.Closed, p.Password, p.Name, p.Revision)
		if err = onlyIf(done, err, model.ErrStale); err == nil && (p.Closed || p.Password != "") {
			_, err = tx.ExecContext(ctx, `delete from session where person = ?`, p.Name)
		}
		return err
	})
}

// SetZone sets the zone in which moments are said to a person.
func (s *Store) SetZone(ctx context.Context, name, zone string) error {
	done, err := s.write.ExecContext(ctx, `update person set zone = ? where name = ?`, zone, name)
	return onlyIf(done, explain(err), model.ErrNotFound)
}

// onlyIf turns a change of no row into an error.
func onlyIf(done sql.Result, err error, otherwise error) error {
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return otherwise
	}
	return nil
}

// Groups returns all groups by id.
func (s *Store) Groups(ctx context.Context) ([]model.Group, error) {
	rows, err := s.read.QueryContext(ctx, `select id, title, revision,
		(select coalesce(json_group_array(person), '[]') from (select person from group_member where grp = id order by person)) from people_group order by id`)
	return collect(rows, err, func(r *sql.Rows) (g model.Group, err error) {
		var members string
		if err = r.Scan(&g.ID, &g.Title, &g.Revision, &members); err == nil {
			err = json.Unmarshal([]byte(members), &g.Members)
		}
		return g, err
	})
}

// PutGroup keeps a group with its members; see [Store.PutPerson] for revisions.
func (s *Store) PutGroup(ctx context.Context, g model.Group) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `insert into people_group (id, title) select ?1, ?2 where ?3 = 0
			on conflict do nothing`, g.ID, g.Title, g.Revision)
		if g.Revision > 0 {
			done, err = tx.ExecContext(ctx, `update people_group set title = ?, revision = revision + 1 where id = ? and revision = ?`, g.Title, g.ID, g.Revision)
		}
		if err := onlyIf(done, err, model.ErrStale); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `delete from group_member where grp = ?`, g.ID); err != nil {
			return err
		}
		for _, m := range g.Members {
			if _, err := tx.ExecContext(ctx, `insert into group_member (grp, person) values (?, ?)`, g.ID, m); err != nil {
				return fmt.Errorf("member %s: %w", m, err)
			}
		}
		return nil
	})
}

// Openings returns to whom each report is open.
func (s *Store) Openings(ctx context.Context) (map[string][]model.Opening, error) {
	all := map[string][]model.Opening{}
	rows, err := s.read.QueryContext(ctx, `select report, kind, name from opening order by report, kind, name`)
	_, err = collect(rows, err, func(r *sql.Rows) (o model.Opening, err error) {
		var report string
		err = r.Scan(&report, &o.Kind, &o.Name)
		all[report] = append(all[report], o)
		return o, err
	})
	return all, err
}

// PutOpenings says to whom a report is open from now on.
func (s *Store) PutOpenings(ctx context.Context, report string, to []model.Opening) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `delete from opening where report = ?`, report)
		for _, o := range to {
			if err == nil {
				_, err = tx.ExecContext(ctx, `insert into opening (report, kind, name) values (?, ?, ?) on conflict do nothing`, report, o.Kind, o.Name)
			}
		}
		return err
	})
}

// AddSession keeps a session and forgets those that have ended.
func (s *Store) AddSession(ctx context.Context, n model.Session) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `delete from session where ends_at <= ?`, stamp(n.MadeAt))
		if err == nil {
			_, err = tx.ExecContext(ctx, `insert into session (digest, person, kind, label, made_at, ends_at) values (?, ?, ?, ?, ?, ?)`,
				n.Digest, n.Person, n.Kind, n.Label, stamp(n.MadeAt), stamp(n.EndsAt))
		}
		return err
	})
}

// SessionPerson returns whose session it is; [ErrNotFound] when it has ended
// or the account is closed.
func (s *Store) SessionPerson(ctx context.Context, digest string, now time.Time) (model.Person, error) {
	return scanPerson(s.read.QueryRowContext(ctx, personColumns+` where not closed and name = (select person from session where digest = ? and ends_at > ?)`, digest, stamp(now)))
}

// EndSession forgets a session.
func (s *Store) EndSession(ctx context.Context, digest string) error {
	_, err := s.write.ExecContext(ctx, `delete from session where digest = ?`, digest)
	return explain(err)
}
