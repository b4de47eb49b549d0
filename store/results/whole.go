package results

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"mantilla/core/frame"
	"mantilla/model"
	"mantilla/store/cache"
	"mantilla/store/db"
)

// whole is a batch of the earlier forms, which is kept and read as one.
type whole []*frame.Column

// Bytes returns about how much memory its columns take.
func (w whole) Bytes() (n int) {
	for _, c := range w {
		n += c.Bytes()
	}
	return n
}

// wholeFrame returns the rows of a result of an earlier form.
func (s Results) wholeFrame(r model.Result, k model.Kept, schema frame.Schema) *frame.Frame {
	lengths := make([]int, k.Batches)
	for i := range lengths {
		lengths[i] = int(min(k.Rows-int64(i)*frame.BatchRows, frame.BatchRows))
	}
	return frame.Lazy(schema, lengths, func(ctx context.Context, place, col int) (*frame.Column, error) {
		b, err := s.DB.Cache.Get(fmt.Sprintf("%d/rows/%s/%d", r.Number, k.Dataset, place),
			func() (cache.Sized, error) { return s.whole(context.WithoutCancel(ctx), r, k, place, schema) })
		if err != nil {
			return nil, err
		}
		return b.(whole)[col], nil
	}, nil)
}

// whole reads one batch, which must be the one that was sealed.
func (s Results) whole(ctx context.Context, r model.Result, k model.Kept, place int, schema frame.Schema) (whole,
	error) {
	var blob []byte
	var digest string
	err := s.Read.QueryRowContext(ctx, `select data, digest from batch where run = ? and dataset = ? and place = ?`, r.Run,
		k.Dataset, place).Scan(&blob, &digest)
	if err != nil {
		return nil, fmt.Errorf("reading batch %d of %s: %w", place, k.Dataset, db.Explain(err))
	}
	if place < len(k.Digests) {
		digest = k.Digests[place]
	}
	if sum := sha256.Sum256(blob); hex.EncodeToString(sum[:]) != digest {
		return nil, fmt.Errorf("batch %d of %s of the result R-%06d %w", place, k.Dataset, r.Number, model.ErrBroken)
	}
	record, err := unpack(blob)
	if err != nil {
		return nil, fmt.Errorf("batch %d of %s: %w", place, k.Dataset, err)
	}
	if int(record.NumCols()) != len(schema) {
		return nil, fmt.Errorf("batch %d of %s has %d columns, the schema %d", place, k.Dataset, record.NumCols(),
			len(schema))
	}
	out := make(whole, len(schema))
	for i, field := range schema {
		if out[i], err = frame.Decode(record.Column(i), nil); err != nil {
			return nil, fmt.Errorf("batch %d of %s, column %s: %w", place, k.Dataset, field.Name, err)
		}
	}
	return out, nil
}
