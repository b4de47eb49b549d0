// Package files keeps the files that people bring for tables of sources, each version.
package files

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"github.com/klauspost/compress/zstd"

	"mantilla/model"
	"mantilla/store/db"
)

// Files are what people brought.
type Files struct{ *db.DB }

const columns = `number, source, tbl, name, bytes, digest, rows, left_out, faults, person, at, in_use`

func scan(row interface{ Scan(...any) error }) (v model.FileVersion, err error) {
	var at sql.NullString
	var faults string
	err = row.Scan(&v.Number, &v.Source, &v.Table, &v.Name, &v.Bytes, &v.Digest, &v.Rows, &v.LeftOut, &faults, &v.Person,
		&at, &v.InUse)
	v.At, v.Faults = db.Unstamp(at), json.RawMessage(faults)
	return v, db.Explain(err)
}

// Versions returns the files of a source, the newest first.
func (s Files) Versions(ctx context.Context, source string) ([]model.FileVersion, error) {
	rows, err := s.Read.QueryContext(ctx, `select `+columns+` from file_version where source = ? order by number desc`,
		source)
	return db.Collect(rows, err, func(r *sql.Rows) (model.FileVersion, error) { return scan(r) })
}

// Version returns a file with what is in it.
func (s Files) Version(ctx context.Context, source, table string, number int64) (v model.FileVersion, data []byte,
	err error) {
	v, err = scan(s.Read.QueryRowContext(ctx, `select `+columns+` from file_version
		where source = ? and tbl = ? and number = ?`, source, table, number))
	if err != nil {
		return v, nil, err
	}
	var packed []byte
	if err := s.Read.QueryRowContext(ctx, `select packed from file_version where number = ?`,
		number).Scan(&packed); err != nil {
		return v, nil, db.Explain(err)
	}
	data, err = unpack(packed)
	return v, data, err
}

// InUse returns what the tables of a source have now, by table.
func (s Files) InUse(ctx context.Context, source string) (map[string][]byte, error) {
	rows, err := s.Read.QueryContext(ctx, `select tbl, packed from file_version where source = ? and in_use`, source)
	out := map[string][]byte{}
	_, err = db.Collect(rows, err, func(r *sql.Rows) (struct{}, error) {
		var table string
		var packed []byte
		err := r.Scan(&table, &packed)
		if err == nil {
			out[table], err = unpack(packed)
		}
		return struct{}{}, err
	})
	return out, err
}

// Add keeps a file as that of its table, once ready has made the table of it: ready is called
// within the transaction, and its error undoes all.
func (s Files) Add(ctx context.Context, v model.FileVersion, data []byte, ready func() error) (int64, error) {
	packed, err := pack(data)
	if err != nil {
		return 0, err
	}
	err = s.Change(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `update file_version set in_use = 0 where source = ? and tbl = ? and in_use`,
			v.Source, v.Table); err != nil {
			return db.Explain(err)
		}
		err := tx.QueryRowContext(ctx, `insert into file_version (source, tbl, name, bytes, digest, packed, rows, left_out,
			faults, person, at, in_use) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 1) returning number`, v.Source, v.Table, v.Name,
			v.Bytes, v.Digest, packed, v.Rows, v.LeftOut, string(v.Faults), v.Person, db.Stamp(v.At)).Scan(&v.Number)
		if err != nil {
			return db.Explain(err)
		}
		return ready()
	})
	return v.Number, err
}

// Use makes an earlier file that of its table again, once ready has made the table of it.
func (s Files) Use(ctx context.Context, v model.FileVersion, ready func() error) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `update file_version set in_use = 0 where source = ? and tbl = ? and in_use`,
			v.Source, v.Table); err != nil {
			return db.Explain(err)
		}
		done, err := tx.ExecContext(ctx, `update file_version set in_use = 1 where number = ?`, v.Number)
		if err := db.OnlyIf(done, db.Explain(err), model.ErrNotFound); err != nil {
			return err
		}
		return ready()
	})
}

func pack(data []byte) ([]byte, error) {
	w, err := zstd.NewWriter(nil)
	if err != nil {
		return nil, err
	}
	packed := w.EncodeAll(data, nil)
	return packed, w.Close()
}

func unpack(packed []byte) ([]byte, error) {
	r, err := zstd.NewReader(nil)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	data, err := r.DecodeAll(packed, nil)
	if err != nil {
		return nil, fmt.Errorf("unpacking a file that was brought: %w", err)
	}
	return data, nil
}
