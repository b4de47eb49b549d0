package table

import (
	"crypto/sha256"
	"encoding/hex"
)

// Sized is a value that knows about how much memory it takes.
type Sized interface{ Bytes() int }

// Cache keeps values by what asked for them. The keys of one cache are of one
// result.
type Cache interface {
	Get(key string, make func() (Sized, error)) (Sized, error)
}

// Fresh computes everything anew.
type Fresh struct{}

// Get calls make.
func (Fresh) Get(_ string, make func() (Sized, error)) (Sized, error) { return make() }

// Digest shortens a key of a [Cache].
func Digest(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:16])
}
