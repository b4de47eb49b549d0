package seal

import (
	"archive/zip"
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"slices"

	"github.com/klauspost/compress/zstd"

	"mantilla/model"
)

// Found is what a proof says, and what is wrong with it.
type Found struct {
	Index  Index
	Key    string   // the id of the key that signed it
	Known  bool     // it is one of the keys that were given
	Rows   int64    // of all datasets
	Faults []string // what was changed, file by file; none for nothing
	Stays  []string // rows that are not in the proof, of which it has the digests alone, dataset by dataset
}

// Good tells whether nothing was changed.
func (f Found) Good() bool { return len(f.Faults) == 0 }

func (f *Found) fault(text string, args ...any) {
	f.Faults = append(f.Faults, fmt.Sprintf(text, args...))
}

// Bounds of what is read into memory, against a file that was made to fill it.
const (
	mostText  = 64 << 20
	mostFiles = 5_000_000
)

// Check reads a proof again and finds what in it was changed: the signature over the index, each
// file by the index, and the seal by the manifest, the batches and their columns. Keys are those
// that the service is known to sign with; where none are given, Known is false. The error is of
// what is no proof at all.
func Check(r io.ReaderAt, size int64, keys []ed25519.PublicKey) (f Found, err error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return f, fmt.Errorf("it is no proof of a result: %w", err)
	}
	if len(z.File) > mostFiles {
		return f, fmt.Errorf("it is no proof of a result: it has %d files", len(z.File))
	}
	c := checking{found: &f, files: map[string]*zip.File{}}
	for _, file := range z.File {
		if c.files[file.Name] != nil {
			f.fault("%s is there twice", file.Name)
		}
		c.files[file.Name] = file
	}
	if err := c.signed(keys); err != nil {
		return f, err
	}
	c.listed()
	c.sealed()
	return f, nil
}

// checking is a proof while it is checked.
type checking struct {
	found *Found
	files map[string]*zip.File
}

// text reads a file that is small; false where it cannot be read, which is noted.
func (c *checking) text(name string) ([]byte, bool) {
	file := c.files[name]
	if file == nil {
		c.found.fault("%s is missing", name)
		return nil, false
	}
	in, err := file.Open()
	if err == nil {
		defer in.Close()
		var out []byte
		if out, err = io.ReadAll(io.LimitReader(in, mostText+1)); err == nil && len(out) <= mostText {
			return out, true
		}
	}
	c.found.fault("%s cannot be read: %v", name, err)
	return nil, false
}

// signed checks the signature over the index.
func (c *checking) signed(keys []ed25519.PublicKey) error {
	index, ok := c.text(indexName)
	if !ok || json.Unmarshal(index, &c.found.Index) != nil {
		return fmt.Errorf("it is no proof of a result: its %s cannot be read", indexName)
	}
	if c.found.Index.Form > Form {
		return fmt.Errorf("it was written by a newer version of the program; this one reads form %d, not %d", Form,
			c.found.Index.Form)
	}
	var s Signature
	text, ok := c.text(signatureName)
	if !ok || json.Unmarshal(text, &s) != nil || len(s.Public) != ed25519.PublicKeySize {
		c.found.fault("%s is not the signature of a service", signatureName)
		return nil
	}
	c.found.Key = KeyID(s.Public)
	c.found.Known = slices.ContainsFunc(keys, func(k ed25519.PublicKey) bool { return bytes.Equal(k, s.Public) })
	if !ed25519.Verify(s.Public, index, s.Signature) {
		c.found.fault("%s is not what was signed", indexName)
	}
	if len(keys) > 0 && !c.found.Known {
		c.found.fault("it is signed by the key %s, which is none of those that were given", c.found.Key)
	}
	return nil
}

// listed checks each file by the index.
func (c *checking) listed() {
	known := map[string]bool{indexName: true, signatureName: true}
	for _, f := range c.found.Index.Files {
		known[f.Path] = true
		file := c.files[f.Path]
		if file == nil {
			c.found.fault("%s is missing", f.Path)
			continue
		}
		sum := sha256.New()
		n, err := digested(file, sum)
		if err != nil {
			c.found.fault("%s was changed: %v", f.Path, err)
		} else if n != f.Bytes || hex.EncodeToString(sum.Sum(nil)) != f.SHA256 {
			c.found.fault("%s was changed", f.Path)
		}
	}
	for name := range c.files {
		if !known[name] {
			c.found.fault("%s was added", name)
		}
	}
	slices.Sort(c.found.Faults)
}

func digested(file *zip.File, into io.Writer) (int64, error) {
	in, err := file.Open()
	if err != nil {
		return 0, err
	}
	defer in.Close()
	return io.Copy(into, in)
}

// sealed computes the seal again.
func (c *checking) sealed() {
	text, ok := c.text(manifestName)
	if !ok {
		return
	}
	var m model.Manifest
	if err := json.Unmarshal(text, &m); err != nil {
		c.found.fault("%s cannot be read: %v", manifestName, err)
		return
	}
	if settled, ok := c.text(settledName); ok && DigestOf(settled) != m.Settled {
		c.found.fault("%s is not what was sealed", settledName)
	}
	batches := sha256.New()
	for _, k := range m.Datasets {
		if k.Stay != nil {
			c.found.Stays = append(c.found.Stays,
				fmt.Sprintf("%d rows of %s stay in the source %s; their digests alone are here",
					k.Rows, k.Dataset, k.Stay.Source))
			continue
		}
		c.found.Rows += k.Rows
		for place := range k.Batches {
			c.batch(k, place, m.Form)
		}
		if err := Again(k, batches); err != nil {
			c.found.fault("%s: the batches of %s are not as many rows as it says", manifestName, k.Dataset)
		}
	}
	if whole, err := Over(m, batches.Sum(nil)); err != nil || whole != m.Seal {
		c.found.fault("%s is not what was sealed", manifestName)
	}
	if m.Seal != c.found.Index.Seal {
		c.found.fault("%s is of another seal than %s", manifestName, indexName)
	}
}

// batch checks what is known of a batch by the manifest, and its columns by that.
func (c *checking) batch(k model.Kept, place, form int) {
	name := batchPath(k.Dataset, place)
	text, ok := c.text(name)
	if !ok {
		return
	}
	var b Batch
	if place >= len(k.Digests) || DigestOf(text) != k.Digests[place] || json.Unmarshal(text, &b) != nil {
		c.found.fault("%s is not what was sealed", name)
		return
	}
	for column, of := range b.Columns {
		name := cellsPath(k.Dataset, place, column)
		kept, ok := c.text(name)
		if !ok {
			continue
		}
		if form >= StreamForm {
			stream, err := unpacked.DecodeAll(kept, nil)
			if err != nil {
				c.found.fault("%s is not what was sealed: %v", name, err)
				continue
			}
			kept = stream
		}
		if Fingerprint(kept) != of.Digest {
			c.found.fault("%s is not what was sealed", name)
		}
	}
}

// mostUnpacked bounds what a column comes to, against a file that was made to fill memory.
const mostUnpacked = 512 << 20

// unpacked reads columns as they are compressed in a proof.
var unpacked = func() *zstd.Decoder {
	d, err := zstd.NewReader(nil, zstd.WithDecoderConcurrency(0), zstd.WithDecoderMaxMemory(mostUnpacked))
	if err != nil {
		panic(err) // the options are constants
	}
	return d
}()
