package access

import "context"

// Tells has people told of what changes about how they are let in, on their desk and by mail. It is said
// before anybody is let in.
func (room *Room) Tells(owner func(ctx context.Context, person, says string) error) {
	room.tells = owner
}

// tell tells the owner of an account. What was done is done, whether or not they can be told.
func (room *Room) tell(ctx context.Context, person, says string) {
	if room.tells == nil {
		return
	}
	if err := room.tells(ctx, person, says+" If you do not know of this, tell an administrator at once."); err != nil {
		room.log.WarnContext(ctx, "the owner of an account could not be told", "name", person, "error", err)
	}
}
