package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"time"

	"mantilla/core/frame"
	"mantilla/core/report"
)

// Manifest tells how a result was made.
type Manifest struct {
	Report      string            `json:"report"`
	Version     string            `json:"version"`
	Typed       map[string]string `json:"typed"`
	Facts       []Fact            `json:"facts"`
	AskedBy     string            `json:"asked_by"`
	StartedAt   time.Time         `json:"started_at"`
	Duration    time.Duration     `json:"duration"` // nanoseconds
	Source      string            `json:"source"`
	Fingerprint string            `json:"fingerprint"`
	Reach       report.Reach      `json:"reach"` // what the rows are cut to
	Datasets    []Kept            `json:"datasets"`
	Seal        string            `json:"seal"` // see [Store.CheckSeal], in hex

	// What the service was set to: what the cells mean depends on it. Results of
	// the first form do not have it, and their seals cover the batches only.
	Form        int        `json:"form,omitempty"` // 0 the first
	Title       string     `json:"title,omitempty"`
	Sentence    string     `json:"sentence,omitempty"`
	Currency    string     `json:"currency,omitempty"` // of money whose column names none
	Zone        string     `json:"zone,omitempty"`
	FiscalStart time.Month `json:"fiscal_start,omitempty"`

	// Settled is the SHA-256, in hex, of the settled definition that is kept with the
	// result; see [Result.Settled].
	Settled string `json:"settled,omitempty"`
}

// The forms of manifests. The first seals the batches only; the second all of the
// manifest; the third, which is made now, the settled definition too.
const (
	wholeForm   = 2
	presentForm = 3
)

// sealed returns the seal of a manifest over batches whose own seal is given.
func (m Manifest) sealed(batches []byte) (string, error) {
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

// ErrBroken says that a result is not what was sealed.
var ErrBroken = errors.New("is not as it was sealed: its record or its rows were changed; take it from a back-up, or run the report again")

// Kept tells how many rows and batches of a dataset were kept.
type Kept struct {
	Dataset string   `json:"dataset"`
	Rows    int64    `json:"rows"`
	Batches int      `json:"batches"`
	Digests []string `json:"digests,omitempty"` // SHA-256 of each batch, in hex; not of the first form
	Reason  string   `json:"reason,omitempty"`  // why the dataset could not be read; "" where it could
}

// sealBatch adds one batch to a seal: its place and the SHA-256 of its bytes.
func sealBatch(seal hash.Hash, dataset string, place int, rows int64, digest []byte) {
	fmt.Fprintf(seal, "%s %d %d %x\n", dataset, place, rows, digest)
}

// digestOf is the SHA-256 of what is kept, in hex.
func digestOf(kept []byte) string {
	sum := sha256.Sum256(kept)
	return hex.EncodeToString(sum[:])
}

// settledOf reads the settled definition of a result.
func (s *Store) settledOf(ctx context.Context, r Result) (settled []byte, err error) {
	if r.Manifest.Form < presentForm {
		return nil, nil
	}
	if err := s.read.QueryRowContext(ctx, `select settled from result where number = ?`, r.Number).Scan(&settled); err != nil {
		return nil, explain(err)
	}
	if digestOf(settled) != r.Manifest.Settled {
		return nil, fmt.Errorf("result R-%06d %w", r.Number, ErrBroken)
	}
	return settled, nil
}

// reseal adds the batches of a dataset to a seal by their kept digests.
func (k Kept) reseal(seal hash.Hash) error {
	if len(k.Digests) != k.Batches {
		return ErrBroken
	}
	left := k.Rows
	for place, text := range k.Digests {
		digest, err := hex.DecodeString(text)
		if err != nil {
			return ErrBroken
		}
		rows := min(left, frame.BatchRows)
		left -= rows
		sealBatch(seal, k.Dataset, place, rows, digest)
	}
	return nil
}

// CheckSeal reads every batch of a result again and tells whether they and the
// manifest are the ones that were sealed. The seal of the present form is the
// SHA-256 over that of the batches, each by place, rows and digest, and the
// manifest as JSON without its seal.
func (s *Store) CheckSeal(ctx context.Context, r Result) (bool, error) {
	seal := sha256.New()
	for _, k := range r.Manifest.Datasets {
		rows, err := s.read.QueryContext(ctx, `select place, rows, data from batch where run = ? and dataset = ? order by place`, r.Run, k.Dataset)
		_, err = collect(rows, err, func(rows *sql.Rows) (struct{}, error) {
			var place int
			var n int64
			var blob []byte
			if err := rows.Scan(&place, &n, &blob); err != nil {
				return struct{}{}, err
			}
			digest := sha256.Sum256(blob)
			sealBatch(seal, k.Dataset, place, n, digest[:])
			return struct{}{}, nil
		})
		if err != nil {
			return false, err
		}
	}
	if _, err := s.settledOf(ctx, r); err != nil {
		if errors.Is(err, ErrBroken) {
			return false, nil
		}
		return false, err
	}
	whole, err := r.Manifest.sealed(seal.Sum(nil))
	return whole == r.Manifest.Seal, err
}
