package drafting

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"mantilla/library/access"
	"mantilla/model"
)

// mostNotices is how many notices a desk shows.
const mostNotices = 100

// Notices are what the person is told, the newest first.
func (a *Access) Notices(ctx context.Context) ([]model.Notice, error) {
	return a.room.records.Notices(ctx, a.Person().Name, mostNotices)
}

// PutAway forgets a notice of the person.
func (a *Access) PutAway(ctx context.Context, number int64) error {
	err := a.room.records.DeleteNotice(ctx, a.Person().Name, number)
	if errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("notice", fmt.Sprint(number), nil)
	}
	return err
}

// tell leaves a notice on the desks of people, but not on the person's own.
func (a *Access) tell(ctx context.Context, names []string, about, place, says string, args ...any) error {
	slices.Sort(names)
	var all []model.Notice
	for _, name := range slices.Compact(names) {
		if name != a.Person().Name && name != access.ServiceName && name != "" {
			all = append(all, model.Notice{Person: name, At: a.room.org.Now(), About: about, Place: place,
				Says: fmt.Sprintf(says, args...)})
		}
	}
	return a.room.records.AddNotices(ctx, all)
}
