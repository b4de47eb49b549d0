// Package health finds in the records how reports are used and how their runs go.
package health

import (
	"context"
	"database/sql"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Health reads runs for the health of the catalog.
type Health struct{ *db.DB }

// Trail is a run as the health of its report is told by it.
type Trail struct {
	Report  string
	State   model.State
	AskedAt time.Time     // of the last run of each report alone
	Took    time.Duration // 0 where it never ended
	Rows    int64
	Reason  string
}

// Trails are the last runs of every report of the catalog, so many of each, the newest
// first.
func (s Health) Trails(ctx context.Context, most int) ([]Trail, error) {
	rows, err := s.Read.QueryContext(ctx, `select r.report, r.state, r.asked_at,
		coalesce(unixepoch(r.ended_at, 'subsec') - unixepoch(r.started_at, 'subsec'), 0), r.rows,
		iif(r.state = 'failed', r.reason, '')
		from report p join run r on r.number in
			(select number from run where report = p.id and making = '' order by number desc limit ?)
		order by r.report, r.number desc`, most)
	last := ""
	return db.Collect(rows, err, func(r *sql.Rows) (t Trail, err error) {
		var asked sql.NullString
		var took float64
		err = r.Scan(&t.Report, &t.State, &asked, &took, &t.Rows, &t.Reason)
		t.Took = time.Duration(took * float64(time.Second)).Round(time.Millisecond)
		if t.Report != last { // of the others nobody asks
			t.AskedAt, last = db.Unstamp(asked), t.Report
		}
		return t, err
	})
}

// Spent is how long the runs took that ended since a moment, by report.
func (s Health) Spent(ctx context.Context, since time.Time) (map[string]time.Duration, error) {
	rows, err := s.Read.QueryContext(ctx, `select report,
		sum(unixepoch(ended_at, 'subsec') - unixepoch(started_at, 'subsec'))
		from run indexed by run_by_end where ended_at >= ? and started_at is not null group by report`, db.Stamp(since))
	spent := map[string]time.Duration{}
	_, err = db.Collect(rows, err, func(r *sql.Rows) (struct{}, error) {
		var report string
		var seconds float64
		err := r.Scan(&report, &seconds)
		spent[report] = time.Duration(seconds * float64(time.Second))
		return struct{}{}, err
	})
	return spent, err
}

// Since returns when each report became what it is.
func (s Health) Since(ctx context.Context) (map[string]model.Version, error) {
	rows, err := s.Read.QueryContext(ctx, `select report, max(number), at, by from report_change group by report`)
	since := map[string]model.Version{}
	_, err = db.Collect(rows, err, func(r *sql.Rows) (struct{}, error) {
		var report string
		var v model.Version
		var at sql.NullString
		err := r.Scan(&report, &v.Number, &at, &v.By)
		v.At = db.Unstamp(at)
		since[report] = v
		return struct{}{}, err
	})
	return since, err
}

// Use is how a report was used in a month.
type Use struct {
	Month   string // 2026-10
	Runs    int
	Failed  int
	People  int // who asked for runs
	Results int // that are still kept
	Seconds float64
}

// Untaken are the looks for files of which something is wrong.
func (s Health) Untaken(ctx context.Context) ([]model.FileLook, error) {
	rows, err := s.Read.QueryContext(ctx, `select source, tbl, at, fault from file_look where fault <> ''
		order by source, tbl`)
	return db.Collect(rows, err, func(r *sql.Rows) (l model.FileLook, err error) {
		var at sql.NullString
		err = r.Scan(&l.Source, &l.Table, &at, &l.Fault)
		l.At = db.Unstamp(at)
		return l, err
	})
}

// Uses are the months in which a report was run, the newest first.
func (s Health) Uses(ctx context.Context, report string, most int) ([]Use, error) {
	rows, err := s.Read.QueryContext(ctx, `select substr(r.asked_at, 1, 7) as month, count(*), sum(r.state = 'failed'),
		count(distinct r.asked_by), count(k.number),
		coalesce(sum(unixepoch(r.ended_at, 'subsec') - unixepoch(r.started_at, 'subsec')), 0)
		from run r left join result k on k.run = r.number where r.report = ? group by month order by month desc limit ?`,
		report, most)
	return db.Collect(rows, err, func(r *sql.Rows) (u Use, err error) {
		return u, r.Scan(&u.Month, &u.Runs, &u.Failed, &u.People, &u.Results, &u.Seconds)
	})
}
