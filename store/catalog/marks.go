package catalog

import (
	"context"
	"database/sql"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// PutMarks keeps the marks of a run.
func PutMarks(ctx context.Context, tx *sql.Tx, marks []model.Mark) error {
	for _, m := range marks {
		_, err := tx.ExecContext(ctx, `insert into mark (whose, report, parameter, others, at, run) values (?, ?, ?, ?, ?, ?)
			on conflict (whose, report, parameter, others) do update set at = excluded.at, run = excluded.run`,
			m.Whose, m.Report, m.Parameter, m.Others, db.Stamp(m.At), m.Run)
		if err != nil {
			return err
		}
	}
	return nil
}

// MarkAt returns until when somebody looked; [ErrNotFound] for never.
func (s Criteria) MarkAt(ctx context.Context, m model.Mark) (time.Time, error) {
	var at sql.NullString
	err := s.Read.QueryRowContext(ctx,
		`select at from mark where whose = ? and report = ? and parameter = ? and others = ?`, m.Whose, m.Report, m.Parameter,
		m.Others).Scan(&at)
	return db.Unstamp(at), db.Explain(err)
}

const markColumns = `select rowid, whose, report, parameter, others, at, run from mark`

func scanMark(row interface{ Scan(...any) error }) (m model.Mark, err error) {
	var at sql.NullString
	err = row.Scan(&m.Number, &m.Whose, &m.Report, &m.Parameter, &m.Others, &at, &m.Run)
	m.At = db.Unstamp(at)
	return m, db.Explain(err)
}

// Marks returns all marks of a report, the newest first.
func (s Criteria) Marks(ctx context.Context, report string) ([]model.Mark, error) {
	rows, err := s.Read.QueryContext(ctx, markColumns+` where report = ? order by at desc`, report)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Mark, error) { return scanMark(r) })
}

// MarkNumbered returns one mark.
func (s Criteria) MarkNumbered(ctx context.Context, number int64) (model.Mark, error) {
	return scanMark(s.Read.QueryRowContext(ctx, markColumns+` where rowid = ?`, number))
}

// SetMark moves a mark.
func (s Criteria) SetMark(ctx context.Context, number int64, at time.Time) error {
	done, err := s.Write.ExecContext(ctx, `update mark set at = ? where rowid = ?`, db.Stamp(at), number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

// DeleteMark forgets a mark, so that it can be put back.
func (s Criteria) DeleteMark(ctx context.Context, t model.Thrown) error {
	return s.Throw(ctx, t, db.Part{Table: "mark", Where: "rowid = cast(substr(?1, 3) as integer)", How: db.Removed})
}
