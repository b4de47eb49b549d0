package results

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
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

// Packed is a record as it is kept.
type Packed struct {
	Cells [][]byte // each column by itself
	Known []byte   // what is known of them
	text  []byte
}

// Digest is what is sealed of the batch: the SHA-256 of what is known of its columns.
func (p Packed) Digest() [sha256.Size]byte { return sha256.Sum256(p.text) }

// PackColumns encodes the columns of a record each for itself, and what is known of
// them.
func PackColumns(record arrow.RecordBatch) (p Packed, err error) {
	a := seal.Batch{Rows: int(record.NumRows())}
	for i, field := range record.Schema().Fields() {
		one := array.NewRecordBatch(arrow.NewSchema([]arrow.Field{field}, nil), []arrow.Array{record.Column(i)},
			record.NumRows())
		stream, err := streamOf(one)
		if err != nil {
			return p, fmt.Errorf("column %s: %w", field.Name, err)
		}
		column, err := frame.Decode(record.Column(i), nil)
		if err != nil {
			return p, fmt.Errorf("column %s: %w", field.Name, err)
		}
		of := seal.Column{Digest: seal.Fingerprint(stream)}
		if stats := column.Stats; len(stats.First) <= longest && len(stats.Last) <= longest {
			of.Stats = &stats
		}
		p.Cells, a.Columns = append(p.Cells, squeeze(stream)), append(a.Columns, of)
	}
	if p.text, err = json.Marshal(a); err == nil {
		p.Known = squeeze(p.text)
	}
	return p, err
}

// knownText is what is known of a batch, as it was sealed.
func knownText(r model.Result, kept []byte) ([]byte, error) {
	if r.Manifest.Form < seal.StreamForm {
		return kept, nil
	}
	text, err := unsqueeze(kept)
	if err != nil {
		err = fmt.Errorf("what is known of a batch of the result R-%06d %w", r.Number, model.ErrBroken)
	}
	return text, err
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
		if text, err = knownText(r, text); err != nil {
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

// cell is a column of a batch of a run.
type cell struct {
	run        int64
	dataset    string
	place, col int
}

// column reads a column of a batch, which must be the one that was sealed.
func (s Results) column(ctx context.Context, r model.Result, dataset string, place, col int, known seal.Column) (
	*frame.Column, error) {
	stream, err := s.sealed(ctx, r, cell{r.Run, dataset, place, col}, known.Digest)
	if err != nil {
		return nil, err
	}
	record, err := recordOf(stream)
	if err != nil {
		return nil, fmt.Errorf("column %d of batch %d of %s: %w", col, place, dataset, err)
	}
	return frame.Decode(record.Column(0), known.Stats)
}

// sealed reads the stream of a column, which must be the one that was sealed.
func (s Results) sealed(ctx context.Context, r model.Result, c cell, digest string) ([]byte, error) {
	broken := fmt.Errorf("column %d of batch %d of %s of the result R-%06d %w", c.col, c.place, c.dataset, r.Number,
		model.ErrBroken)
	if r.Manifest.Form >= seal.StreamForm {
		stream, err := s.stream(ctx, c)
		if err == nil && seal.Fingerprint(stream) != digest {
			err = broken
		}
		return stream, err
	}
	blob, _, err := s.kept(ctx, c)
	if err != nil {
		return nil, err
	}
	if seal.Fingerprint(blob) != digest {
		return nil, broken
	}
	return unsqueeze(blob)
}

// kept reads a column as it lies there, and the run over whose column it is compressed; 0 for none.
func (s Results) kept(ctx context.Context, c cell) (blob []byte, base int64, err error) {
	err = s.Read.QueryRowContext(ctx,
		`select data, coalesce(base, 0) from cells where run = ? and dataset = ? and place = ?
		and col = ?`, c.run, c.dataset, c.place, c.col).Scan(&blob, &base)
	if err != nil {
		err = fmt.Errorf("reading column %d of batch %d of %s: %w", c.col, c.place, c.dataset, db.Explain(err))
	}
	return blob, base, err
}

// bytesOf are bytes in the cache.
type bytesOf []byte

// Bytes returns how many there are.
func (b bytesOf) Bytes() int { return len(b) }

// stream reads the stream of a column. What it is compressed over is read first, and kept in
// memory for the next that is compressed over the same, as captures follow each other.
func (s Results) stream(ctx context.Context, c cell) ([]byte, error) {
	blob, base, err := s.kept(ctx, c)
	if err != nil {
		return nil, err
	}
	if base == 0 {
		return unsqueeze(blob)
	}
	below := c
	below.run = base
	over, err := s.DB.Cache.Get(fmt.Sprintf("stream/%d/%s/%d/%d", below.run, below.dataset, below.place, below.col),
		func() (cache.Sized, error) {
			stream, err := s.stream(ctx, below)
			return bytesOf(stream), err
		})
	if err != nil {
		return nil, err
	}
	return unsqueezeOver(blob, over.(bytesOf))
}

// checkCells reads the columns of a batch again; it fails with [model.ErrBroken] when
// one is not what is known of it.
func (s Results) checkCells(ctx context.Context, r model.Result, dataset string, place int, text []byte) error {
	var a seal.Batch
	if json.Unmarshal(text, &a) != nil {
		return model.ErrBroken
	}
	for col, of := range a.Columns {
		_, err := s.sealed(ctx, r, cell{r.Run, dataset, place, col}, of.Digest)
		if errors.Is(err, model.ErrNotFound) {
			err = model.ErrBroken
		}
		if err != nil {
			return err
		}
	}
	var columns int
	err := s.Read.QueryRowContext(ctx, `select count(*) from cells where run = ? and dataset = ? and place = ?`, r.Run,
		dataset, place).Scan(&columns)
	if err == nil && columns != len(a.Columns) {
		err = model.ErrBroken
	}
	return err
}
