// Package acting is what a context knows of the act that goes on in it: by which face it is done,
// and what it was done to. Rooms say what they change; the audit keeps it.
package acting

import (
	"context"
	"sync"
)

// Act is something that is being done. It is safe for several goroutines.
type Act struct {
	Face, Address, Request string

	mu            sync.Mutex
	person        string
	kind, id      string
	before, after string
	refused       string // why, though the call was answered
}

type key struct{}

// With is a context in which an act goes on.
func With(ctx context.Context, a *Act) context.Context { return context.WithValue(ctx, key{}, a) }

// Of is the act that goes on in a context: the service's own where nothing else is known.
func Of(ctx context.Context) *Act {
	if a, ok := ctx.Value(key{}).(*Act); ok {
		return a
	}
	return &Act{Face: "service"}
}

// By says who acts, where nobody is signed in yet.
func By(ctx context.Context, person string) { Of(ctx).note(func(a *Act) { a.person = person }) }

// On says what is acted on, where the call does not say it.
func On(ctx context.Context, kind, id string) { Of(ctx).note(func(a *Act) { a.kind, a.id = kind, id }) }

// Changes says what was before and what is after; "" for nothing.
func Changes(ctx context.Context, before, after string) {
	if before != after {
		Of(ctx).note(func(a *Act) { a.before, a.after = before, after })
	}
}

// Refuses says that the act was not done, though the call is answered.
func Refuses(ctx context.Context, why string) { Of(ctx).note(func(a *Act) { a.refused = why }) }

// Refused is why the act was not done; "" where it was.
func (a *Act) Refused() string {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.refused
}

func (a *Act) note(set func(a *Act)) {
	a.mu.Lock()
	defer a.mu.Unlock()
	set(a)
}

// Said is what was said of the act: who did it, on what, and what it changed.
func (a *Act) Said() (person, kind, id, before, after string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.person, a.kind, a.id, a.before, a.after
}

// Done is what the audit is told of an act, beside what is said in its context.
type Done struct {
	Person, Act, Kind, ID, Part string
	Outcome, Why                string // the outcome is done where it is silent
	Reading                     bool   // of rows, which is noted once in a while
}
