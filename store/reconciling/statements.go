// Package reconciling keeps the statements that results are reconciled with.
package reconciling

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

// Statements is the records of statements.
type Statements struct{ *db.DB }

const columns = `select number, report, declared, name, digest, lines, first, until, total, read_at, read_by
	from statement `

func scan(r *sql.Rows) (s model.Statement, err error) {
	var at sql.NullString
	err = r.Scan(&s.Number, &s.Report, &s.Declared, &s.Name, &s.Digest, &s.Lines, &s.First, &s.Until, &s.Total, &at, &s.By)
	s.At = db.Unstamp(at)
	return s, err
}

// AddStatement keeps a file and returns its number.
func (s Statements) AddStatement(ctx context.Context, x model.Statement, data []byte) (int64, error) {
	done, err := s.Write.ExecContext(ctx,
		`insert into statement (report, declared, name, digest, lines, first, until, total,
		read_at, read_by, data) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, x.Report, x.Declared, x.Name, x.Digest, x.Lines,
		x.First, x.Until, x.Total, db.Stamp(x.At), x.By, data)
	if err != nil {
		return 0, db.Explain(err)
	}
	return done.LastInsertId()
}

// Statements returns those of a report, the newest first.
func (s Statements) Statements(ctx context.Context, report string) ([]model.Statement, error) {
	rows, err := s.Read.QueryContext(ctx, columns+`where report = ? order by number desc`, report)
	return db.Collect(rows, err, scan)
}

// Statement returns one with its file; [model.ErrNotFound] where there is none.
func (s Statements) Statement(ctx context.Context, number int64) (x model.Statement, data []byte, err error) {
	rows, err := s.Read.QueryContext(ctx, columns+`where number = ?`, number)
	found, err := db.Collect(rows, err, scan)
	if err != nil {
		return x, nil, err
	}
	if len(found) == 0 {
		return x, nil, model.ErrNotFound
	}
	err = s.Read.QueryRowContext(ctx, `select data from statement where number = ?`, number).Scan(&data)
	return found[0], data, db.Explain(err)
}

// DeleteStatement deletes one; results that were made with it have its lines.
func (s Statements) DeleteStatement(ctx context.Context, number int64) error {
	done, err := s.Write.ExecContext(ctx, `delete from statement where number = ?`, number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
