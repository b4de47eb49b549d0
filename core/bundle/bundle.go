// Package bundle is the file in which reports travel from one service to another: a ZIP
// of YAML files, with a manifest that has the digest of each.
package bundle

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"maps"
	"path"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"
)

// Form is the form of the file that this program writes, and the newest that it reads.
const Form = 1

// Bounds of a file, against one that would fill memory.
const (
	MostFiles = 20_000
	MostBytes = 64 << 20 // of all files, unpacked
)

const manifestName = "manifest.yaml"

// Manifest tells what a bundle is.
type Manifest struct {
	Form   int       `yaml:"bundle"`
	Made   time.Time `yaml:"made"`
	By     string    `yaml:"by"`   // who made it
	From   string    `yaml:"from"` // the organisation's name
	Digest []Digest  `yaml:"files"`
}

// Digest is a file of a bundle with its SHA-256, in hex.
type Digest struct {
	Path   string `yaml:"path"`
	SHA256 string `yaml:"sha256"`
}

// Bundle is a manifest and files by their paths.
type Bundle struct {
	Manifest
	Files map[string][]byte
}

// Below returns the files of a folder, by their names without the ending .yaml.
func (b *Bundle) Below(folder string) map[string][]byte {
	out := map[string][]byte{}
	for p, text := range b.Files {
		if path.Dir(p) == folder {
			out[strings.TrimSuffix(path.Base(p), ".yaml")] = text
		}
	}
	return out
}

// Put keeps a value as the file at a path.
func (b *Bundle) Put(at string, v any) error {
	text, err := yaml.Marshal(v)
	if err != nil {
		return fmt.Errorf("writing %s: %w", at, err)
	}
	b.Files[at] = text
	return nil
}

// Get reads the file at a path into a value, which stays as it is where there is none.
func (b *Bundle) Get(at string, into any) error {
	if err := yaml.Unmarshal(b.Files[at], into); err != nil {
		return fmt.Errorf("%s cannot be read: %w", at, err)
	}
	return nil
}

// Write writes a bundle. The same content gives the same bytes.
func Write(w io.Writer, b *Bundle) error {
	m := b.Manifest
	m.Form, m.Digest = Form, nil
	paths := slices.Sorted(maps.Keys(b.Files))
	for _, p := range paths {
		m.Digest = append(m.Digest, Digest{p, digest(b.Files[p])})
	}
	head, err := yaml.Marshal(m)
	if err != nil {
		return fmt.Errorf("writing the manifest: %w", err)
	}
	z := zip.NewWriter(w)
	put := func(p string, text []byte) error {
		f, err := z.CreateHeader(&zip.FileHeader{Name: p, Method: zip.Deflate, Modified: b.Made})
		if err == nil {
			_, err = f.Write(text)
		}
		return err
	}
	if err := put(manifestName, head); err != nil {
		return err
	}
	for _, p := range paths {
		if err := put(p, b.Files[p]); err != nil {
			return fmt.Errorf("writing %s: %w", p, err)
		}
	}
	return z.Close()
}

func digest(text []byte) string {
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:])
}

// Read reads a bundle and proves it whole: every file is in the manifest with its digest,
// and none lies elsewhere than below the bundle itself.
func Read(text []byte) (*Bundle, error) {
	z, err := zip.NewReader(bytes.NewReader(text), int64(len(text)))
	if err != nil {
		return nil, fmt.Errorf("the file is no bundle, or was cut short: %w", err)
	}
	if len(z.File) > MostFiles {
		return nil, fmt.Errorf("the bundle has %d files; at most %d can be read", len(z.File), MostFiles)
	}
	b := &Bundle{Files: map[string][]byte{}}
	left := int64(MostBytes)
	for _, f := range z.File {
		if !within(f.Name) {
			return nil, fmt.Errorf("the bundle has the path %q, which leads out of it", f.Name)
		}
		if _, twice := b.Files[f.Name]; twice {
			return nil, fmt.Errorf("the bundle has %s twice", f.Name)
		}
		content, err := unpacked(f, left)
		if err != nil {
			return nil, err
		}
		left -= int64(len(content))
		b.Files[f.Name] = content
	}
	return b, b.prove()
}

// within tells whether a path lies below the bundle, written plainly.
func within(p string) bool {
	return p != "" && p == path.Clean(p) && !path.IsAbs(p) && p != ".." && !strings.HasPrefix(p, "../") &&
		!strings.ContainsAny(p, "\\:\x00")
}

func unpacked(f *zip.File, most int64) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", f.Name, err)
	}
	defer r.Close()
	content, err := io.ReadAll(io.LimitReader(r, most+1))
	if err != nil {
		return nil, fmt.Errorf("the bundle was cut short or altered at %s: %w", f.Name, err)
	}
	if int64(len(content)) > most {
		return nil, fmt.Errorf("the bundle has more than %d MiB unpacked", MostBytes>>20)
	}
	return content, nil
}

// prove reads the manifest and holds the files against it.
func (b *Bundle) prove() error {
	head, ok := b.Files[manifestName]
	if !ok {
		return errors.New("the file is no bundle: it has no " + manifestName)
	}
	delete(b.Files, manifestName)
	if err := yaml.Unmarshal(head, &b.Manifest); err != nil {
		return fmt.Errorf("the bundle's manifest cannot be read: %w", err)
	}
	if b.Form > Form {
		return fmt.Errorf("the bundle is of form %d, of a newer program; this one reads up to form %d", b.Form, Form)
	}
	if b.Form < 1 {
		return errors.New("the file is no bundle: its manifest has no form")
	}
	known := map[string]string{}
	for _, d := range b.Digest {
		known[d.Path] = d.SHA256
	}
	for p, text := range b.Files {
		want, listed := known[p]
		if !listed {
			return fmt.Errorf("the bundle was altered: %s is not in its manifest", p)
		}
		if digest(text) != want {
			return fmt.Errorf("the bundle was altered: %s is not what its manifest says", p)
		}
	}
	for p := range known {
		if _, there := b.Files[p]; !there {
			return fmt.Errorf("the bundle was altered: %s is missing", p)
		}
	}
	return nil
}
