package files

import (
	"context"
	"database/sql"
	"errors"

	"mantilla/model"
	"mantilla/store/db"
)

const lookColumns = `select source, tbl, at, state, digest, fault from file_look`

func scanLook(row interface{ Scan(...any) error }) (l model.FileLook, err error) {
	var at sql.NullString
	err = row.Scan(&l.Source, &l.Table, &at, &l.State, &l.Digest, &l.Fault)
	l.At = db.Unstamp(at)
	return l, db.Explain(err)
}

// Looked returns what became of the last look for a file of a table; one at no time where
// nobody looked yet.
func (s Files) Looked(ctx context.Context, source, table string) (model.FileLook, error) {
	l, err := scanLook(s.Read.QueryRowContext(ctx, lookColumns+` where source = ? and tbl = ?`, source, table))
	if errors.Is(err, model.ErrNotFound) {
		return model.FileLook{Source: source, Table: table}, nil
	}
	return l, err
}

// PutLook keeps what became of a look.
func (s Files) PutLook(ctx context.Context, l model.FileLook) error {
	_, err := s.Write.ExecContext(ctx, `insert or replace into file_look (source, tbl, at, state, digest, fault)
		values (?, ?, ?, ?, ?, ?)`, l.Source, l.Table, db.Stamp(l.At), l.State, l.Digest, l.Fault)
	return db.Explain(err)
}
