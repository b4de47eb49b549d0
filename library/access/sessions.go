package access

import (
	"context"
	"fmt"
	"time"

	"mantilla/model"
)

// Session is a browser or command line that is signed in.
type Session struct {
	ID          string
	Kind, Label string
	Made, Ends  time.Time
	As          model.Role // what it does at most; "" for what its owner may
	Last        time.Time
	Present     bool // it is the one that asks
}

// shortID is how much of a session's digest names it.
const shortID = 16

// Sessions lists what is signed in: of the person, or of another for
// administrators. Secret is that of who asks.
func (a *Access) Sessions(ctx context.Context, person, secret string) (out []Session, err error) {
	if person, err = a.whoseSessions(ctx, person); err != nil {
		return nil, err
	}
	all, err := a.room.records.Sessions(ctx, person, a.room.org.Now())
	for _, s := range all {
		out = append(out, Session{s.Digest[:shortID], s.Kind, s.Label, s.MadeAt, s.EndsAt, s.As, s.LastAt,
			s.Digest == model.Digest(secret)})
	}
	return out, err
}

// whoseSessions is whose sessions are meant: one's own, and those of others for who keeps accounts or
// answers for theirs.
func (a *Access) whoseSessions(ctx context.Context, person string) (string, error) {
	switch {
	case person == "" || person == a.person.Name:
		return a.person.Name, nil
	case a.answersFor(ctx, person):
		return person, nil
	}
	return person, a.May(KeepPeople)
}

// EndSession signs a browser or command line out.
func (a *Access) EndSession(ctx context.Context, person, id string) error {
	if err := a.whole("ending sessions"); err != nil {
		return err
	}
	person, err := a.whoseSessions(ctx, person)
	if err != nil {
		return err
	}
	all, err := a.room.records.Sessions(ctx, person, a.room.org.Now())
	if err != nil {
		return err
	}
	for _, s := range all {
		if s.Digest[:shortID] == id {
			return a.room.records.EndSession(ctx, s.Digest)
		}
	}
	return fmt.Errorf("session %s: %w", id, model.ErrNotFound)
}
