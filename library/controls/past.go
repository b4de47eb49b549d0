package controls

import (
	"context"
	"slices"

	"mantilla/model"
)

// PastControls returns what a run control was before it was overwritten, the newest first: for
// those who may change it.
func (a *Access) PastControls(ctx context.Context, id string) ([]Control, error) {
	if _, err := a.changeable(ctx, id); err != nil {
		return nil, err
	}
	kept, err := a.room.records.PastControls(ctx, id)
	out := make([]Control, len(kept))
	for i := range kept {
		out[i] = readControl(kept[i], a.Person().Name)
	}
	return out, err
}

// bringBack makes a run control what it was in an earlier revision. It is checked like one that
// is written anew, since what it names may be gone.
func (a *Access) bringBack(ctx context.Context, c Control, revision int64) (Control, error) {
	past, err := a.PastControls(ctx, c.ID)
	if err != nil {
		return c, err
	}
	at := slices.IndexFunc(past, func(p Control) bool { return p.Revision == revision })
	if at < 0 {
		return c, model.Refuse("revision", "%q has no earlier version of revision %d", c.Title, revision)
	}
	was := past[at]
	if was.Broken != "" {
		return c, model.Refuse("revision", "revision %d: %s", revision, was.Broken)
	}
	was.Revision = c.Revision
	return a.PutControl(ctx, was)
}
