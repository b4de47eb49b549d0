package access

import (
	"context"
	"errors"
	"strings"
	"sync"
	"time"

	"mantilla/identity/passkey"
	"mantilla/library/acting"
	"mantilla/model"
)

// Unlocks says what makes and checks passkeys, before anybody is let in; nil where there are none.
func (room *Room) Unlocks(by *passkey.Door) { room.keys = by }

// PasskeysAt is where the console has to be open for passkeys to be used; "" where there are none.
func (room *Room) PasskeysAt() string {
	if room.keys == nil {
		return ""
	}
	return room.keys.Origin()
}

// errNoPasskeys says that the service has no address that passkeys could be bound to.
var errNoPasskeys = model.Refuse("passkey", "this service has no passkeys: they need an address with a name "+
	"(--public-address)")

// questions are what browsers were asked and have not answered, by their challenges.
type questions struct {
	mu  sync.Mutex
	all map[string]question
}

type question struct {
	passkey.Begun
	person string // who is to get a passkey; "" for signing in
	at     time.Time
}

// How long an answer may take, and how many may be due.
const (
	longestAnswer = 5 * time.Minute
	mostAsked     = 10_000
)

func newQuestions() *questions { return &questions{all: map[string]question{}} }

func (q *questions) add(b passkey.Begun, person string, now time.Time) {
	q.mu.Lock()
	defer q.mu.Unlock()
	for challenge, other := range q.all {
		if now.Sub(other.at) > longestAnswer || len(q.all) >= mostAsked {
			delete(q.all, challenge)
		}
	}
	q.all[b.Challenge] = question{b, person, now}
}

// take returns what an answer is to, once.
func (q *questions) take(answer []byte, person string, now time.Time) (b passkey.Begun, err error) {
	challenge, err := passkey.ChallengeOf(answer)
	if err != nil {
		return b, model.Refuse("answer", "it is none of a passkey, as PublicKeyCredential.toJSON writes it")
	}
	q.mu.Lock()
	defer q.mu.Unlock()
	asked, ok := q.all[challenge]
	delete(q.all, challenge)
	if !ok || asked.person != person || now.Sub(asked.at) > longestAnswer {
		return b, model.Refuse("answer", "it was not asked for here, or too long ago; begin again")
	}
	return asked.Begun, nil
}

// AskPasskey is the question for whatever passkey a browser has, for the options of
// navigator.credentials.get.
func (room *Room) AskPasskey(context.Context) ([]byte, error) {
	if room.keys == nil {
		return nil, errNoPasskeys
	}
	b, err := room.keys.Begin()
	if err == nil {
		room.asked.add(b, "", room.clock())
	}
	return b.Question, err
}

// SignInByPasskey checks the answer of a passkey, which its owner unlocked, so that no other factor is
// asked for.
func (room *Room) SignInByPasskey(ctx context.Context, answer []byte) (secret string, p model.Person, ends time.Time,
	err error) {
	if room.keys == nil {
		return "", p, ends, errNoPasskeys
	}
	begun, err := room.asked.take(answer, "", room.clock())
	if err != nil {
		return "", p, ends, err
	}
	var k model.Passkey
	used, err := room.keys.Finish(begun, answer, func(id string) (passkey.Key, error) {
		if k, err = room.records.Passkey(ctx, id); err == nil {
			acting.By(ctx, k.Person)
		} else if errors.Is(err, model.ErrNotFound) {
			err = passkey.ErrWrong
		}
		return passkey.Key{ID: k.ID, Kept: k.Credential}, err
	})
	if err == nil {
		p, err = room.records.Person(ctx, k.Person)
	}
	if err == nil && (p.Closed || !room.byPassword(p.Name)) {
		err = passkey.ErrWrong
	}
	if err != nil {
		room.log.WarnContext(ctx, "signing in by a passkey failed", "name", k.Person, "error", err)
		if errors.Is(err, passkey.ErrWrong) {
			err = passkey.ErrWrong // without what would help who guesses
		}
		return "", model.Person{}, ends, err
	}
	now, was := room.org.Now(), k.Credential
	k.Credential, k.LastAt = used.Kept, now
	if err := room.records.UsedPasskey(ctx, k, was); err != nil {
		return "", model.Person{}, ends, err
	}
	secret, ends = model.NewSecret(), now.Add(browserLasts)
	return secret, p, ends, room.records.AddSession(ctx, model.Session{Digest: model.Digest(secret), Person: p.Name,
		Kind: "browser", Label: "passkey " + k.Label, MadeAt: now, EndsAt: ends, Strong: true})
}

// BeginPasskey is the question for another passkey of the person, for the options of
// navigator.credentials.create.
func (a *Access) BeginPasskey(ctx context.Context) ([]byte, error) {
	if err := a.whole("making passkeys"); err != nil {
		return nil, err
	}
	switch {
	case a.room.keys == nil:
		return nil, errNoPasskeys
	case a.person.Owner != "":
		return nil, model.Forbid("a service account signs in by tokens alone")
	case !a.room.byPassword(a.person.Name):
		return nil, model.Forbid("you sign in by the provider; make a passkey there")
	}
	all, err := a.room.records.Passkeys(ctx, a.person.Name)
	if err != nil {
		return nil, err
	}
	var has []passkey.Key
	for _, k := range all {
		has = append(has, passkey.Key{ID: k.ID, Kept: k.Credential})
	}
	b, err := a.room.keys.BeginNew(a.person.Name, a.person.Title, has)
	if err == nil {
		a.room.asked.add(b, a.person.Name, a.room.clock())
	}
	return b.Question, err
}

// AddPasskey keeps the passkey that the person's browser answers with.
func (a *Access) AddPasskey(ctx context.Context, label string, answer []byte) error {
	if err := a.whole("making passkeys"); err != nil {
		return err
	}
	if a.room.keys == nil {
		return errNoPasskeys
	}
	if label = strings.TrimSpace(label); label == "" {
		return model.Refuse("label", "say what the passkey is on, such as my laptop")
	}
	begun, err := a.room.asked.take(answer, a.person.Name, a.room.clock())
	if err != nil {
		return err
	}
	k, err := a.room.keys.FinishNew(begun, a.person.Name, answer)
	if err != nil {
		return model.Refuse("answer", "%v", err)
	}
	acting.On(ctx, "person", a.person.Name)
	acting.Changes(ctx, "", "passkey "+label)
	err = a.room.records.AddPasskey(ctx, model.Passkey{ID: k.ID, Person: a.person.Name, Label: label, Credential: k.Kept,
		MadeAt: a.room.org.Now()})
	if err == nil {
		a.room.tell(ctx, a.person.Name, "The passkey “"+label+"” was made for your account.")
	}
	return err
}

// Passkeys are those of the person.
func (a *Access) Passkeys(ctx context.Context) ([]model.Passkey, error) {
	return a.room.records.Passkeys(ctx, a.person.Name)
}

// DeletePasskey makes a passkey of the person worthless.
func (a *Access) DeletePasskey(ctx context.Context, id string) error {
	if err := a.whole("deleting passkeys"); err != nil {
		return err
	}
	all, err := a.room.records.Passkeys(ctx, a.person.Name)
	if err != nil {
		return err
	}
	for _, k := range all {
		if k.ID == id {
			acting.On(ctx, "person", a.person.Name)
			acting.Changes(ctx, "passkey "+k.Label, "")
			a.room.tell(ctx, a.person.Name, "The passkey “"+k.Label+"” of your account was deleted.")
			return a.room.records.DeletePasskey(ctx, a.person.Name, id)
		}
	}
	return model.NoSuch("passkey", id, nil)
}
