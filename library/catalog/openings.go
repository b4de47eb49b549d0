package catalog

import (
	"context"

	"mantilla/library/access"
	"mantilla/model"
)

// Opening returns to whom a report is open.
func (a *Access) Opening(id string) ([]model.Opening, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return nil, err
	}
	if _, err := a.Report(id); err != nil {
		return nil, err
	}
	return a.room.people.Openings(id), nil
}

// Open says to whom a report is open from now on.
func (a *Access) Open(ctx context.Context, id string, to []model.Opening) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	if _, err := a.Report(id); err != nil {
		return err
	}
	return a.room.people.SetOpenings(ctx, id, to)
}
