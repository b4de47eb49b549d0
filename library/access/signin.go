package access

import (
	"context"
	"errors"
	"fmt"
	"time"

	"golang.org/x/crypto/bcrypt"

	"mantilla/model"
)

// How signing in is guarded.
const (
	browserLasts   = 12 * time.Hour
	tokenLasts     = 90 * 24 * time.Hour
	leastPassword  = 12
	longestForHash = 72 // bytes that bcrypt looks at
	leastScore     = 3  // of 4, by zxcvbn: 10^8 guesses, with the passwords that are tried first known to it
)

// What can be wrong when somebody signs in.
var (
	ErrNotSignedIn = errors.New("sign in first")
	ErrSignIn      = errors.New("the name or the password is not right")
)

// nobody is compared with when there is no such account, so that the answer
// takes as long.
var nobody, _ = bcrypt.GenerateFromPassword([]byte("nobody"), bcrypt.DefaultCost)

// Knock says who tries to sign in, with what, and from where.
type Knock struct {
	Name, Password string
	Code           string // of the second factor, where there is one
	Kind           string // browser, or token for a command line
	Label          string // of a token
	Address        string // of the machine that asks
}

// Waits says that somebody has to wait before signing in is tried again.
type Waits struct{ For time.Duration }

func (w *Waits) Error() string {
	return fmt.Sprintf("signing in failed too often; try again in %s", w.For.Round(time.Second)+time.Second)
}

// SignIn checks a password and returns a secret that stands for the person
// from then on: for a browser, or for a token that a command line keeps. After
// some failures it fails with [*Waits]; see [doors]. Whether there is an account
// of the name is not told, neither by the answer nor by the time it takes.
func (room *Room) SignIn(ctx context.Context, k Knock) (secret string, p model.Person, ends time.Time, err error) {
	now := room.org.Now()
	if wait := room.doors.wait(k.Name, k.Address, now); wait > 0 {
		return "", p, ends, &Waits{wait}
	}
	if accountName.MatchString(k.Name) {
		p, err = room.records.Person(ctx, k.Name)
	} else {
		err = model.ErrNotFound
	}
	if err != nil && !errors.Is(err, model.ErrNotFound) {
		return "", p, ends, err
	}
	known := err == nil && !p.Closed && p.Owner == "" && room.byPassword(k.Name)
	hash := nobody
	if known {
		hash = []byte(p.Password)
	}
	password := k.Password
	if len(password) > longestForHash {
		known, password = false, password[:longestForHash] // no account has such
	}
	good := bcrypt.CompareHashAndPassword(hash, []byte(password)) == nil && known
	if good {
		switch err := room.second(ctx, p.Name, k.Code); {
		case errors.Is(err, ErrCodeWanted):
			return "", model.Person{}, ends, err // neither a failure nor a success
		case errors.Is(err, ErrCode):
			room.doors.tried(k.Name, k.Address, false, now)
			return "", model.Person{}, ends, err
		case err != nil:
			return "", model.Person{}, ends, err
		}
	}
	room.doors.tried(k.Name, k.Address, good, now)
	if !good {
		room.log.WarnContext(ctx, "signing in failed", "name", fmt.Sprintf("%.40q", k.Name), "from", k.Address)
		return "", model.Person{}, ends, ErrSignIn
	}
	lasts := browserLasts
	if k.Kind == "token" {
		lasts = tokenLasts
	}
	secret, ends = model.NewSecret(), now.Add(lasts)
	err = room.records.AddSession(ctx,
		model.Session{Digest: model.Digest(secret), Person: p.Name, Kind: k.Kind, Label: k.Label, MadeAt: now, EndsAt: ends})
	return secret, p, ends, err
}

// WhoHas returns the library as the person whose secret it is.
func (room *Room) WhoHas(ctx context.Context, secret string) (*Access, error) {
	now := room.org.Now()
	p, s, err := room.records.SessionPerson(ctx, model.Digest(secret), now)
	if errors.Is(err, model.ErrNotFound) {
		return nil, ErrNotSignedIn
	}
	if err != nil {
		return nil, err
	}
	if now.Sub(s.LastAt).Abs() > usedAgain {
		room.noteUse(ctx, s.Digest, now)
	}
	a, err := room.answered(ctx, room.capped(p, s))
	var nobody *Unanswered
	if errors.As(err, &nobody) {
		return nil, ErrNotSignedIn
	}
	return a, err
}

// longestNote is how long who reads may wait for who writes, to note that they came.
const longestNote = 50 * time.Millisecond

// noteUse notes that a session was used, unless somebody writes for long: then the next use is noted.
func (room *Room) noteUse(ctx context.Context, digest string, at time.Time) {
	ctx, cancel := context.WithTimeout(ctx, longestNote)
	defer cancel()
	if err := room.records.SessionUsed(ctx, digest, at); err != nil && ctx.Err() == nil { // as on a disk that is full
		room.log.WarnContext(ctx, "the use of a session is not noted", "error", err)
	}
}

// Door is what somebody may do who is not known yet.
type Door interface {
	SignIn(ctx context.Context, k Knock) (secret string, p model.Person, ends time.Time, err error)
	SignInAs(ctx context.Context, who Introduced) (secret string, p model.Person, ends time.Time, err error)
	PasskeysAt() string
	AskPasskey(ctx context.Context) (question []byte, err error)
	SignInByPasskey(ctx context.Context, answer []byte) (secret string, p model.Person, ends time.Time, err error)
	SignOut(ctx context.Context, secret string) error
	FirstAdministrator(ctx context.Context) (name, password string, err error)
}

// SignOut makes a secret worthless.
func (room *Room) SignOut(ctx context.Context, secret string) error {
	return room.records.EndSession(ctx, model.Digest(secret))
}
