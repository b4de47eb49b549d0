package keeping

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"fmt"
	"io"

	"mantilla/library/access"
	"mantilla/model"
	"mantilla/seal"
)

// Keys are all keys that this service ever signed proofs with, the present one first. Anybody may
// know them: they are what proofs are checked by.
func (room *Room) Keys(ctx context.Context) ([]model.SigningKey, error) {
	keys, err := room.records.SigningKeys(ctx)
	for i := range keys {
		keys[i].Seed = nil
	}
	return keys, err
}

// NewKey makes a key that proofs are signed with from now on. What was signed before stays good.
func (a *Access) NewKey(ctx context.Context) (model.SigningKey, error) {
	if err := a.May(access.KeepPeople); err != nil {
		return model.SigningKey{}, err
	}
	k, err := a.room.newKey(ctx)
	if err == nil {
		a.room.log.InfoContext(ctx, "new key to sign proofs with", "key", k.ID, "by", a.Person().Name)
	}
	k.Seed = nil
	return k, err
}

func (room *Room) newKey(ctx context.Context) (model.SigningKey, error) {
	public, private, err := ed25519.GenerateKey(rand.Reader)
	if err != nil {
		return model.SigningKey{}, err
	}
	k := model.SigningKey{ID: seal.KeyID(public), Public: public, Seed: private.Seed(), MadeAt: room.org.Now()}
	return k, room.records.PutSigningKey(ctx, k)
}

// signingKey is the key that proofs are signed with; the first is made when it is needed.
func (room *Room) signingKey(ctx context.Context) (ed25519.PrivateKey, error) {
	room.keying.Lock()
	defer room.keying.Unlock()
	keys, err := room.records.SigningKeys(ctx)
	if err != nil {
		return nil, err
	}
	if len(keys) == 0 || len(keys[0].Seed) != ed25519.SeedSize {
		k, err := room.newKey(ctx)
		if err != nil {
			return nil, fmt.Errorf("making a key to sign with: %w", err)
		}
		keys = []model.SigningKey{k}
	}
	return ed25519.NewKeyFromSeed(keys[0].Seed), nil
}

// Prove is the proof of a result that the person sees: its rows with all that shows them unchanged,
// signed, to be checked by anybody without the service. It is written by the function returned.
func (a *Access) Prove(ctx context.Context, result int64) (write func(io.Writer) error, err error) {
	r, err := a.reading.Result(ctx, result)
	if err != nil {
		return nil, err
	}
	if r.Manifest.Form < seal.ColumnForm {
		return nil, model.Refuse("result", "R-%06d was kept by an earlier version of the program, whose seal the service "+
			"alone can check", result)
	}
	key, err := a.room.signingKey(ctx)
	if err != nil {
		return nil, err
	}
	return func(w io.Writer) error { return a.reading.Prove(ctx, r, key, w) }, nil
}
