package sending

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Addresses returns the whole address book, by nickname.
func (s Sending) Addresses(ctx context.Context) ([]model.Address, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select id, nickname, name, mail, person, units, groups, owner, revision from address
			order by nickname collate nocase`)
	return db.Collect(rows, err, func(r *sql.Rows) (a model.Address, err error) {
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
func (s Sending) PutAddress(ctx context.Context, a model.Address, by string, now time.Time) error {
	units, _ := json.Marshal(append([]string{}, a.Units...))
	groups, _ := json.Marshal(append([]string{}, a.Groups...))
	return s.Change(ctx, func(tx *sql.Tx) error {
		if a.Revision == 0 {
			_, err := tx.ExecContext(ctx,
				`insert into address (nickname, name, mail, person, units, groups, owner) values (?, ?, ?, ?, ?, ?, ?)`,
				a.Nickname, a.Name, a.Mail, a.Person, string(units), string(groups), a.Owner)
			if err := db.Taken(err); err != nil {
				return err
			}
			return noteAddress(ctx, tx, a, "put", by, now)
		}
		done, err := tx.ExecContext(ctx,
			`update address set name = ?, mail = ?, person = ?, units = ?, groups = ?, revision = revision + 1
				where nickname = ? and revision = ?`,
			a.Name, a.Mail, a.Person, string(units), string(groups), a.Nickname, a.Revision)
		if err := db.OnlyIf(done, err, model.ErrStale); err != nil {
			return err
		}
		return noteAddress(ctx, tx, a, "put", by, now)
	})
}

// DeleteAddress deletes an entry of the address book.
func (s Sending) DeleteAddress(ctx context.Context, nickname, by string, now time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `delete from address where nickname = ?`, nickname)
		if err := db.OnlyIf(done, err, model.ErrNotFound); err != nil {
			return err
		}
		return noteAddress(ctx, tx, model.Address{Nickname: nickname}, "deleted", by, now)
	})
}

func noteAddress(ctx context.Context, tx *sql.Tx, a model.Address, what, by string, now time.Time) error {
	entry, err := json.Marshal(a)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `insert into address_change (nickname, at, by, what, entry) values (?, ?, ?, ?, ?)`,
		a.Nickname, db.Stamp(now), by, what, string(entry))
	return err
}

// AddressHistory returns the changes of an entry, the newest first.
func (s Sending) AddressHistory(ctx context.Context, nickname string) ([]model.AddressChange, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select at, by, what, entry from address_change where nickname = ? order by id desc limit 200`, nickname)
	return db.Collect(rows, err, func(r *sql.Rows) (c model.AddressChange, err error) {
		var at sql.NullString
		var entry string
		if err = r.Scan(&at, &c.By, &c.What, &entry); err != nil {
			return c, err
		}
		c.At = db.Unstamp(at)
		return c, json.Unmarshal([]byte(entry), &c.Entry)
	})
}
