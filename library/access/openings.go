package access

import (
	"context"
	"slices"

	"mantilla/model"
)

// CheckOpenings checks that there are the groups and people of openings.
func (room *Room) CheckOpenings(ctx context.Context, to []model.Opening) error {
	groups, err := room.records.Groups(ctx)
	if err != nil {
		return err
	}
	for _, o := range to {
		switch o.Kind {
		case "everyone":
		case "group":
			if !slices.ContainsFunc(groups, func(g model.Group) bool { return g.ID == o.Name }) {
				return model.Refuse("open", "there is no group %q", o.Name)
			}
		case "person":
			if _, err := room.records.Person(ctx, o.Name); err != nil {
				return model.Refuse("open", "there is no account %q", o.Name)
			}
		default:
			return model.Refuse("open", "%q is neither everyone, group nor person", o.Kind)
		}
	}
	return nil
}
