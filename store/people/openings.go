package people

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

// Openings returns to whom each report is open.
func (s People) Openings(ctx context.Context) (map[string][]model.Opening, error) {
	all := map[string][]model.Opening{}
	rows, err := s.Read.QueryContext(ctx, `select report, kind, name from opening order by report, kind, name`)
	_, err = db.Collect(rows, err, func(r *sql.Rows) (o model.Opening, err error) {
		var report string
		err = r.Scan(&report, &o.Kind, &o.Name)
		all[report] = append(all[report], o)
		return o, err
	})
	return all, err
}

// PutOpenings says to whom a report is open from now on.
func (s People) PutOpenings(ctx context.Context, report string, to []model.Opening) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `delete from opening where report = ?`, report)
		for _, o := range to {
			if err == nil {
				_, err = tx.ExecContext(ctx, `insert into opening (report, kind, name) values (?, ?, ?) on conflict do nothing`,
					report, o.Kind, o.Name)
			}
		}
		return err
	})
}
