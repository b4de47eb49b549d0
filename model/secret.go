package model

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
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
