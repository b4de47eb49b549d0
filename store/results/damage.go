package results

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"mantilla/core/report"
	"mantilla/model"
	"mantilla/seal"
	"mantilla/store/db"
)

// Damage is a part of a result that is not what was sealed: a column of some rows, or all columns of
// them.
type Damage struct {
	Dataset string
	Column  string // "" for all
	First   int64  // row, from 1
	Last    int64
}

// String says it for people.
func (d Damage) String() string {
	if d.Column == "" {
		return fmt.Sprintf("rows %d to %d of %s", d.First, d.Last, d.Dataset)
	}
	return fmt.Sprintf("%s in rows %d to %d of %s", d.Column, d.First, d.Last, d.Dataset)
}

// Damaged finds which parts of a result are not what was sealed; none of results of the earliest
// forms, of which only the whole can be told.
func (s Results) Damaged(ctx context.Context, r model.Result) (out []Damage, err error) {
	for _, k := range r.Manifest.Datasets {
		if k.Stay != nil || r.Manifest.Form < seal.ColumnForm {
			continue
		}
		found, err := s.damagedIn(ctx, r, k)
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

func (s Results) damagedIn(ctx context.Context, r model.Result, k model.Kept) (out []Damage, err error) {
	names := columnNames(r, k.Dataset)
	rows, err := s.Read.QueryContext(ctx, `select place, data from batch where run = ? and dataset = ?`, r.Run, k.Dataset)
	batches := map[int][]byte{}
	_, err = db.Collect(rows, err, func(rows *sql.Rows) (n int, err error) {
		var blob []byte
		err = rows.Scan(&n, &blob)
		batches[n] = blob
		return n, err
	})
	if err != nil {
		return nil, err
	}
	next := int64(1)
	for place, digest := range k.Digests {
		part := Damage{Dataset: k.Dataset, First: next, Last: next}
		if place < len(k.Lengths) {
			part.Last = next + k.Lengths[place] - 1
		}
		next = part.Last + 1
		var known seal.Batch
		text, err := knownText(r, batches[place])
		if err != nil || seal.DigestOf(text) != digest || json.Unmarshal(text, &known) != nil {
			out = append(out, part)
			continue
		}
		for col, of := range known.Columns {
			if _, err := s.sealed(ctx, r, cell{r.Run, k.Dataset, place, col}, of.Digest); err != nil {
				if ctx.Err() != nil {
					return nil, context.Cause(ctx)
				}
				part.Column = fmt.Sprintf("column %d", col+1)
				if col < len(names) {
					part.Column = names[col]
				}
				out = append(out, part)
			}
		}
	}
	return out, nil
}

// columnNames are those of a dataset's kept columns; none where the definition cannot be read.
func columnNames(r model.Result, dataset string) (names []string) {
	d, err := report.FromSchema(r.Settled)
	if err != nil || d.Dataset(dataset) == nil {
		return nil
	}
	for _, field := range d.Dataset(dataset).Schema() {
		names = append(names, field.Name)
	}
	return names
}
