package backup

import (
	"archive/zip"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/ncruces/go-sqlite3"
)

// ErrNone says that a file is no back-up, or not a whole one.
var ErrNone = errors.New("is no back-up, or not a whole one")

// read says what a back-up is, without reading its records.
func read(path string) (a About, err error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return a, fmt.Errorf("%s %w: %w", path, ErrNone, err)
	}
	defer z.Close()
	in, err := z.Open(aboutName)
	if err != nil {
		return a, fmt.Errorf("%s %w: it says nothing of itself", path, ErrNone)
	}
	defer in.Close()
	if err := json.NewDecoder(in).Decode(&a); err != nil {
		return a, fmt.Errorf("%s %w: %w", path, ErrNone, err)
	}
	if a.Form > Form {
		return a, fmt.Errorf("%s was written by a newer version of the program, %s; use that one", path, a.Program)
	}
	return a, nil
}

// Restore brings the records of a back-up into a data directory that has none. They are there whole
// and unchanged, or not at all. Key is the file of the key that opens it, where it is encrypted.
// The whole one that it leans on, if it has only changes, lies beside it.
func Restore(file, key, dir string) (a About, err error) {
	path, done, err := opened(file, key)
	if err != nil {
		return a, err
	}
	defer done()
	if a, err = read(path); err != nil {
		return a, err
	}
	to := filepath.Join(dir, recordsName)
	if _, err := os.Stat(to); err == nil {
		return a, fmt.Errorf("the data directory %s has records already; move them away, or choose another directory", dir)
	}
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return a, err
	}
	part := to + ".part"
	if a.After == "" {
		err = unpacked(path, a, part)
	} else {
		err = stepped(source{file, path, key}, a, part)
	}
	if err == nil {
		err = renamed(part)
	}
	if err != nil {
		return a, errors.Join(err, os.Remove(part))
	}
	return a, os.Rename(part, to)
}

// renamed lets restored records be those of another service for the engines in which rows of results
// stay: the one that they are a copy of may go on, and what it keeps there is not to be swept.
func renamed(records string) error {
	conn, err := sqlite3.Open("file:" + records)
	if err != nil {
		return err
	}
	return errors.Join(conn.Exec(`delete from origin where name = 'service'`), conn.Close())
}

// source is the file of a back-up, the plain one it was opened as, and the file of its key.
type source struct{ file, plain, key string }

// stepped brings the records of the whole back-up that one leans on, and puts its pages into them.
func stepped(of source, a About, to string) error {
	name := filepath.Base(of.file)
	base := filepath.Join(filepath.Dir(of.file), filepath.Base(a.After))
	plain, done, err := opened(base, of.key)
	if err != nil {
		return fmt.Errorf("%s has only what changed since %s, which has to lie beside it: %w", name, a.After, err)
	}
	defer done()
	whole, err := read(plain)
	if err != nil {
		return err
	}
	if whole.After != "" || whole.SHA256 != a.AfterSHA256 {
		return fmt.Errorf("%s has what changed since another %s than the one that lies beside it", name, a.After)
	}
	if err := unpacked(plain, whole, to); err != nil {
		return err
	}
	if err := changed(of.plain, a, to); err != nil {
		return err
	}
	now, err := Look(to)
	if err == nil && now.SHA256 != a.SHA256 {
		err = fmt.Errorf("%s %w: its records are not those that were written", name, ErrNone)
	}
	return err
}

// changed puts the pages of a back-up into records.
func changed(path string, a About, records string) error {
	z, err := zip.OpenReader(path)
	if err != nil {
		return err
	}
	defer z.Close()
	in, err := z.Open(pagesName)
	if err != nil {
		return fmt.Errorf("%s %w: the pages are missing", path, ErrNone)
	}
	defer in.Close()
	out, err := os.OpenFile(records, os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	err = placed(in, a, out)
	if err == nil {
		err = errors.Join(out.Truncate(a.Bytes), out.Sync())
	}
	if err = errors.Join(err, out.Close()); err != nil {
		return fmt.Errorf("%s %w: %w", path, ErrNone, err)
	}
	return nil
}

func placed(in io.Reader, a About, out io.WriterAt) error {
	page := make([]byte, pageSize)
	for range a.Pages {
		var n int64
		if err := binary.Read(in, binary.BigEndian, &n); err != nil {
			return err
		}
		at := n * pageSize
		if n < 0 || n > a.Bytes/pageSize || at >= a.Bytes {
			return fmt.Errorf("there is no page %d", n)
		}
		content := page[:min(pageSize, a.Bytes-at)]
		if _, err := io.ReadFull(in, content); err != nil {
			return err
		}
		if _, err := out.WriteAt(content, at); err != nil {
			return err
		}
	}
	return nil
}

func unpacked(path string, a About, to string) error {
	z, err := zip.OpenReader(path)
	if err != nil {
		return err
	}
	defer z.Close()
	in, err := z.Open(recordsName)
	if err != nil {
		return fmt.Errorf("%s %w: the records are missing", path, ErrNone)
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	sum := sha256.New()
	n, err := io.Copy(io.MultiWriter(out, sum), io.LimitReader(in, a.Bytes+1))
	if err == nil {
		err = out.Sync()
	}
	err = errors.Join(err, out.Close())
	switch {
	case err != nil:
		return fmt.Errorf("%s %w: %w", path, ErrNone, err)
	case n != a.Bytes || hex.EncodeToString(sum.Sum(nil)) != a.SHA256:
		return fmt.Errorf("%s %w: its records are not those that were written", path, ErrNone)
	}
	return nil
}
