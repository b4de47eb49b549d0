package results

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"hash"

	"mantilla/model"
	"mantilla/seal"
	"mantilla/store/db"
)

// settledOf reads the settled definition of a result.
func (s Results) settledOf(ctx context.Context, r model.Result) (settled []byte, err error) {
	if r.Manifest.Form < seal.SettledForm {
		return nil, nil
	}
	if err := s.Read.QueryRowContext(ctx, `select settled from result where number = ?`,
		r.Number).Scan(&settled); err != nil {
		return nil, db.Explain(err)
	}
	if seal.DigestOf(settled) != r.Manifest.Settled {
		return nil, fmt.Errorf("result R-%06d %w", r.Number, model.ErrBroken)
	}
	return settled, nil
}

// CheckSeal reads every batch of a result again and tells whether they and the
// manifest are the ones that were sealed. The seal of the present form is the
// SHA-256 over that of the batches, each by place, rows and digest, and the
// manifest as JSON without its seal.
func (s Results) CheckSeal(ctx context.Context, r model.Result) (bool, error) {
	batches := sha256.New()
	for _, k := range r.Manifest.Datasets {
		err := s.checkBatches(ctx, r, k, batches)
		if errors.Is(err, model.ErrBroken) {
			return false, nil
		}
		if err != nil {
			return false, err
		}
	}
	if _, err := s.settledOf(ctx, r); err != nil {
		if errors.Is(err, model.ErrBroken) {
			return false, nil
		}
		return false, err
	}
	whole, err := seal.Over(r.Manifest, batches.Sum(nil))
	return whole == r.Manifest.Seal, err
}

// checkBatches reads the batches of a dataset again, and adds them to what the seal is over. What is known
// of them is read before their columns are: who reads in the midst of reading holds two of the few
// connections that there are, and some who do so at once wait for each other.
func (s Results) checkBatches(ctx context.Context, r model.Result, k model.Kept, over hash.Hash) error {
	type batch struct {
		place  int
		rows   int64
		digest [sha256.Size]byte
		text   []byte // nil where there are the rows in it
	}
	rows, err := s.Read.QueryContext(ctx,
		`select place, rows, data from batch where run = ? and dataset = ? order by place`, r.Run, k.Dataset)
	all, err := db.Collect(rows, err, func(rows *sql.Rows) (b batch, err error) {
		if err = rows.Scan(&b.place, &b.rows, &b.text); err == nil {
			b.text, err = knownText(r, b.text)
		}
		if b.digest = sha256.Sum256(b.text); r.Manifest.Form < seal.ColumnForm {
			b.text = nil
		}
		return b, err
	})
	if err != nil {
		return err
	}
	for _, b := range all {
		seal.Add(over, k.Dataset, b.place, b.rows, b.digest[:])
		if b.text == nil {
			continue
		}
		if err := s.checkCells(ctx, r, k.Dataset, b.place, b.text); err != nil {
			return err
		}
	}
	return nil
}

// squeezed is a column as it is compressed by itself.
func (s Results) squeezed(ctx context.Context, r model.Result, c cell) ([]byte, error) {
	if r.Manifest.Form < seal.StreamForm {
		blob, _, err := s.kept(ctx, c)
		return blob, err
	}
	stream, err := s.stream(ctx, c)
	if err != nil {
		return nil, err
	}
	return squeeze(stream), nil
}

// Sealed hands on everything that a result's seal is over: what is known of each batch, and each
// column of it, as they are kept.
func (s Results) Sealed(ctx context.Context, r model.Result, p *seal.Proof) error {
	for _, k := range r.Manifest.Datasets {
		for place := range k.Batches {
			var known []byte
			if err := s.Read.QueryRowContext(ctx, `select data from batch where run = ? and dataset = ? and place = ?`,
				r.Run, k.Dataset, place).Scan(&known); err != nil {
				return db.Explain(err)
			}
			known, err := knownText(r, known)
			if err != nil {
				return err
			}
			if err := p.Batch(k.Dataset, place, known); err != nil {
				return err
			}
			var a seal.Batch
			if err := json.Unmarshal(known, &a); err != nil {
				return fmt.Errorf("batch %d of %s: %w", place, k.Dataset, err)
			}
			for col := range a.Columns {
				kept, err := s.squeezed(ctx, r, cell{r.Run, k.Dataset, place, col})
				if err == nil {
					err = p.Cells(k.Dataset, place, col, kept)
				}
				if err != nil {
					return err
				}
			}
		}
	}
	return nil
}
