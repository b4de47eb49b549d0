package seal

import (
	"archive/zip"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"path"
	"strconv"
	"time"

	"mantilla/model"
)

// Form is the form of the file that this program writes, and the newest that it reads.
const Form = 2

// The files of a proof. Beside these it has what is known of each batch, and each column of it
// as an Arrow IPC stream compressed by zstd, which are what the seal is over; and the rows of
// each dataset once more as Parquet, to be read.
const (
	indexName     = "index.json"
	signatureName = "signature.json"
	manifestName  = "manifest.json"
	settledName   = "settled.json"
	readMeName    = "README.txt"
)

// Index tells of which result a proof is, and which files it has.
type Index struct {
	Form     int       `json:"form"`
	Result   string    `json:"result"` // R-000012
	Title    string    `json:"title"`
	Sentence string    `json:"sentence"`
	Seal     string    `json:"seal"`
	From     string    `json:"from"`            // the organisation
	At       string    `json:"at,omitempty"`    // address of the service
	Signs    []string  `json:"signs,omitempty"` // who had signed it off when the proof was made
	Made     time.Time `json:"made"`
	Files    []File    `json:"files"`
}

// File is a file of a proof with its length in bytes and its SHA-256 in hex.
type File struct {
	Path   string `json:"path"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

// Signature is what a service signed an index with: Ed25519 (RFC 8032) over the bytes of the
// index as they stand in the file.
type Signature struct {
	Algorithm string `json:"algorithm"`
	Key       string `json:"key"` // the key's id, see [KeyID]
	Public    []byte `json:"public"`
	Signature []byte `json:"signature"`
}

// KeyID names a public key: the first 16 digits of its SHA-256.
func KeyID(public ed25519.PublicKey) string {
	sum := sha256.Sum256(public)
	return hex.EncodeToString(sum[:8])
}

// Proof is a proof while it is written. It needs no more memory than its greatest file.
type Proof struct {
	zip   *zip.Writer
	index Index
}

// Begin begins to write the proof of a result, with its manifest and its settled definition as
// they were sealed.
func Begin(w io.Writer, index Index, m model.Manifest, settled []byte) (*Proof, error) {
	if m.Form < ColumnForm {
		return nil, fmt.Errorf("%s was kept by an earlier version of the program, whose seal the service alone can check",
			index.Result)
	}
	index.Form, index.Seal = Form, m.Seal
	p := &Proof{zip: zip.NewWriter(w), index: index}
	manifest, err := json.Marshal(m)
	if err != nil {
		return nil, err
	}
	for _, f := range []struct {
		name string
		text []byte
	}{{readMeName, []byte(readMe)}, {manifestName, manifest}, {settledName, settled}} {
		if err := p.put(f.name, zip.Deflate, func(w io.Writer) error { return all(w, f.text) }); err != nil {
			return nil, err
		}
	}
	return p, nil
}

const readMe = `A result that was kept, with what proves it unchanged.

rows/        the rows of each dataset, as Apache Parquet
manifest     how the result was made: values, who, when, source; digests of its batches
settled      what its columns mean, as it was then
batches/     what is known of each batch: the BLAKE3 of each of its columns, as a stream
cells/       each column of each batch: an Arrow IPC stream, compressed by zstd
index        all files with their SHA-256
signature    Ed25519 over the bytes of index.json, by the service that kept the result

mantilla seal check FILE does all of this without any service:
each file has its digest; each column has that of its batch; each batch has that of the
manifest; the seal is the SHA-256 over them and the manifest; the signature is right.
`

func all(w io.Writer, text []byte) error {
	_, err := w.Write(text)
	return err
}

// put writes a file and notes its digest.
func (p *Proof) put(name string, method uint16, write func(io.Writer) error) error {
	f, err := p.zip.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: p.index.Made})
	if err != nil {
		return err
	}
	sum := sha256.New()
	counted := &counter{}
	if err := write(io.MultiWriter(f, sum, counted)); err != nil {
		return fmt.Errorf("writing %s: %w", name, err)
	}
	p.index.Files = append(p.index.Files, File{name, counted.n, hex.EncodeToString(sum.Sum(nil))})
	return nil
}

type counter struct{ n int64 }

func (c *counter) Write(b []byte) (int, error) {
	c.n += int64(len(b))
	return len(b), nil
}

func batchPath(dataset string, place int) string {
	return path.Join("batches", dataset, strconv.Itoa(place)+".json")
}

func cellsPath(dataset string, place, column int) string {
	return path.Join("cells", dataset, strconv.Itoa(place), strconv.Itoa(column)+".arrow.zst")
}

// Batch writes what is known of a batch.
func (p *Proof) Batch(dataset string, place int, known []byte) error {
	return p.put(batchPath(dataset, place), zip.Deflate, func(w io.Writer) error { return all(w, known) })
}

// Cells writes a column of a batch.
func (p *Proof) Cells(dataset string, place, column int, kept []byte) error {
	return p.put(cellsPath(dataset, place, column), zip.Store, func(w io.Writer) error { return all(w, kept) })
}

// Rows writes the rows of a dataset as Parquet.
func (p *Proof) Rows(dataset string, write func(io.Writer) error) error {
	return p.put(path.Join("rows", dataset+".parquet"), zip.Store, write)
}

// Sign writes the index, signs it and ends the proof.
func (p *Proof) Sign(key ed25519.PrivateKey) error {
	index, err := json.MarshalIndent(p.index, "", "  ")
	if err != nil {
		return err
	}
	public := key.Public().(ed25519.PublicKey)
	signature, err := json.MarshalIndent(Signature{Algorithm: "Ed25519", Key: KeyID(public), Public: public,
		Signature: ed25519.Sign(key, index)}, "", "  ")
	if err != nil {
		return err
	}
	for name, text := range map[string][]byte{indexName: index, signatureName: signature} {
		f, err := p.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: p.index.Made})
		if err == nil {
			_, err = f.Write(text)
		}
		if err != nil {
			return fmt.Errorf("writing %s: %w", name, err)
		}
	}
	return p.zip.Close()
}
