// Package entering keeps what people typed in beside rows.
package entering

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Entries is the records of what people typed in.
type Entries struct{ *db.DB }

const columns = `select number, col, key, value, person, at, says, way, change, undoes from entry e `

func scan(r *sql.Rows) (e model.Entry, err error) {
	var at sql.NullString
	err = r.Scan(&e.Number, &e.Column, &e.Key, &e.Value, &e.Person, &at, &e.Says, &e.Way, &e.Change, &e.Undoes)
	e.At = db.Unstamp(at)
	return e, err
}

// Entries are the last of each cell of a dataset, of those that were made before a moment; of all
// where it is zero. They come in the order of their numbers.
func (s Entries) Entries(ctx context.Context, report, dataset string, before time.Time) ([]model.Entry, error) {
	until := "9999"
	if !before.IsZero() {
		until = db.Stamp(before)
	}
	rows, err := s.Read.QueryContext(ctx, columns+`where number in (select max(number) from entry
		where report = ? and dataset = ? and at < ? group by col, key) order by number`, report, dataset, until)
	return db.Collect(rows, err, scan)
}

// Cell is everything that was ever typed into a cell, the newest first.
func (s Entries) Cell(ctx context.Context, report, dataset, column, key string) ([]model.Entry, error) {
	rows, err := s.Read.QueryContext(ctx, columns+`where report = ? and dataset = ? and col = ? and key = ?
		order by number desc`, report, dataset, column, key)
	return db.Collect(rows, err, scan)
}

// PutEntries fills in cells, all or none, and returns the entries as they are kept. It fails with a
// [*model.EntryConflict] where the last entry of a cell is not the one that was seen.
func (s Entries) PutEntries(ctx context.Context, report, dataset string, cells []model.EntryCell, of model.Entry) (
	kept []model.Entry, err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		for _, c := range cells {
			last, err := last(ctx, tx, report, dataset, c)
			if err != nil {
				return err
			}
			seen := int64(0)
			if len(last) > 0 {
				seen = last[0].Number
			}
			if seen != c.Seen {
				if len(last) == 0 {
					return model.ErrStale
				}
				return &model.EntryConflict{Entry: last[0]}
			}
			e := of
			e.Column, e.Key, e.Value = c.Column, c.Key, c.Value
			if len(kept) > 0 {
				e.Change = kept[0].Number
			}
			done, err := tx.ExecContext(ctx,
				`insert into entry (report, dataset, col, key, value, person, at, says, way, change, undoes)
				values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, report, dataset, e.Column, e.Key, e.Value, e.Person, db.Stamp(e.At),
				e.Says, e.Way, e.Change, e.Undoes)
			if err != nil {
				return err
			}
			if e.Number, err = done.LastInsertId(); err != nil {
				return err
			}
			if e.Change == 0 {
				e.Change = e.Number
				if _, err := tx.ExecContext(ctx, `update entry set change = ? where number = ?`, e.Number, e.Number); err != nil {
					return err
				}
			}
			kept = append(kept, e)
		}
		return nil
	})
	var conflict *model.EntryConflict
	if errors.As(err, &conflict) || errors.Is(err, model.ErrStale) {
		return nil, err
	}
	return kept, db.Explain(err)
}

// last is what stands in a cell, or nothing.
func last(ctx context.Context, tx *sql.Tx, report, dataset string, c model.EntryCell) ([]model.Entry, error) {
	rows, err := tx.QueryContext(ctx, columns+`where report = ? and dataset = ? and col = ? and key = ?
		order by number desc limit 1`, report, dataset, c.Column, c.Key)
	return db.Collect(rows, err, scan)
}

// LastChange is what a person changed last in a dataset and did not undo.
func (s Entries) LastChange(ctx context.Context, report, dataset, person string) ([]model.Entry, error) {
	rows, err := s.Read.QueryContext(ctx, columns+`where change = (select max(change) from entry where report = ?1
		and dataset = ?2 and person = ?3 and undoes = 0 and change not in (select undoes from entry
		where report = ?1 and dataset = ?2)) order by number`, report, dataset, person)
	return db.Collect(rows, err, scan)
}
