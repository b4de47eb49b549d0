package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
)

// Address is an entry of the address book.
type Address struct {
	ID       int64
	Nickname string
	Name     string
	Mail     string
	Person   string   // the account it belongs to; "" for none
	Units    []string // that it stands for
	Groups   []string // names under which several are written to
	Owner    string
	Revision int64
}

// Addresses returns the whole address book, by nickname.
func (s *Store) Addresses(ctx context.Context) ([]Address, error) {
	rows, err := s.read.QueryContext(ctx, `select id, nickname, name, mail, person, units, groups, owner, revision from address order by nickname collate nocase`)
	return collect(rows, err, func(r *sql.Rows) (a Address, err error) {
		var units, groups string
		if err = r.Scan(&a.ID, &a.Nickname, &a.Name, &a.Mail, &a.Person, &units, &groups, &a.Owner, &a.Revision); err != nil {
			return a, err
		}
		return a, errors.Join(json.Unmarshal([]byte(units), &a.Units), json.Unmarshal([]byte(groups), &a.Groups))
	})
}

// PutAddress keeps an entry of the address book. Revision is the one seen
// before, 0 for a new one: [ErrTaken] when its nickname is in use, [ErrStale]
// when it was changed.
func (s *Store) PutAddress(ctx context.Context, a Address) error {
	units, _ := json.Marshal(append([]string{}, a.Units...))
	groups, _ := json.Marshal(append([]string{}, a.Groups...))
	if a.Revision == 0 {
		_, err := s.write.ExecContext(ctx, `insert into address (nickname, name, mail, person, units, groups, owner) values (?, ?, ?, ?, ?, ?, ?)`,
			a.Nickname, a.Name, a.Mail, a.Person, string(units), string(groups), a.Owner)
		return taken(err)
	}
	done, err := s.write.ExecContext(ctx, `update address set name = ?, mail = ?, person = ?, units = ?, groups = ?, revision = revision + 1 where nickname = ? and revision = ?`,
		a.Name, a.Mail, a.Person, string(units), string(groups), a.Nickname, a.Revision)
	return onlyIf(done, explain(err), ErrStale)
}

// DeleteAddress deletes an entry of the address book.
func (s *Store) DeleteAddress(ctx context.Context, nickname string) error {
	done, err := s.write.ExecContext(ctx, `delete from address where nickname = ?`, nickname)
	return onlyIf(done, explain(err), ErrNotFound)
}
