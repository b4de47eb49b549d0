// Package moving takes what came from another service into the records, all or nothing.
package moving

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"time"

	"mantilla/model"
	"mantilla/store/catalog"
	"mantilla/store/db"
	"mantilla/store/meaning"
	"mantilla/store/shelf"
)

// Moving takes in what travels in bundles, and finds what is to travel.
type Moving struct{ *db.DB }

// Load is what is taken in at once.
type Load struct {
	Shared   string // the file of shared parameters; "" where it stays
	Reports  []model.Report
	Openings map[string][]model.Opening // by report; added to those there are
	Criteria []model.Criteria
	Views    []model.View
	Controls []model.Control // they wait until somebody lets them run
	Terms    []model.Term

	Resources []Resource
}

// Resource is a document or link; Data is a version of a document that is added to it.
type Resource struct {
	model.Resource
	New  bool
	Data []byte
}

// DigestOf is the SHA-256 of a file, in hex.
func DigestOf(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// Take takes a load in.
func (s Moving) Take(ctx context.Context, l Load, at time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		if l.Shared != "" {
			if _, err := tx.ExecContext(ctx, `insert into shared (text, at) values (?, ?)`, l.Shared, db.Stamp(at)); err != nil {
				return err
			}
		}
		for _, r := range l.Reports {
			if err := catalog.PutVersion(ctx, tx, r, at); err != nil {
				return err
			}
		}
		for report, to := range l.Openings {
			for _, o := range to {
				if _, err := tx.ExecContext(ctx, `insert into opening (report, kind, name) values (?, ?, ?) on conflict do nothing`,
					report, o.Kind, o.Name); err != nil {
					return err
				}
			}
		}
		for _, t := range l.Terms {
			if err := meaning.PutTerm(ctx, tx, t); err != nil {
				return err
			}
		}
		if err := l.shelve(ctx, tx); err != nil {
			return err
		}
		return l.kept(ctx, tx, at)
	})
}

// shelve takes in documents and links.
func (l *Load) shelve(ctx context.Context, tx *sql.Tx) error {
	for _, r := range l.Resources {
		if r.New {
			if _, err := tx.ExecContext(ctx, `insert into resource (id, title, about, category, report, address)
				values (?, ?, ?, ?, ?, ?)`, r.ID, r.Title, r.About, r.Category, r.Report, r.Address); err != nil {
				return db.Taken(err)
			}
		}
		if len(r.Data) > 0 {
			if _, err := shelf.AddVersion(ctx, tx, r.ID, r.Latest, r.Data); err != nil {
				return err
			}
		}
	}
	return nil
}

// kept takes in what people keep of reports.
func (l *Load) kept(ctx context.Context, tx *sql.Tx, at time.Time) error {
	for _, c := range l.Criteria {
		typed, err := json.Marshal(c.Typed)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `insert into criteria (report, name, owner, shared, typed, version, changed_at)
			values (?, ?, ?, ?, ?, ?, ?)`, c.Report, c.Name, c.Owner, c.Shared, string(typed), c.Version,
			db.Stamp(at)); err != nil {
			return db.Taken(err)
		}
	}
	for _, v := range l.Views {
		changes, err := json.Marshal(v.Changes)
		if err != nil {
			return err
		}
		seen, err := json.Marshal(append([]string{}, v.Seen...))
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `insert into kept_view
			(report, view, name, owner, everyone, changes, seen, changed_at) values (?, ?, ?, ?, 1, ?, ?, ?)`,
			v.Report, v.Base, v.Name, v.Owner, string(changes), string(seen), db.Stamp(at))
		if err != nil {
			return db.Taken(err)
		}
	}
	for _, c := range l.Controls {
		if _, err := tx.ExecContext(ctx, `insert into control (id, title, owner, shared, body, changed_at, paused)
			values (?, ?, ?, ?, ?, ?, 1)`, c.ID, c.Title, c.Owner, c.Shared, string(c.Body), db.Stamp(at)); err != nil {
			return db.Taken(err)
		}
	}
	return nil
}

// Controls returns all run controls.
func (s Moving) Controls(ctx context.Context) ([]model.Control, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select id, title, owner, shared, body from control where deleted_at is null order by id`)
	return db.Collect(rows, err, func(r *sql.Rows) (c model.Control, err error) {
		var body string
		err = r.Scan(&c.ID, &c.Title, &c.Owner, &c.Shared, &body)
		c.Body = json.RawMessage(body)
		return c, err
	})
}
