package backup

import (
	"bufio"
	"crypto/sha256"
	"encoding/gob"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
)

// pageSize is that of the pieces by which two states of the records are compared, in bytes: a
// multiple of what SQLite writes at once, so that what stays there stays here.
const pageSize = 4096

// Image is a state of the records, by the digests of its pages.
type Image struct {
	Bytes  int64
	SHA256 string // of all of it, in hex
	Pages  [][sha256.Size]byte
}

// Base is the whole back-up that those after it lean on, as long as it lies where they do.
type Base struct {
	Name  string // of its file
	Size  int64  // of its file, in bytes
	For   string // for whom it is encrypted, as Room calls them
	Image Image
}

// Look reads records that were copied to a file.
func Look(records string) (i Image, err error) {
	in, err := os.Open(records)
	if err != nil {
		return i, err
	}
	defer in.Close()
	all, page := sha256.New(), make([]byte, pageSize)
	for {
		n, err := io.ReadFull(in, page)
		if n > 0 {
			i.Bytes += int64(n)
			i.Pages = append(i.Pages, sha256.Sum256(page[:n]))
			all.Write(page[:n])
		}
		switch {
		case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
			i.SHA256 = hex.EncodeToString(all.Sum(nil))
			return i, nil
		case err != nil:
			return i, fmt.Errorf("reading the copy: %w", err)
		}
	}
}

// Since returns the numbers of the pages that are others than they were, from 0.
func (i Image) Since(before Image) (changed []int64) {
	for n, digest := range i.Pages {
		if n >= len(before.Pages) || before.Pages[n] != digest {
			changed = append(changed, int64(n))
		}
	}
	return changed
}

// KeepBase notes in a file which back-up those to come lean on.
func KeepBase(file string, b Base) error {
	part := file + ".part"
	out, err := os.OpenFile(part, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	w := bufio.NewWriter(out)
	err = gob.NewEncoder(w).Encode(b)
	if err = errors.Join(err, w.Flush(), out.Close()); err == nil {
		err = os.Rename(part, file)
	}
	return err
}

// KeptBase is what KeepBase noted; ok is false where nothing is, or nothing that can be read.
func KeptBase(file string) (b Base, ok bool) {
	in, err := os.Open(filepath.Clean(file))
	if err != nil {
		return b, false
	}
	defer in.Close()
	err = gob.NewDecoder(bufio.NewReader(in)).Decode(&b)
	return b, err == nil
}
