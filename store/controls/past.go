package controls

import (
	"context"
	"database/sql"
	"encoding/json"

	"mantilla/model"
	"mantilla/store/db"
)

// KeptPast is how many earlier versions of a run control are kept.
const KeptPast = 50

// keepPast keeps a run control as it is before it is overwritten with something else.
func keepPast(ctx context.Context, tx *sql.Tx, c model.Control) error {
	_, err := tx.ExecContext(ctx,
		`insert into control_past (control, revision, title, shared, body, changed_at, changed_by)
			select id, revision, title, shared, body, changed_at, changed_by from control
			where id = ? and revision = ? and deleted_at is null and (title, shared, body) <> (?, ?, ?)`,
		c.ID, c.Revision, c.Title, c.Shared, string(c.Body))
	if err == nil {
		_, err = tx.ExecContext(ctx, `delete from control_past where control = ?1 and revision not in
			(select revision from control_past where control = ?1 order by revision desc limit ?2)`, c.ID, KeptPast)
	}
	return err
}

// PastControls returns what a run control was before it was overwritten, the newest first:
// title, shared, body, revision, and when and by whom each was kept.
func (s Controls) PastControls(ctx context.Context, id string) ([]model.Control, error) {
	rows, err := s.Read.QueryContext(ctx, `select p.control, c.owner, p.title, p.shared, p.body, p.revision,
		p.changed_at, p.changed_by from control_past p join control c on c.id = p.control
		where p.control = ? order by p.revision desc`, id)
	return db.Collect(rows, err, func(r *sql.Rows) (c model.Control, err error) {
		var body string
		var changed sql.NullString
		err = r.Scan(&c.ID, &c.Owner, &c.Title, &c.Shared, &body, &c.Revision, &changed, &c.ChangedBy)
		c.Body, c.ChangedAt = json.RawMessage(body), db.Unstamp(changed)
		return c, err
	})
}
