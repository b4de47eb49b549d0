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

// Space tells what takes space: the file, what in it is free, and the results by a way.
func (s Standing) Space(ctx context.Context, now time.Time) (x model.Space, err error) {
	err = s.Read.QueryRowContext(ctx, `select page_count * page_size, freelist_count * page_size
		from pragma_page_count, pragma_page_size, pragma_freelist_count`).Scan(&x.File, &x.Free)
	if err != nil {
		return x, db.Explain(err)
	}
	for into, by := range map[*[]model.Taken]string{&x.Reports: "report", &x.People: "asked_by",
		&x.Ages: `case when trashed_at is not null then 'in the trash'
			when kept_at >= '` + db.Stamp(now.AddDate(0, -1, 0)) + `' then 'of the last month'
			when kept_at >= '` + db.Stamp(now.AddDate(-1, 0, 0)) + `' then 'of the last year' else 'older' end`} {
		rows, err := s.Read.QueryContext(ctx, `select `+by+`, count(*), sum(rows), sum(bytes),
			sum(iif(keep_until is null and trashed_at is null, bytes, 0)) from result group by 1 order by 4 desc, 1`)
		if *into, err = db.Collect(rows, err, func(r *sql.Rows) (t model.Taken, err error) {
			return t, r.Scan(&t.Name, &t.Results, &t.Rows, &t.Bytes, &t.ForEver)
		}); err != nil {
			return x, err
		}
	}
	return x, nil
}

// GiveBack returns to the disk what is free in the file, a little at a time; it tells whether there is
// more. Records that were made by earlier versions give nothing back; see [db.DB.Compact].
func (s Standing) GiveBack(ctx context.Context) (more bool, err error) {
	const pages, spare = 2000, 4000 // what is free is used again soon
	var free, mode int
	err = s.Read.QueryRowContext(ctx, `select freelist_count, auto_vacuum from pragma_freelist_count, pragma_auto_vacuum`).
		Scan(&free, &mode)
	const incremental = 2
	if err != nil || free < spare || mode != incremental {
		return false, db.Explain(err)
	}
	_, err = s.Write.ExecContext(ctx, `pragma incremental_vacuum(2000)`)
	return free-pages >= spare, db.Explain(err)
}
