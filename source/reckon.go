package source

import (
	"context"

	"mantilla/core/query"
)

// Reckoner is a [Session] of an engine that can tell beforehand about how many rows it expects
// a query to give, without reading any. What it tells may be wrong by far, in either direction.
type Reckoner interface {
	Reckon(ctx context.Context, q query.Query) (rows int64, err error)
}

// MostReckoned is the most that is reckoned with; engines multiply guesses beyond any number.
const MostReckoned = 1e15
