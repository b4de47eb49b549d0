// Package seal is what proves a result unchanged: digests of its rows, the seal over them and
// over how it was made, and the file in which both travel, signed, to be checked by anybody
// without the service.
package seal

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"hash"

	"github.com/zeebo/blake3"

	"mantilla/core/frame"
	"mantilla/model"
)

// The forms of manifests. The first seals the batches only; the second all of the
// manifest; the third the settled definition too. The fourth keeps batches of any length
// column by column: what is sealed of a batch is what is known of its columns, the digest
// of each among it. That is of the column as it is compressed; in the fifth, which is made
// now, it is of the Arrow IPC stream, however that is kept.
const (
	WholeForm   = 2
	SettledForm = 3
	ColumnForm  = 4
	StreamForm  = 5
	PresentForm = StreamForm
)

// Over returns the seal of a manifest over batches whose own seal is given: in hex the
// SHA-256 over that and the manifest as JSON without its seal.
func Over(m model.Manifest, batches []byte) (string, error) {
	if m.Form < WholeForm {
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

// Add adds one batch to the seal of batches: its place and the SHA-256 of its bytes.
func Add(batches hash.Hash, dataset string, place int, rows int64, digest []byte) {
	fmt.Fprintf(batches, "%s %d %d %x\n", dataset, place, rows, digest)
}

// Again adds the batches of a dataset to a seal by the digests that are kept of them.
func Again(k model.Kept, batches hash.Hash) error {
	if k.Stay != nil { // the manifest has what is sealed of rows that are not here
		return nil
	}
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
		Add(batches, k.Dataset, place, rows, digest)
	}
	if left != 0 {
		return model.ErrBroken
	}
	return nil
}

// DigestOf is the SHA-256 of what is kept, in hex.
func DigestOf(kept []byte) string {
	sum := sha256.Sum256(kept)
	return hex.EncodeToString(sum[:])
}

// Column is what is known of a column of a batch without its cells.
type Column struct {
	Digest string       `json:"digest"` // see [Fingerprint] and [StreamForm]
	Stats  *frame.Stats `json:"stats,omitempty"`
}

// Batch is what is known of a batch.
type Batch struct {
	Rows    int      `json:"rows"`
	Columns []Column `json:"columns"`
}

// Fingerprint is the BLAKE3 of a column, in hex (O'Connor, Aumasson, Neves and
// Wilcox-O'Hearn, "BLAKE3: one function, fast everywhere", 2020). Every column is
// checked whenever it is read, and SHA-256 took half of that time.
func Fingerprint(of []byte) string {
	sum := blake3.Sum256(of)
	return hex.EncodeToString(sum[:])
}
