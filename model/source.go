package model

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"time"
)

// NewSecret makes 256 random bits, in letters and digits that an address may hold.
func NewSecret() string {
	var b [32]byte
	rand.Read(b[:])
	return base64.RawURLEncoding.EncodeToString(b[:])
}

// Digest is the SHA-256 of a text, in hex: what is kept of a secret.
func Digest(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:])
}

// The places where a secret may come from, the first that has one of the name.
const (
	SecretOfEnvironment = "environment"
	SecretOfFile        = "file"
	SecretOfStore       = "store"
)

// Secret is a password or key of a source by its name, without what it holds.
type Secret struct {
	Name      string
	From      string
	ChangedBy string    // of the store's own
	ChangedAt time.Time // likewise; zero otherwise
}

// FileVersion is a file that was brought for a table of a source, or came by itself.
type FileVersion struct {
	Number        int64
	Source, Table string
	Name          string
	Bytes         int64
	Digest        string // SHA-256 in hex
	Rows          int64
	LeftOut       int64           // lines that did not fit and were left out
	Faults        json.RawMessage // the first of them
	Person        string          // "" for one that came by itself
	At            time.Time
	InUse         bool // it is what the table has
}

// FileLook is what became of the last look for a file that comes by itself for a table.
type FileLook struct {
	Source, Table string
	At            time.Time // zero where nobody looked yet
	State         string    // what tells whether there is another file
	Digest        string    // of the last file that was taken; "" for none
	Fault         string    // why it was not taken, or could not be read; "" where all is well
}
