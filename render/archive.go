package render

import (
	"archive/zip"
	"compress/flate"
	"crypto/aes"
	"crypto/cipher"
	"crypto/hmac"
	"crypto/pbkdf2"
	"crypto/rand"
	"crypto/sha1"
	"encoding/binary"
	"hash"
	"io"
	"time"
)

// archive packs files as a ZIP archive (PKWARE APPNOTE 6.3.10). With a
// password, files are encrypted by AES-256 in counter mode with an HMAC-SHA1
// over them, in the form AE-2 that common programs open (WinZip, AES Encryption
// Information, version 1.04).
type archive struct {
	zip      *zip.Writer
	password string
	at       time.Time
}

func newArchive(w io.Writer, password string, at time.Time) *archive {
	return &archive{zip.NewWriter(w), password, at}
}

func (a *archive) close() error { return a.zip.Close() }

// file begins the next file; it is closed before another begins.
func (a *archive) file(name string) (io.WriteCloser, error) {
	h := &zip.FileHeader{Name: name, Method: zip.Deflate, Modified: a.at}
	if a.password == "" {
		w, err := a.zip.CreateHeader(h)
		return endless{w}, err
	}
	const strength = 3 // a key of 256 bits
	h.Method = 99      // the method stands in the extra field
	h.Flags = 0x1 | 0x8 | 0x800
	h.Extra = binary.LittleEndian.AppendUint16(h.Extra, 0x9901)
	h.Extra = binary.LittleEndian.AppendUint16(h.Extra, 7)
	h.Extra = binary.LittleEndian.AppendUint16(h.Extra, 2) // AE-2: no checksum of the plain text
	h.Extra = append(h.Extra, 'A', 'E', strength)
	h.Extra = binary.LittleEndian.AppendUint16(h.Extra, zip.Deflate)
	raw, err := a.zip.CreateRaw(h)
	if err != nil {
		return nil, err
	}
	return newSealed(raw, h, a.password)
}

type endless struct{ io.Writer }

func (endless) Close() error { return nil }

// sealed encrypts one file.
type sealed struct {
	to      io.Writer
	header  *zip.FileHeader
	block   cipher.Block
	mac     hash.Hash
	counter uint64
	key     [aes.BlockSize]byte // what is left of the key stream
	used    int
	packed  *flate.Writer
	plain   uint64
	written uint64
}

func newSealed(to io.Writer, h *zip.FileHeader, password string) (*sealed, error) {
	var salt [16]byte
	rand.Read(salt[:])
	// 1000 rounds are what the format asks for.
	keys, err := pbkdf2.Key(sha1.New, password, salt[:], 1000, 2*32+2)
	if err != nil {
		return nil, err
	}
	block, err := aes.NewCipher(keys[:32])
	if err != nil {
		return nil, err
	}
	s := &sealed{to: to, header: h, block: block, mac: hmac.New(sha1.New, keys[32:64]), used: aes.BlockSize}
	if s.packed, err = flate.NewWriter((*encrypting)(s), flate.DefaultCompression); err != nil {
		return nil, err
	}
	return s, s.plainly(append(salt[:], keys[64:]...))
}

// plainly writes what is not encrypted.
func (s *sealed) plainly(b []byte) error {
	n, err := s.to.Write(b)
	s.written += uint64(n)
	return err
}

func (s *sealed) Write(p []byte) (int, error) {
	s.plain += uint64(len(p))
	return s.packed.Write(p)
}

// Close ends the file. The header's sizes are written after it.
func (s *sealed) Close() error {
	if err := s.packed.Close(); err != nil {
		return err
	}
	if err := s.plainly(s.mac.Sum(nil)[:10]); err != nil {
		return err
	}
	s.header.CompressedSize64, s.header.UncompressedSize64 = s.written, s.plain
	//lint:ignore SA1019 the library writes the older fields where four gigabytes are not reached
	s.header.CompressedSize = uint32(min(s.written, 1<<32-1))
	//lint:ignore SA1019 see above
	s.header.UncompressedSize = uint32(min(s.plain, 1<<32-1))
	return nil
}

// encrypting takes what was packed.
type encrypting sealed

func (e *encrypting) Write(p []byte) (int, error) {
	out := make([]byte, len(p))
	for i, b := range p {
		if e.used == aes.BlockSize {
			e.counter++ // little-endian, from 1, unlike crypto/cipher's
			var block [aes.BlockSize]byte
			binary.LittleEndian.PutUint64(block[:], e.counter)
			e.block.Encrypt(e.key[:], block[:])
			e.used = 0
		}
		out[i] = b ^ e.key[e.used]
		e.used++
	}
	e.mac.Write(out)
	return len(p), (*sealed)(e).plainly(out)
}
