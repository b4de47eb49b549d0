// Package history tells which captures of a run control are missing.
package history

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

// History is the records that histories are read by.
type History struct{ *db.DB }

// Gaps are the due moments of a run control that left no result of a report: skipped or refused,
// failed or stopped, or whose result is gone. They come in their order.
func (s History) Gaps(ctx context.Context, control, report string) ([]model.MissedMoment, error) {
	rows, err := s.Read.QueryContext(ctx, `select moment as at, reason, 0 from due_note where control = ?1
		union all
		select m.moment as at, case r.state when 'failed' then r.reason when 'stopped' then 'it was stopped'
				else 'its result was deleted' end, m.number
			from control_run m join run r on r.control_run = m.number
			where m.control = ?1 and m.moment is not null and r.report = ?2 and (r.state in ('failed', 'stopped')
				or r.state = 'done' and not exists (select 1 from result k where k.run = r.number and k.trashed_at is null))
		order by at`, control, report)
	return db.Collect(rows, err, func(r *sql.Rows) (m model.MissedMoment, err error) {
		var at sql.NullString
		err = r.Scan(&at, &m.Reason, &m.Run)
		m.Control, m.Moment = control, db.Unstamp(at)
		return m, err
	})
}
