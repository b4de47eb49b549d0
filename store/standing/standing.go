// Package standing counts what waits and what went, for those who look after the service.
package standing

import (
	"context"
	"database/sql"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Standing counts records.
type Standing struct{ *db.DB }

// Counts are how much of everything there is, and since when the oldest of what waits does.
func (s Standing) Counts(ctx context.Context) (c model.Counts, err error) {
	c.Runs, err = s.grouped(ctx, `select state, count(*) from run group by state`)
	if err == nil {
		c.Parcels, err = s.grouped(ctx, `select state, count(*) from parcel group by state`)
	}
	if err != nil {
		return c, err
	}
	var run, parcel, due sql.NullString
	err = s.Read.QueryRowContext(ctx, `select count(*), coalesce(sum(rows), 0), coalesce(sum(bytes), 0),
		(select min(asked_at) from run where state = 'waiting'),
		(select min(made_at) from parcel where state = 'waiting'),
		(select min(next_at) from control where next_at is not null),
		(select coalesce(max(number),
			0) - sent from audit_book left join audit on true) from result`).Scan(&c.Results, &c.Rows,
		&c.Bytes, &run, &parcel, &due, &c.Unsent)
	c.RunSince, c.ParcelSince, c.NextDue = db.Unstamp(run), db.Unstamp(parcel), db.Unstamp(due)
	c.Cache = int64(s.Cache.Used())
	return c, db.Explain(err)
}

func (s Standing) grouped(ctx context.Context, query string) (map[string]int64, error) {
	out := map[string]int64{}
	rows, err := s.Read.QueryContext(ctx, query)
	_, err = db.Collect(rows, err, func(r *sql.Rows) (none struct{}, err error) {
		var name string
		var n int64
		err = r.Scan(&name, &n)
		out[name] = n
		return none, err
	})
	return out, err
}

// Answers tells whether the records can be read and written.
func (s Standing) Answers(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	var one int
	if err := s.Read.QueryRowContext(ctx, `select 1 from audit_book`).Scan(&one); err != nil {
		return db.Explain(err)
	}
	return s.Change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `update audit_book set sent = sent where one = 1`)
		return err
	})
}
