// Package shelf keeps documents and links.
package shelf

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

// Shelf is the records of documents and links.
type Shelf struct{ *db.DB }

const columns = `select r.id, r.title, r.about, r.category, r.report, r.address, r.revision, coalesce(v.number, 0),
	coalesce(v.name, ''), coalesce(v.type, ''), coalesce(v.bytes, 0), coalesce(v.sha256, ''), v.at, coalesce(v.by, ''),
	coalesce(v.note, '') from resource r left join resource_version v on v.resource = r.id and v.number =
	(select max(number) from resource_version where resource = r.id)`

func scan(row interface{ Scan(...any) error }) (r model.Resource, err error) {
	var at sql.NullString
	l := &r.Latest
	err = row.Scan(&r.ID, &r.Title, &r.About, &r.Category, &r.Report, &r.Address, &r.Revision, &l.Number, &l.Name, &l.Type,
		&l.Bytes, &l.SHA256, &at, &l.By, &l.Note)
	l.At = db.Unstamp(at)
	return r, db.Explain(err)
}

// Resources returns all documents and links, each document with its latest version.
func (s Shelf) Resources(ctx context.Context) ([]model.Resource, error) {
	rows, err := s.Read.QueryContext(ctx, columns+` order by r.category, r.title, r.id`)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Resource, error) { return scan(r) })
}

// PutResource keeps what is said of a document or link. Its revision is that which the writer
// saw, 0 for a new one; it fails with [model.ErrStale] when another is kept.
func (s Shelf) PutResource(ctx context.Context, r model.Resource) error {
	if r.Revision == 0 {
		_, err := s.Write.ExecContext(ctx, `insert into resource (id, title, about, category, report, address)
			values (?, ?, ?, ?, ?, ?)`, r.ID, r.Title, r.About, r.Category, r.Report, r.Address)
		return db.Taken(err)
	}
	done, err := s.Write.ExecContext(ctx, `update resource set title = ?, about = ?, category = ?, report = ?, address = ?,
		revision = revision + 1 where id = ? and revision = ?`, r.Title, r.About, r.Category, r.Report, r.Address, r.ID,
		r.Revision)
	return db.OnlyIf(done, db.Explain(err), model.ErrStale)
}

// AddVersion keeps a version of a document after those there are, and returns its number.
func (s Shelf) AddVersion(ctx context.Context, resource string, v model.ResourceVersion, data []byte) (number int,
	err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		number, err = AddVersion(ctx, tx, resource, v, data)
		return err
	})
	return number, err
}

// AddVersion keeps a version of a document within a change.
func AddVersion(ctx context.Context, tx *sql.Tx, resource string, v model.ResourceVersion, data []byte) (number int,
	err error) {
	err = tx.QueryRowContext(ctx, `insert into resource_version
		(resource, number, name, type, bytes, sha256, data, at, by, note)
		select ?1, coalesce(max(number), 0) + 1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9 from resource_version where resource = ?1
		returning number`, resource, v.Name, v.Type, len(data), v.SHA256, data, db.Stamp(v.At), v.By,
		v.Note).Scan(&number)
	return number, db.Explain(err)
}

// Versions returns the versions of a document, the newest first.
func (s Shelf) Versions(ctx context.Context, resource string) ([]model.ResourceVersion, error) {
	rows, err := s.Read.QueryContext(ctx, `select number, name, type, bytes, sha256, at, by, note from resource_version
		where resource = ? order by number desc`, resource)
	return db.Collect(rows, err, func(r *sql.Rows) (v model.ResourceVersion, err error) {
		var at sql.NullString
		err = r.Scan(&v.Number, &v.Name, &v.Type, &v.Bytes, &v.SHA256, &at, &v.By, &v.Note)
		v.At = db.Unstamp(at)
		return v, err
	})
}

// Data returns the bytes of a version.
func (s Shelf) Data(ctx context.Context, resource string, number int) (data []byte, err error) {
	err = s.Read.QueryRowContext(ctx, `select data from resource_version where resource = ? and number = ?`, resource,
		number).Scan(&data)
	return data, db.Explain(err)
}

// ForgetResource forgets a document that has no version.
func (s Shelf) ForgetResource(ctx context.Context, id string) error {
	return s.All(ctx, id, `delete from resource where id = ?`, `delete from opening where report = 'shelf/' || ?`)
}

// DeleteResource deletes a document or link with all its versions, and to whom it was open, so that it can
// be put back.
func (s Shelf) DeleteResource(ctx context.Context, t model.Thrown) error {
	return s.Throw(ctx, t,
		db.Part{Table: "resource", Where: "id = ?1", How: db.Removed},
		db.Part{Table: "resource_version", Where: "resource = ?1", How: db.Aside, Column: "resource"},
		db.Part{Table: "opening", Where: "report = 'shelf/' || ?1", How: db.Removed})
}
