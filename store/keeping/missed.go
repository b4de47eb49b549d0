package keeping

import (
	"context"
	"database/sql"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Missed are due moments that gave no result and of which nobody was told: skipped or refused;
// of which a run failed or was stopped; or whose runs were asked for by a time and have not ended,
// less those that may start within some hours only.
func (s Keeping) Missed(ctx context.Context, by time.Time, limit int) ([]model.MissedMoment, error) {
	rows, err := s.Read.QueryContext(ctx, `select n.control, c.title, c.owner, n.moment, n.reason, 0
			from due_note n join control c on c.id = n.control where not n.told
		union all
		select m.control, c.title, c.owner, m.moment, (select case r.state when 'failed' then r.reason
				when 'stopped' then 'it was stopped' else 'it has not ended yet' end from run r
				where r.control_run = m.number and r.state <> 'done' order by r.step limit 1), m.number
			from control_run m join control c on c.id = m.control where m.moment is not null and not m.told and exists
			(select 1 from run r where r.control_run = m.number and (r.state in ('failed', 'stopped')
				or m.asked_at <= ? and (r.state = 'running' or r.state = 'waiting' and r.opens_at is null)))
		limit ?`, db.Stamp(by), limit)
	return db.Collect(rows, err, func(r *sql.Rows) (m model.MissedMoment, err error) {
		var at sql.NullString
		err = r.Scan(&m.Control, &m.Title, &m.Owner, &at, &m.Reason, &m.Run)
		m.Moment = db.Unstamp(at)
		return m, err
	})
}

// ToldMissed notes that people were told of a moment.
func (s Keeping) ToldMissed(ctx context.Context, m model.MissedMoment) error {
	text, args := `update due_note set told = 1 where control = ? and moment = ?`, []any{m.Control, db.Stamp(m.Moment)}
	if m.Run > 0 {
		text, args = `update control_run set told = 1 where number = ?`, []any{m.Run}
	}
	_, err := s.Write.ExecContext(ctx, text, args...)
	return db.Explain(err)
}
