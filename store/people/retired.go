package people

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

// Retired returns what is retired beside reports.
func (s People) Retired(ctx context.Context) ([]model.Retired, error) {
	rows, err := s.Read.QueryContext(ctx, `select kind, id, successor, at, by from retired order by kind, id`)
	return db.Collect(rows, err, func(r *sql.Rows) (x model.Retired, err error) {
		var at sql.NullString
		err = r.Scan(&x.Kind, &x.ID, &x.Successor, &at, &x.By)
		x.At = db.Unstamp(at)
		return x, err
	})
}

// Retire keeps that something is retired, or what takes its place now.
func (s People) Retire(ctx context.Context, x model.Retired) error {
	_, err := s.Write.ExecContext(ctx, `insert into retired (kind, id, successor, at, by) values (?, ?, ?, ?, ?)
		on conflict do update set successor = excluded.successor, at = excluded.at, by = excluded.by`,
		x.Kind, x.ID, x.Successor, db.Stamp(x.At), x.By)
	return db.Explain(err)
}

// Reinstate forgets that something is retired.
func (s People) Reinstate(ctx context.Context, kind, id string) error {
	done, err := s.Write.ExecContext(ctx, `delete from retired where kind = ? and id = ?`, kind, id)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
