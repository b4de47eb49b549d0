package people

import (
	"context"
	"database/sql"
	"fmt"

	"mantilla/store/db"
	"mantilla/store/naming"
)

// Data is what the records keep of an account, by tables.
func (s People) Data(ctx context.Context, name string) (map[string][]map[string]any, error) {
	return naming.Data(ctx, s.Read, name)
}

// Erase leaves of an account, which was renamed to an alias, nothing but that: what it did goes on under
// the alias, what was its own alone is deleted.
func (s People) Erase(ctx context.Context, alias string) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		for _, text := range []string{
			`update person set title = 'Somebody who left', password = '', zone = '', ways = '{}', subject = '',
				units = '[]', given = '[]', withheld = '[]', closed = 1, revision = revision + 1 where name = ?`,
			`delete from session where person = ?`,
			`delete from second where person = ?`,
			`delete from passkey where person = ?`,
			`delete from group_member where person = ?`,
			`delete from opening where kind = 'person' and name = ?`,
			`delete from quota where kind = 'person' and id = ?`,
			`delete from opening_wish where by = ?`,
			`delete from notice where person = ?`,
			`delete from follower where person = ?`,
			`delete from thrown_row where number in (select row from thrown_cell where col = 'person' and value = ?)`,
			`delete from favourite where person = ?`,
			`delete from usual where person = ?`,
			`delete from feed where person = ?`,
			`delete from visit where person = ?`,
			`delete from desk where kind = 'person' and owner = ?`,
			`delete from thrown_tile where kind = 'person' and owner = ?`,
			`delete from mark where whose = 'person ' || ?`,
			`delete from address_change where nickname in (select nickname from address where person = ?)`,
			`delete from address where person = ?`,
		} {
			if _, err := tx.ExecContext(ctx, text, alias); err != nil {
				return fmt.Errorf("%.40s: %w", text, db.Explain(err))
			}
		}
		return nil
	})
}
