package people

import (
	"context"
	"database/sql"
	"encoding/json"

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

// OpeningWish is to whom somebody wants a report to be open; it fails with [model.ErrNotFound] where nobody
// wants another thing than what is.
func (s People) OpeningWish(ctx context.Context, report string) (w model.OpeningWish, err error) {
	var to string
	var at sql.NullString
	err = s.Read.QueryRowContext(ctx, `select report, openings, by, at from opening_wish where report = ?`, report).
		Scan(&w.Report, &to, &w.By, &at)
	if err != nil {
		return w, db.Explain(err)
	}
	w.At = db.Unstamp(at)
	return w, json.Unmarshal([]byte(to), &w.To)
}

// PutOpeningWish keeps what somebody wants, instead of what another wanted before.
func (s People) PutOpeningWish(ctx context.Context, w model.OpeningWish) error {
	to, err := json.Marshal(append([]model.Opening{}, w.To...))
	if err != nil {
		return err
	}
	_, err = s.Write.ExecContext(ctx, `insert into opening_wish (report, openings, by, at) values (?, ?, ?, ?)
		on conflict do update set openings = excluded.openings, by = excluded.by, at = excluded.at`, w.Report, string(to),
		w.By, db.Stamp(w.At))
	return db.Explain(err)
}

// PutOpenings says to whom a report is open from now on; nobody wants another thing then.
func (s People) PutOpenings(ctx context.Context, report string, to []model.Opening) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `delete from opening where report = ?`, report)
		if err == nil {
			_, err = tx.ExecContext(ctx, `delete from opening_wish where report = ?`, report)
		}
		for _, o := range to {
			if err == nil {
				_, err = tx.ExecContext(ctx, `insert into opening (report, kind, name) values (?, ?, ?) on conflict do nothing`,
					report, o.Kind, o.Name)
			}
		}
		return err
	})
}
