package backup

import (
	"archive/zip"
	"compress/flate"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"time"
)

// Write writes a back-up of records that were copied to a file: all of them.
func Write(w io.Writer, a About, i Image, records string) error {
	a.Bytes, a.SHA256 = i.Bytes, i.SHA256
	return written(w, a, recordsName, func(to io.Writer) error {
		in, err := os.Open(records)
		if err != nil {
			return err
		}
		defer in.Close()
		_, err = io.Copy(to, in)
		return err
	})
}

// WriteChanges writes the pages of copied records that are others than in a whole back-up: the number
// of each, 8 bytes with the highest first, and its bytes.
func WriteChanges(w io.Writer, a About, i Image, base Base, records string) error {
	changed := i.Since(base.Image)
	a.Bytes, a.SHA256, a.Pages = i.Bytes, i.SHA256, int64(len(changed))
	a.After, a.AfterSHA256 = base.Name, base.Image.SHA256
	return written(w, a, pagesName, func(to io.Writer) error {
		in, err := os.Open(records)
		if err != nil {
			return err
		}
		defer in.Close()
		for _, n := range changed {
			if err := binary.Write(to, binary.BigEndian, n); err != nil {
				return err
			}
			if _, err := io.Copy(to, io.NewSectionReader(in, n*pageSize, pageSize)); err != nil {
				return err
			}
		}
		return nil
	})
}

// written writes one part, and what is told of it.
func written(w io.Writer, a About, part string, write func(to io.Writer) error) error {
	z := zip.NewWriter(w)
	z.RegisterCompressor(zip.Deflate, func(out io.Writer) (io.WriteCloser, error) {
		return flate.NewWriter(out, flate.BestSpeed) // most of the records are compressed already
	})
	to, err := begun(z, part, a.At)
	if err != nil {
		return err
	}
	if err := write(to); err != nil {
		return fmt.Errorf("writing the records: %w", err)
	}
	text, err := json.MarshalIndent(a, "", "  ")
	if err != nil {
		return err
	}
	if to, err = begun(z, aboutName, a.At); err == nil {
		_, err = to.Write(text)
	}
	return errors.Join(err, z.Close())
}

func begun(z *zip.Writer, part string, at time.Time) (io.Writer, error) {
	return z.CreateHeader(&zip.FileHeader{Name: part, Method: zip.Deflate, Modified: at})
}
