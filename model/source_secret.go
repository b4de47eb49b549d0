package model

import "time"

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
