package results

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"

	"mantilla/core/frame"
	"mantilla/model"
	"mantilla/seal"
	"mantilla/store/cache"
	"mantilla/store/db"
)

// longest is how long a text may be that is kept among what is known.
const longest = 200

// PackColumns encodes the columns of a record each for itself, and what is known of
// them.
func PackColumns(record arrow.RecordBatch) (cells [][]byte, known []byte, err error) {
	a := seal.Batch{Rows: int(record.NumRows())}
	for i, field := range record.Schema().Fields() {
		one := array.NewRecordBatch(arrow.NewSchema([]arrow.Field{field}, nil), []arrow.Array{record.Column(i)},
			record.NumRows())
		blob, err := pack(one)
		if err != nil {
			return nil, nil, fmt.Errorf("column %s: %w", field.Name, err)
		}
		column, err := frame.Decode(record.Column(i), nil)
		if err != nil {
			return nil, nil, fmt.Errorf("column %s: %w", field.Name, err)
		}
		of := seal.Column{Digest: seal.Fingerprint(blob)}
		if stats := column.Stats; len(stats.First) <= longest && len(stats.Last) <= longest {
			of.Stats = &stats
		}
		cells, a.Columns = append(cells, blob), append(a.Columns, of)
	}
	known, err = json.Marshal(a)
	return cells, known, err
}

// Frame returns the kept rows of a dataset. Columns are read and decoded batch by
// batch when they are needed, and kept in memory within the store's budget.
func (s Results) Frame(ctx context.Context, r model.Result, dataset string, schema frame.Schema) (*frame.Frame, error) {
	for _, k := range r.Manifest.Datasets {
		switch {
		case k.Dataset != dataset:
		case r.Manifest.Form < seal.ColumnForm:
			return s.wholeFrame(r, k, schema), nil
		default:
			return s.columnFrame(ctx, r, k, schema)
		}
	}
	return nil, fmt.Errorf("result %d has no dataset %s: %w", r.Number, dataset, model.ErrNotFound)
}

// abouts are what is known of all batches of a dataset.
type abouts []seal.Batch

// Bytes returns about how much memory they take.
func (a abouts) Bytes() (n int) {
	for _, of := range a {
		n += 200 * len(of.Columns)
	}
	return n
}

func (s Results) columnFrame(ctx context.Context, r model.Result, k model.Kept, schema frame.Schema) (*frame.Frame,
	error) {
	kept, err := s.DB.Cache.Get(fmt.Sprintf("%d/about/%s", r.Number, k.Dataset),
		func() (cache.Sized, error) { return s.abouts(ctx, r, k, len(schema)) })
	if err != nil {
		return nil, err
	}
	known := kept.(abouts)
	lengths := make([]int, len(known))
	for i, of := range known {
		lengths[i] = of.Rows
	}
	load := func(ctx context.Context, place, col int) (*frame.Column, error) {
		c, err := s.DB.Cache.Get(fmt.Sprintf("%d/rows/%s/%d/%d", r.Number, k.Dataset, place, col),
			func() (cache.Sized, error) {
				return s.column(context.WithoutCancel(ctx), r, k.Dataset, place, col, known[place].Columns[col])
			})
		if err != nil {
			return nil, err
		}
		return c.(*frame.Column), nil
	}
	stats := func(place, col int) (frame.Stats, bool) {
		if of := known[place].Columns[col].Stats; of != nil {
			return *of, true
		}
		return frame.Stats{}, false
	}
	return frame.Lazy(schema, lengths, load, stats), nil
}

// abouts reads what is known of the batches of a dataset, which must be what was
// sealed.
func (s Results) abouts(ctx context.Context, r model.Result, k model.Kept, columns int) (abouts, error) {
	broken := fmt.Errorf("the dataset %s of the result R-%06d %w", k.Dataset, r.Number, model.ErrBroken)
	rows, err := s.Read.QueryContext(ctx, `select place, data from batch where run = ? and dataset = ? order by place`,
		r.Run, k.Dataset)
	known, err := db.Collect(rows, err, func(rows *sql.Rows) (a seal.Batch, err error) {
		var place int
		var text []byte
		if err := rows.Scan(&place, &text); err != nil {
			return a, err
		}
		if place >= len(k.Digests) || seal.DigestOf(text) != k.Digests[place] {
			return a, broken
		}
		if err := json.Unmarshal(text, &a); err != nil || len(a.Columns) != columns {
			return a, broken
		}
		return a, nil
	})
	if err == nil && len(known) != k.Batches {
		err = broken
	}
	return known, err
}

// column reads a column of a batch, which must be the one that was sealed.
func (s Results) column(ctx context.Context, r model.Result, dataset string, place, col int, known seal.Column) (
	*frame.Column, error) {
	var blob []byte
	err := s.Read.QueryRowContext(ctx, `select data from cells where run = ? and dataset = ? and place = ? and col = ?`,
		r.Run, dataset, place, col).Scan(&blob)
	if err != nil {
		return nil, fmt.Errorf("reading column %d of batch %d of %s: %w", col, place, dataset, db.Explain(err))
	}
	if seal.Fingerprint(blob) != known.Digest {
		return nil, fmt.Errorf("column %d of batch %d of %s of the result R-%06d %w", col, place, dataset, r.Number,
			model.ErrBroken)
	}
	record, err := unpack(blob)
	if err != nil {
		return nil, fmt.Errorf("column %d of batch %d of %s: %w", col, place, dataset, err)
	}
	return frame.Decode(record.Column(0), known.Stats)
}

// checkCells reads the columns of a batch again; it fails with [model.ErrBroken] when
// one is not what is known of it.
func (s Results) checkCells(ctx context.Context, r model.Result, dataset string, place int, text []byte) error {
	var a seal.Batch
	if json.Unmarshal(text, &a) != nil {
		return model.ErrBroken
	}
	rows, err := s.Read.QueryContext(ctx, `select col, data from cells where run = ? and dataset = ? and place = ?
		order by col`, r.Run, dataset, place)
	cells, err := db.Collect(rows, err, func(rows *sql.Rows) (col int, err error) {
		var blob []byte
		if err := rows.Scan(&col, &blob); err != nil {
			return col, err
		}
		if col >= len(a.Columns) || seal.Fingerprint(blob) != a.Columns[col].Digest {
			return col, model.ErrBroken
		}
		return col, nil
	})
	if err == nil && len(cells) != len(a.Columns) {
		err = model.ErrBroken
	}
	return err
}
