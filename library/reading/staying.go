package reading

import (
	"context"
	"fmt"

	"mantilla/model"
	"mantilla/source"
)

// engine is where the rows of a dataset stay.
func (room *Room) engine(k *model.Kept) (source.Engine, error) {
	src, err := room.catalog.Source(k.Stay.Source)
	if err != nil {
		return nil, fmt.Errorf("the rows of %s stay in the source %s: %w", k.Dataset, k.Stay.Source, err)
	}
	if src.Engine() == nil {
		return nil, model.Refuse("source", "the rows of %s stay in the source %s, which %w", k.Dataset, k.Stay.Source,
			source.ErrKeepsNothing)
	}
	return src.Engine(), nil
}

// mayCome refuses to bring more rows here than a run may keep here: what wants all rows of a result
// in memory, such as comparing it with another, is for those that are kept here.
func (r *Reading) mayCome() error {
	if r.stays == nil || r.stays.Rows <= r.most {
		return nil
	}
	return model.Refuse("result",
		"%s has %d rows that stay in the source %s, and at most %d may come from there at once; "+
			"use a result of fewer rows", r.stays.Dataset, r.stays.Rows, r.stays.Stay.Source, r.most)
}

// sealHolds tells whether rows that stay in an engine are those that were sealed.
func (room *Room) sealHolds(ctx context.Context, k *model.Kept) (bool, error) {
	engine, err := room.engine(k)
	if err != nil {
		return false, err
	}
	rows, digests, err := engine.Again(ctx, *k.Stay)
	if err != nil || rows != k.Rows || len(digests) != len(k.Stay.Columns) {
		return false, err
	}
	for i, c := range k.Stay.Columns {
		if digests[i] != c.Digest {
			return false, nil
		}
	}
	return true, nil
}
