package backup

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	book "mantilla/core/audit"
	"mantilla/model"
	"mantilla/store/audit"
	"mantilla/store/db"
	"mantilla/store/results"
)

// Verified is what was looked at of records, and what is wrong with them.
type Verified struct {
	Results int64    `json:"results"`
	Rows    int64    `json:"rows"`
	Lines   int64    `json:"lines"`  // of the audit, that are whole
	Faults  []string `json:"faults"` // each names the result, or the table
}

// mostFaults is how many are told.
const mostFaults = 200

func (v *Verified) fault(text string, args ...any) {
	if len(v.Faults) < mostFaults {
		v.Faults = append(v.Faults, fmt.Sprintf(text, args...))
	}
}

// Verify reads all records: whether the file is sound, whether everything that is spoken of is
// there, and of each result whether its rows are those that were sealed. Done is told how many
// results were looked at.
func (s Backup) Verify(ctx context.Context, done func(results int64)) (v Verified, err error) {
	if err := s.sound(ctx, &v); err != nil {
		return v, err
	}
	if err := s.audited(ctx, &v); err != nil {
		return v, err
	}
	of := results.Results(s)
	for before := int64(0); ; {
		wish := model.ResultWish{Sees: model.Sight{All: true}, Before: before, Limit: 100}
		list, err := of.Results(ctx, wish)
		if err != nil {
			return v, err
		}
		for _, r := range list {
			before = r.Number
			if err := s.result(ctx, of, r.Number, &v); err != nil {
				return v, err
			}
			done(v.Results)
		}
		if len(list) == 0 {
			return v, nil
		}
	}
}

// audited looks whether the book of who did what is whole.
func (s Backup) audited(ctx context.Context, v *Verified) error {
	c, err := audit.Whole(ctx, s.Read)
	v.Lines = c.Lines
	var broken *book.Broken
	if errors.As(err, &broken) {
		v.fault("%v", broken)
		return nil
	}
	return err
}

func (s Backup) result(ctx context.Context, of results.Results, number int64, v *Verified) error {
	v.Results++
	r, err := of.Result(ctx, number)
	if err == nil {
		v.Rows += r.Rows
		var good bool
		if good, err = of.CheckSeal(ctx, r); err == nil && !good {
			err = s.damaged(ctx, of, r, v)
		}
	}
	if errors.Is(err, model.ErrBroken) {
		v.fault("R-%06d: %v", number, err)
		return nil
	}
	return err
}

// damaged tells what of a result is not as it was sealed.
func (s Backup) damaged(ctx context.Context, of results.Results, r model.Result, v *Verified) error {
	parts, err := of.Damaged(ctx, r)
	for _, part := range parts {
		v.fault("R-%06d (%s): %s: not what was sealed", r.Number, r.Title, part)
	}
	if len(parts) == 0 && err == nil {
		v.fault("R-%06d (%s): what is known of it is not what was sealed", r.Number, r.Title)
	}
	return err
}

// sound asks SQLite whether the file is, and whether every key leads somewhere.
func (s Backup) sound(ctx context.Context, v *Verified) error {
	rows, err := s.Read.QueryContext(ctx, `pragma integrity_check`)
	said, err := db.Collect(rows, err, func(row *sql.Rows) (text string, err error) {
		return text, row.Scan(&text)
	})
	if err != nil {
		return db.Explain(err)
	}
	for _, text := range said {
		if text != "ok" {
			v.fault("the file of the records: %s", text)
		}
	}
	rows, err = s.Read.QueryContext(ctx, `select "table", count(*), parent from pragma_foreign_key_check group by 1, 3`)
	lost, err := db.Collect(rows, err, func(row *sql.Rows) (text string, err error) {
		var table, parent string
		var n int
		err = row.Scan(&table, &n, &parent)
		return fmt.Sprintf("%d of the records %s speak of %s that are not there", n, table, parent), err
	})
	for _, text := range lost {
		v.fault("%s", text)
	}
	return db.Explain(err)
}
