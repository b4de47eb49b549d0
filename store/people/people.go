// Package people keeps accounts, groups, sessions, and to whom reports are open.
package people

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"mantilla/model"
	"mantilla/store/db"
)

// People are accounts, groups, sessions, and to whom reports are open.
type People struct{ *db.DB }

// PersonColumns are what [ScanPerson] reads.
const PersonColumns = `select name, title, role, units, given, withheld, closed, revision, password, zone, subject,
	owner, ways,
	exists (select 1 from second where second.person = person.name and confirmed),
	(select coalesce(json_group_array(grp), '[]') from (select grp from group_member where person = name order by grp))
	from person`

// ScanPerson reads a person.
func ScanPerson(row interface{ Scan(...any) error }) (p model.Person, err error) {
	var units, given, withheld, groups, ways string
	if err = row.Scan(&p.Name, &p.Title, &p.Role, &units, &given, &withheld, &p.Closed, &p.Revision, &p.Password, &p.Zone,
		&p.Subject, &p.Owner, &ways, &p.Second, &groups); err != nil {
		return p, db.Explain(err)
	}
	return p, errors.Join(json.Unmarshal([]byte(units), &p.Units), json.Unmarshal([]byte(groups), &p.Groups),
		json.Unmarshal([]byte(given), &p.Given), json.Unmarshal([]byte(withheld), &p.Withheld),
		json.Unmarshal([]byte(ways), &p.Ways))
}

// Person returns one account.
func (s People) Person(ctx context.Context, name string) (model.Person, error) {
	return ScanPerson(s.Read.QueryRowContext(ctx, PersonColumns+` where name = ?`, name))
}

// People returns all accounts by name.
func (s People) People(ctx context.Context) ([]model.Person, error) {
	rows, err := s.Read.QueryContext(ctx, PersonColumns+` order by name`)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Person, error) { return ScanPerson(r) })
}

// PutPerson keeps an account. Revision is the one seen before, 0 for a new
// account; it fails with [ErrStale] when there is another. An empty password
// leaves the one there is. Whoever loses a right is signed out.
func (s People) PutPerson(ctx context.Context, p model.Person) error {
	units, given, withheld := list(p.Units), list(p.Given), list(p.Withheld)
	return s.Change(ctx, func(tx *sql.Tx) error {
		if p.Revision == 0 {
			done, err := tx.ExecContext(ctx,
				`insert into person (name, title, role, units, given, withheld, password, closed, owner)
				values (?, ?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing`,
				p.Name, p.Title, p.Role, units, given, withheld, p.Password, p.Closed, p.Owner)
			return db.OnlyIf(done, err, model.ErrStale)
		}
		done, err := tx.ExecContext(ctx,
			`update person set title = ?, role = ?, units = ?, given = ?, withheld = ?, closed = ?, owner = ?,
			password = coalesce(nullif(?, ''), password),
			revision = revision + 1 where name = ? and revision = ?`,
			p.Title, p.Role, units, given, withheld, p.Closed, p.Owner, p.Password, p.Name, p.Revision)
		if err = db.OnlyIf(done, err, model.ErrStale); err == nil && (p.Closed || p.Password != "") {
			_, err = tx.ExecContext(ctx, `delete from session where person = ?`, p.Name)
		}
		return err
	})
}

// list is a list of words as a column has it.
func list(words []string) string {
	text, _ := json.Marshal(append([]string{}, words...)) // of texts alone
	return string(text)
}

// SetWays keeps how a person likes the console.
func (s People) SetWays(ctx context.Context, name string, w model.Ways) error {
	text, err := json.Marshal(w)
	if err != nil {
		return err
	}
	done, err := s.Write.ExecContext(ctx, `update person set ways = ? where name = ?`, string(text), name)
	return db.OnlyIf(done, err, model.ErrNotFound)
}

// SetZone sets the zone in which moments are said to a person.
func (s People) SetZone(ctx context.Context, name, zone string) error {
	done, err := s.Write.ExecContext(ctx, `update person set zone = ? where name = ?`, zone, name)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// Groups returns all groups by id.
func (s People) Groups(ctx context.Context) ([]model.Group, error) {
	rows, err := s.Read.QueryContext(ctx, `select id, title, revision,
		(select coalesce(json_group_array(person), '[]') from (select person from group_member where grp = id
		order by person)) from people_group order by id`)
	return db.Collect(rows, err, func(r *sql.Rows) (g model.Group, err error) {
		var members string
		if err = r.Scan(&g.ID, &g.Title, &g.Revision, &members); err == nil {
			err = json.Unmarshal([]byte(members), &g.Members)
		}
		return g, err
	})
}

// PutGroup keeps a group with its members; see [People.PutPerson] for revisions.
func (s People) PutGroup(ctx context.Context, g model.Group) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `insert into people_group (id, title) select ?1, ?2 where ?3 = 0
			on conflict do nothing`, g.ID, g.Title, g.Revision)
		if g.Revision > 0 {
			done, err = tx.ExecContext(ctx,
				`update people_group set title = ?, revision = revision + 1 where id = ? and revision = ?`, g.Title, g.ID,
				g.Revision)
		}
		if err := db.OnlyIf(done, err, model.ErrStale); err != nil {
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

// KeptFor says what there is of a person: "3 runs", "1 run control".
func (s People) KeptFor(ctx context.Context, person string) (kept []string, err error) {
	for _, part := range []struct{ one, many, query string }{
		{"run", "runs", `select count(*) from run where asked_by = ?`},
		{"run control", "run controls", `select count(*) from control where owner = ?`},
		{"set of criteria", "sets of criteria", `select count(*) from criteria where owner = ?`},
		{"kept view", "kept views", `select count(*) from kept_view where owner = ?`},
		{"address", "addresses", `select count(*) from address where owner = ?1 or person = ?1`},
		{"parcel", "parcels", `select count(*) from parcel where owner = ?`},
		{"service account", "service accounts", `select count(*) from person where owner = ?`},
	} {
		var n int
		if err := s.Read.QueryRowContext(ctx, part.query, person).Scan(&n); err != nil {
			return nil, db.Explain(err)
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

// DeletePerson deletes an account with its memberships and desk, so that it can be put back, and with
// its sessions, which cannot.
func (s People) DeletePerson(ctx context.Context, t model.Thrown) error {
	return s.Throw(ctx, t,
		db.Part{Table: "person", Where: "name = ?1", How: db.Removed},
		db.Part{Table: "second", Where: "person = ?1", How: db.Removed},
		db.Part{Table: "passkey", Where: "person = ?1", How: db.Removed},
		db.Part{Table: "group_member", Where: "person = ?1", How: db.Removed},
		db.Part{Table: "follower", Where: "person = ?1", How: db.Removed},
		db.Part{Table: "opening", Where: "kind = 'person' and name = ?1", How: db.Removed},
		db.Part{Table: "desk", Where: "kind = 'person' and owner = ?1", How: db.Removed},
		db.Part{Table: "usual", Where: "person = ?1", How: db.Removed},
		db.Part{Table: "mark", Where: "whose = 'person ' || ?1", How: db.Removed},
		db.Part{Table: "quota", Where: "kind = 'person' and id = ?1", How: db.Removed})
}

// DeleteGroup deletes a group; what was shared with it is its owners' alone, until it is put back.
func (s People) DeleteGroup(ctx context.Context, t model.Thrown) error {
	return s.Throw(ctx, t,
		db.Part{Table: "people_group", Where: "id = ?1", How: db.Removed},
		db.Part{Table: "group_member", Where: "grp = ?1", How: db.Removed},
		db.Part{Table: "opening", Where: "kind = 'group' and name = ?1", How: db.Removed},
		db.Part{Table: "criteria", Where: "shared = ?1", How: db.Emptied, Column: "shared"},
		db.Part{Table: "control", Where: "shared = ?1", How: db.Emptied, Column: "shared"},
		db.Part{Table: "control_past", Where: "shared = ?1", How: db.Emptied, Column: "shared"},
		db.Part{Table: "desk", Where: "kind = 'group' and owner = ?1", How: db.Removed},
		db.Part{Table: "quota", Where: "kind = 'group' and id = ?1", How: db.Removed})
}

// PersonOf returns the account of somebody whom a provider knows.
func (s People) PersonOf(ctx context.Context, subject string) (model.Person, error) {
	return ScanPerson(s.Read.QueryRowContext(ctx, PersonColumns+` where subject <> '' and subject = ?`, subject))
}

// Introduce keeps who somebody is for a provider, in an account that is made where there is none, and
// the units that they are limited to. Of the groups that there are they are in those that are named;
// nil leaves them as they are.
func (s People) Introduce(ctx context.Context, p model.Person, groups []string) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `insert into person (name, title, role, units, password, subject)
			values (?1, ?2, ?3, ?4, '', ?5)
			on conflict (name) do update set subject = ?5, units = ?4, revision = revision + (units <> ?4)`,
			p.Name, p.Title, p.Role, list(p.Units), p.Subject)
		if err != nil || groups == nil {
			return err
		}
		named, err := json.Marshal(groups)
		if err == nil {
			_, err = tx.ExecContext(ctx,
				`delete from group_member where person = ? and grp not in (select value from json_each(?))`,
				p.Name, string(named))
		}
		if err == nil {
			_, err = tx.ExecContext(ctx, `insert or ignore into group_member (grp, person)
				select id, ? from people_group where id in (select value from json_each(?))`, p.Name, string(named))
		}
		return err
	})
}
