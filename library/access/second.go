package access

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"mantilla/library/acting"
	"mantilla/model"
)

// Sealer seals what nobody reads who has the records alone.
type Sealer interface {
	Seal(name, text string) ([]byte, error)
	Unseal(name string, sealed []byte) (string, error)
}

// Seals says by what secrets of second factors are sealed, before anybody is let in.
func (room *Room) Seals(by Sealer) { room.sealer = by }

// What can be wrong with the second factor when somebody signs in.
var (
	ErrCodeWanted = errors.New("the account has a second factor; give its code too")
	ErrCode       = errors.New("the code is not right, or was used already")
)

const (
	lasts      = 30 // seconds that a code lasts (RFC 6238)
	leftBehind = 10 // codes for the day that the second factor is lost
)

// NewSecond is a second factor that somebody sets up, told once.
type NewSecond struct {
	Secret string // in base 32, to be typed
	URI    string // otpauth://, to be scanned
}

func sealedAs(person string) string { return "second factor of " + person }

// BeginSecond makes a second factor for the person, which counts once a code of it was given.
func (a *Access) BeginSecond(ctx context.Context) (n NewSecond, err error) {
	if err := a.whole("setting up a second factor"); err != nil {
		return n, err
	}
	was, err := a.room.records.Second(ctx, a.person.Name)
	if err == nil && was.Confirmed {
		return n, model.Refuse("code", "there is a second factor already; take that away first")
	} else if err != nil && !errors.Is(err, model.ErrNotFound) {
		return n, err
	}
	issuer := strings.ReplaceAll(a.room.org.Name, ":", " ")
	if issuer == "" {
		issuer = "Mantilla"
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: issuer, AccountName: a.person.Name, Period: lasts})
	if err != nil {
		return n, fmt.Errorf("making a second factor: %w", err)
	}
	sealed, err := a.room.sealer.Seal(sealedAs(a.person.Name), key.Secret())
	if err != nil {
		return n, err
	}
	return NewSecond{key.Secret(), key.String()}, a.room.records.PutSecond(ctx,
		model.Second{Person: a.person.Name, Sealed: sealed}, was.Step)
}

// ConfirmSecond has the second factor count, by a code of it. It returns codes for the day that it is
// lost, each for one time.
func (a *Access) ConfirmSecond(ctx context.Context, code string) (left []string, err error) {
	x, err := a.room.records.Second(ctx, a.person.Name)
	if errors.Is(err, model.ErrNotFound) {
		return nil, model.Refuse("code", "no second factor is being set up")
	}
	if err != nil {
		return nil, err
	}
	was := x.Step
	if x.Step, err = a.room.stepOf(x, code); err != nil {
		return nil, model.Refuse("code", "%v", err)
	}
	x.Confirmed, x.Codes = true, nil
	for range leftBehind {
		one := strings.ToLower(rand.Text())[:24] // 120 bits
		left = append(left, one[:6]+"-"+one[6:12]+"-"+one[12:18]+"-"+one[18:])
		x.Codes = append(x.Codes, model.Digest(one))
	}
	acting.Changes(ctx, "", "second factor")
	if err := a.room.records.PutSecond(ctx, x, was); err != nil {
		return nil, err
	}
	a.room.tell(ctx, a.person.Name, "A second factor was set up for your account.")
	return left, nil
}

// EndSecond takes the person's second factor away, by a code of it.
func (a *Access) EndSecond(ctx context.Context, code string) error {
	if err := a.whole("taking a second factor away"); err != nil {
		return err
	}
	if err := a.room.second(ctx, a.person.Name, code); err != nil {
		return model.Refuse("code", "%v", err)
	}
	acting.Changes(ctx, "second factor", "")
	if err := a.room.records.DeleteSecond(ctx, a.person.Name); err != nil {
		return err
	}
	a.room.tell(ctx, a.person.Name, "The second factor of your account was taken away.")
	return nil
}

// ResetSecond takes the second factor and the passkeys of another account away, whose owner lost them.
func (a *Access) ResetSecond(ctx context.Context, person string) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	keys, err := a.room.records.Passkeys(ctx, person)
	if err != nil {
		return err
	}
	lost := []string{"second factor"}
	err = a.room.records.DeleteSecond(ctx, person)
	if errors.Is(err, model.ErrNotFound) {
		if lost = nil; len(keys) == 0 {
			return a.missingPerson(ctx, person, err)
		}
	} else if err != nil {
		return err
	}
	for _, k := range keys {
		lost = append(lost, "passkey "+k.Label)
	}
	acting.Changes(ctx, strings.Join(lost, ", "), "")
	if err := a.room.records.DeletePasskey(ctx, person, ""); err != nil {
		return err
	}
	a.room.tell(ctx, person, "An administrator took this of your account away: "+strings.Join(lost, ", ")+".")
	return nil
}

// second checks the code that somebody gives beside their password; none is wanted of an account
// without a second factor.
func (room *Room) second(ctx context.Context, person, code string) error {
	x, err := room.records.Second(ctx, person)
	switch {
	case errors.Is(err, model.ErrNotFound), err == nil && !x.Confirmed:
		return nil
	case err != nil:
		return err
	case code == "":
		return ErrCodeWanted
	}
	was := x.Step
	digest := model.Digest(strings.ToLower(strings.NewReplacer("-", "", " ", "").Replace(code)))
	if at := slices.Index(x.Codes, digest); at >= 0 {
		x.Codes = slices.Delete(x.Codes, at, at+1)
	} else if x.Step, err = room.stepOf(x, code); err != nil {
		return err
	}
	if err := room.records.PutSecond(ctx, x, was); errors.Is(err, model.ErrStale) {
		return ErrCode // somebody used it a moment ago
	} else if err != nil {
		return err
	}
	return nil
}

// stepOf is the step of time that a code is of: the present one or a neighbour, later than the one
// that was used last.
func (room *Room) stepOf(x model.Second, code string) (int64, error) {
	secret, err := room.sealer.Unseal(sealedAs(x.Person), x.Sealed)
	if err != nil {
		return 0, err
	}
	now := room.clock().Unix() / lasts
	for _, step := range []int64{now, now - 1, now + 1} {
		want, err := totp.GenerateCodeCustom(secret, time.Unix(step*lasts, 0),
			totp.ValidateOpts{Period: lasts, Digits: otp.DigitsSix})
		if err != nil {
			return 0, fmt.Errorf("computing the code: %w", err)
		}
		given := strings.ReplaceAll(strings.TrimSpace(code), " ", "")
		if step > x.Step && subtle.ConstantTimeCompare([]byte(given), []byte(want)) == 1 {
			return step, nil
		}
	}
	return 0, ErrCode
}

// wants tells whether somebody has to set up a second factor before they do more than read.
func (room *Room) wants(p model.Person) bool {
	role := room.trust.SecondFor
	return role != "" && ranks[p.Role] >= ranks[role] && !p.Second && p.Subject == ""
}
