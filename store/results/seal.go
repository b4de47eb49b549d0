package results

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"

	"mantilla/core/frame"
	"mantilla/model"
	"mantilla/store/db"
)

// The forms of manifests. The first seals the batches only; the second all of the
// manifest; the third the settled definition too. The fourth, which is made now, keeps
// batches of any length column by column: what is sealed of a batch is what is known
// of its columns, the digest of each among it.
const (
	wholeForm   = 2
	settledForm = 3
	columnForm  = 4
	PresentForm = columnForm
)

// SealOver returns the seal of a manifest over batches whose own seal is given.
func SealOver(m model.Manifest, batches []byte) (string, error) {
	if m.Form < wholeForm {
		return hex.EncodeToString(batches), nil
	}
	m.Seal = ""
	text, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(append(batches, text...))
	return hex.EncodeToString(sum[:]), nil
}

// SealBatch adds one batch to a seal: its place and the SHA-256 of its bytes.
func SealBatch(seal hash.Hash, dataset string, place int, rows int64, digest []byte) {
	fmt.Fprintf(seal, "%s %d %d %x\n", dataset, place, rows, digest)
}

// DigestOf is the SHA-256 of what is kept, in hex.
func DigestOf(kept []byte) string {
	sum := sha256.Sum256(kept)
	return hex.EncodeToString(sum[:])
}

// settledOf reads the settled definition of a result.
func (s Results) settledOf(ctx context.Context, r model.Result) (settled []byte, err error) {
	if r.Manifest.Form < settledForm {
		return nil, nil
	}
	if err := s.Read.QueryRowContext(ctx, `select settled from result where number = ?`,
		r.Number).Scan(&settled); err != nil {
		return nil, db.Explain(err)
	}
	if DigestOf(settled) != r.Manifest.Settled {
		return nil, fmt.Errorf("result R-%06d %w", r.Number, model.ErrBroken)
	}
	return settled, nil
}

// reseal adds the batches of a dataset to a seal by their kept digests.
func reseal(k model.Kept, seal hash.Hash) error {
	if len(k.Digests) != k.Batches {
		return model.ErrBroken
	}
	left := k.Rows
	for place, text := range k.Digests {
		digest, err := hex.DecodeString(text)
		if err != nil {
			return model.ErrBroken
		}
		rows := min(left, frame.BatchRows)
		if len(k.Lengths) == k.Batches {
			rows = k.Lengths[place]
		}
		left -= rows
		SealBatch(seal, k.Dataset, place, rows, digest)
	}
	if left != 0 {
		return model.ErrBroken
	}
	return nil
}

// CheckSeal reads every batch of a result again and tells whether they and the
// manifest are the ones that were sealed. The seal of the present form is the
// SHA-256 over that of the batches, each by place, rows and digest, and the
// manifest as JSON without its seal.
func (s Results) CheckSeal(ctx context.Context, r model.Result) (bool, error) {
	seal := sha256.New()
	for _, k := range r.Manifest.Datasets {
		rows, err := s.Read.QueryContext(ctx,
			`select place, rows, data from batch where run = ? and dataset = ? order by place`, r.Run, k.Dataset)
		_, err = db.Collect(rows, err, func(rows *sql.Rows) (struct{}, error) {
			var place int
			var n int64
			var blob []byte
			if err := rows.Scan(&place, &n, &blob); err != nil {
				return struct{}{}, err
			}
			digest := sha256.Sum256(blob)
			SealBatch(seal, k.Dataset, place, n, digest[:])
			if r.Manifest.Form < columnForm {
				return struct{}{}, nil
			}
			return struct{}{}, s.checkCells(ctx, r, k.Dataset, place, blob)
		})
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
	whole, err := SealOver(r.Manifest, seal.Sum(nil))
	return whole == r.Manifest.Seal, err
}
