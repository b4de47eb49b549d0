package model

import "time"

// SigningKey is a key of Ed25519 that proofs of results are signed with.
type SigningKey struct {
	ID     string
	Public []byte
	Seed   []byte // of the private key; none where nothing is signed with it any more
	MadeAt time.Time
}
