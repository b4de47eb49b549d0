package drafting

import (
	"context"

	"mantilla/library/notices"
)

// tell tells people what the person did.
func (a *Access) tell(ctx context.Context, names []string, about, place, says string, args ...any) error {
	return a.room.notices.Tell(ctx, a.Person().Name, names, notices.Subject{About: about, Place: place}, says, args...)
}
