// Package trash tells what was deleted and can be brought back, and empties what was
// there long enough.
package trash

import (
	"context"
	"database/sql"
	"fmt"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Trash is what was deleted.
type Trash struct{ *db.DB }

// Thrown returns what was deleted since a moment, the last first, but for results: what is
// a person's own or was on the desk of one of their groups, or everything.
func (t Trash) Thrown(ctx context.Context, person string, everything bool, since time.Time) ([]model.Thrown, error) {
	rows, err := t.Read.QueryContext(ctx, `
		select 'criteria', printf('C-%d', id), name, report, owner, deleted_at from criteria
			where deleted_at > ?1 and (?3 or owner = ?2)
		union all select 'control', id, title, '', owner, deleted_at from control where deleted_at > ?1 and (?3 or owner = ?2)
		union all select 'view', printf('V-%d', id), name, report, owner, deleted_at from kept_view
			where deleted_at > ?1 and (?3 or owner = ?2)
		union all select 'tile', printf('T-%d', number), title, '', owner, at from thrown_tile where at > ?1
			and (kind = 'person' and owner = ?2
				or kind = 'group' and owner in (select grp from group_member where person = ?2))
		union all select kind, id, name, report, by, at from thrown_thing t where at > ?1 and (?3 or by = ?2)
			and not exists (select 1 from thrown_thing later where later.kind = t.kind and later.id = t.id
				and later.number > t.number)
		order by 6 desc, 1, 2`, db.Stamp(since), person, everything)
	return db.Collect(rows, err, func(r *sql.Rows) (x model.Thrown, err error) {
		var at sql.NullString
		err = r.Scan(&x.Kind, &x.ID, &x.Name, &x.Report, &x.Owner, &at)
		x.At = db.Unstamp(at)
		return x, err
	})
}

// Empty deletes what was thrown before a moment, but for results, and run controls that runs
// are of: these say where results come from.
func (t Trash) Empty(ctx context.Context, before time.Time) (emptied int64, err error) {
	err = t.Change(ctx, func(tx *sql.Tx) error {
		if emptied, err = db.EmptyThrown(ctx, tx, db.Stamp(before)); err != nil {
			return fmt.Errorf("emptying the trash: %w", db.Explain(err))
		}
		for _, statement := range []string{
			`delete from criteria where deleted_at <= ?`,
			`delete from kept_view where deleted_at <= ?`,
			`delete from control where deleted_at <= ? and id not in (select control from control_run)`,
			`delete from thrown_tile where at <= ?`,
		} {
			done, err := tx.ExecContext(ctx, statement, db.Stamp(before))
			if err != nil {
				return fmt.Errorf("emptying the trash: %w", db.Explain(err))
			}
			n, err := done.RowsAffected()
			if err != nil {
				return err
			}
			emptied += n
		}
		return nil
	})
	return emptied, err
}
