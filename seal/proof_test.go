package seal_test

import (
	"archive/zip"
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/klauspost/compress/zstd"

	"mantilla/model"
	"mantilla/seal"
)

func keyOf(seed byte) ed25519.PrivateKey {
	return ed25519.NewKeyFromSeed(bytes.Repeat([]byte{seed}, ed25519.SeedSize))
}

// proved writes the proof of a result of two batches of two columns.
func proved(t *testing.T, key ed25519.PrivateKey) []byte {
	t.Helper()
	settled := []byte(`{"ID": "lots"}`)
	kept, sum := model.Kept{Dataset: "lots", Batches: 2, Rows: 5, Lengths: []int64{3, 2}}, sha256.New()
	var batches [][]byte
	for place, rows := range kept.Lengths {
		b := seal.Batch{Rows: int(rows)}
		for column := range 2 {
			b.Columns = append(b.Columns, seal.Column{Digest: seal.Fingerprint(cells(place, column))})
		}
		text, err := json.Marshal(b)
		if err != nil {
			t.Fatal(err)
		}
		batches = append(batches, text)
		digest := sha256.Sum256(text)
		kept.Digests = append(kept.Digests, hex.EncodeToString(digest[:]))
		seal.Add(sum, "lots", place, rows, digest[:])
	}
	m := model.Manifest{Report: "lots", Form: seal.PresentForm, Datasets: []model.Kept{kept},
		Settled: seal.DigestOf(settled)}
	var err error
	if m.Seal, err = seal.Over(m, sum.Sum(nil)); err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	p, err := seal.Begin(&out, seal.Index{Result: "R-000007", Made: time.Unix(1e9, 0).UTC()}, m, settled)
	if err != nil {
		t.Fatal(err)
	}
	for place, text := range batches {
		if err := p.Batch("lots", place, text); err != nil {
			t.Fatal(err)
		}
		for column := range 2 {
			if err := p.Cells("lots", place, column, squeezed(cells(place, column))); err != nil {
				t.Fatal(err)
			}
		}
	}
	err = p.Rows("lots", func(w io.Writer) error { _, err := w.Write([]byte("PAR1")); return err })
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Sign(key); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// squeezed compresses a column, as a proof has it.
func squeezed(stream []byte) []byte {
	e, err := zstd.NewWriter(nil)
	if err != nil {
		panic(err) // there are no options
	}
	return e.EncodeAll(stream, nil)
}

func cells(place, column int) []byte { return []byte{byte(place), byte(column), 1, 2, 3} }

// changed writes a proof again with its files changed; nil leaves one out.
func changed(t *testing.T, proof []byte, change func(name string, text []byte) []byte) []byte {
	t.Helper()
	in, err := zip.NewReader(bytes.NewReader(proof), int64(len(proof)))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range in.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if text = change(f.Name, text); text == nil {
			continue
		}
		w, err := z.Create(f.Name)
		if err == nil {
			_, err = w.Write(text)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func check(t *testing.T, proof []byte, keys ...ed25519.PublicKey) seal.Found {
	t.Helper()
	found, err := seal.Check(bytes.NewReader(proof), int64(len(proof)), keys)
	if err != nil {
		t.Fatal(err)
	}
	return found
}

// A proof is good as it was written; with one byte changed in any of its files, or one file
// missing, that file is named.
func TestEveryByteIsProved(t *testing.T) {
	key := keyOf(1)
	proof := proved(t, key)
	public := key.Public().(ed25519.PublicKey)
	if found := check(t, proof, public); !found.Good() || !found.Known || found.Rows != 5 ||
		found.Key != seal.KeyID(public) || found.Index.Result != "R-000007" {
		t.Fatalf("as it was written it is %+v", found)
	}
	in, err := zip.NewReader(bytes.NewReader(proof), int64(len(proof)))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range in.File {
		if f.Name == "index.json" || f.Name == "signature.json" {
			continue
		}
		length := int(f.UncompressedSize64)
		for at := 0; at < length; at += 1 + length/40 {
			found := check(t, changed(t, proof, func(name string, text []byte) []byte {
				if name == f.Name {
					text[at] ^= 1
				}
				return text
			}))
			if found.Good() || !strings.Contains(strings.Join(found.Faults, "\n"), f.Name) {
				t.Fatalf("byte %d of %s is changed, and found is %q", at, f.Name, found.Faults)
			}
		}
		found := check(t, changed(t, proof, func(name string, text []byte) []byte {
			if name == f.Name {
				return nil
			}
			return text
		}))
		if !strings.Contains(strings.Join(found.Faults, "\n"), f.Name+" is missing") {
			t.Errorf("without %s found is %q", f.Name, found.Faults)
		}
	}
}

// Who forges the index too cannot sign it, and another key is not the service's.
func TestSignatures(t *testing.T) {
	key, other := keyOf(1), keyOf(2)
	public := key.Public().(ed25519.PublicKey)
	proof := proved(t, key)
	forged := changed(t, proof, func(name string, text []byte) []byte {
		if name == "index.json" {
			return bytes.Replace(text, []byte("R-000007"), []byte("R-000008"), 1)
		}
		return text
	})
	if found := check(t, forged, public); len(found.Faults) != 1 ||
		found.Faults[0] != "index.json is not what was signed" {
		t.Errorf("of a forged index found is %q", found.Faults)
	}
	if found := check(t, proved(t, other), public); len(found.Faults) != 1 ||
		!strings.Contains(found.Faults[0], "none of those that were given") {
		t.Errorf("of another key found is %q", found.Faults)
	}
	if found := check(t, proved(t, other)); !found.Good() || found.Known {
		t.Errorf("without keys found is %+v", found)
	}
	for says, text := range map[string][]byte{"is no proof": []byte("PK no zip"), "cannot be read": changed(t, proof,
		func(name string, text []byte) []byte {
			if name == "index.json" {
				return nil
			}
			return text
		}), "newer version": changed(t, proof, func(name string, text []byte) []byte {
		if name == "index.json" {
			return bytes.Replace(text, []byte(`"form": 2`), []byte(`"form": 3`), 1)
		}
		return text
	})} {
		if _, err := seal.Check(bytes.NewReader(text), int64(len(text)), nil); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("it is answered by %v and not by %q", err, says)
		}
	}
}
