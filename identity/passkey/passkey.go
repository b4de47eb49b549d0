// Package passkey makes and checks passkeys (W3C Web Authentication, level 3): keys that stay with a
// person's device or its keeper, by which they sign in without a password.
package passkey

import (
	"bytes"
	"crypto/rand"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/url"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"
)

// Door makes and checks the passkeys of one address.
type Door struct {
	authn  *webauthn.WebAuthn
	origin string
}

// Key is a passkey as it is kept.
type Key struct {
	ID   string // of the credential, in base64url
	Kept []byte // what it is checked by later, as JSON
}

// Begun is a question that was put to a browser, as JSON, and what its answer is held against.
type Begun struct {
	Challenge string
	Question  json.RawMessage
	against   webauthn.SessionData
}

// What can be wrong with an answer.
var (
	ErrWrong  = errors.New("the passkey is not one that is known here, or its answer is not right")
	ErrCopied = errors.New("the passkey counts backwards, as one does that was copied; make another, and delete this one")
)

// New makes the door of a service at an address. A passkey is bound to a host name, so that where the
// address is a loopback one, it is that of localhost; no other address without a name has any.
func New(organisation, address string) (*Door, error) {
	at, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("the address %q: %w", address, err)
	}
	host := at.Hostname()
	if ip := net.ParseIP(host); ip != nil {
		if !ip.IsLoopback() {
			return nil, fmt.Errorf("passkeys are bound to a name, and %s is none", host)
		}
		host, at.Host = "localhost", net.JoinHostPort("localhost", at.Port())
	}
	d := &Door{origin: at.Scheme + "://" + at.Host}
	if organisation == "" {
		organisation = "Mantilla"
	}
	d.authn, err = webauthn.New(&webauthn.Config{RPID: host, RPDisplayName: organisation, RPOrigins: []string{d.origin},
		AuthenticatorSelection: protocol.AuthenticatorSelection{ResidentKey: protocol.ResidentKeyRequirementRequired,
			UserVerification: protocol.VerificationRequired}})
	if err != nil {
		return nil, fmt.Errorf("passkeys of %s: %w", d.origin, err)
	}
	return d, nil
}

// Origin is where the console has to be open for a passkey to be used.
func (d *Door) Origin() string { return d.origin }

// kept is what a key is checked by.
type kept struct {
	Handle     []byte // by which the device knows whose it is; random, so that it tells nothing
	Credential webauthn.Credential
}

// holder is somebody with their passkeys, as the protocol knows them.
type holder struct {
	handle      []byte
	name, title string
	keys        []webauthn.Credential
}

func (h *holder) WebAuthnID() []byte                         { return h.handle }
func (h *holder) WebAuthnName() string                       { return h.name }
func (h *holder) WebAuthnDisplayName() string                { return h.title }
func (h *holder) WebAuthnCredentials() []webauthn.Credential { return h.keys }

// of reads the keys of somebody; who has none yet gets a new handle.
func of(name, title string, keys []Key) (*holder, error) {
	h := &holder{name: name, title: title}
	for _, k := range keys {
		var x kept
		if err := json.Unmarshal(k.Kept, &x); err != nil {
			return nil, fmt.Errorf("the passkey %s: %w", k.ID, err)
		}
		h.handle, h.keys = x.Handle, append(h.keys, x.Credential)
	}
	if h.handle == nil {
		h.handle = make([]byte, 32)
		rand.Read(h.handle)
	}
	return h, nil
}

func begun(question any, against *webauthn.SessionData) (Begun, error) {
	text, err := json.Marshal(question)
	return Begun{against.Challenge, text, *against}, err
}

// BeginNew asks somebody's browser for another passkey of theirs.
func (d *Door) BeginNew(name, title string, has []Key) (Begun, error) {
	h, err := of(name, title, has)
	if err != nil {
		return Begun{}, err
	}
	question, against, err := d.authn.BeginRegistration(h,
		webauthn.WithExclusions(webauthn.Credentials(h.keys).CredentialDescriptors()))
	if err != nil {
		return Begun{}, fmt.Errorf("asking for a passkey: %w", err)
	}
	return begun(question.Response, against)
}

// FinishNew checks the passkey that a browser answers with.
func (d *Door) FinishNew(b Begun, name string, answer []byte) (Key, error) {
	parsed, err := protocol.ParseCredentialCreationResponseBody(bytes.NewReader(answer))
	if err != nil {
		return Key{}, fmt.Errorf("%w: %w", ErrWrong, err)
	}
	c, err := d.authn.CreateCredential(&holder{handle: b.against.UserID, name: name}, b.against, parsed)
	if err != nil {
		return Key{}, fmt.Errorf("%w: %w", ErrWrong, err)
	}
	return keep(b.against.UserID, c)
}

func keep(handle []byte, c *webauthn.Credential) (Key, error) {
	text, err := json.Marshal(kept{handle, *c})
	return Key{base64.RawURLEncoding.EncodeToString(c.ID), text}, err
}

// Begin asks a browser for whatever passkey it has for this service.
func (d *Door) Begin() (Begun, error) {
	question, against, err := d.authn.BeginDiscoverableLogin()
	if err != nil {
		return Begun{}, fmt.Errorf("asking for a passkey: %w", err)
	}
	return begun(question.Response, against)
}

// ChallengeOf is which question an answer is to.
func ChallengeOf(answer []byte) (string, error) {
	var said struct {
		Response struct {
			ClientData protocol.URLEncodedBase64 `json:"clientDataJSON"`
		} `json:"response"`
	}
	var client protocol.CollectedClientData
	err := json.Unmarshal(answer, &said)
	if err == nil {
		err = json.Unmarshal(said.Response.ClientData, &client)
	}
	if err != nil {
		return "", fmt.Errorf("%w: %w", ErrWrong, err)
	}
	return client.Challenge, nil
}

// Finish checks an answer by the key that find has of an id, and returns the key as it is to be kept from
// then on.
func (d *Door) Finish(b Begun, answer []byte, find func(id string) (Key, error)) (used Key, err error) {
	parsed, err := protocol.ParseCredentialRequestResponseBody(bytes.NewReader(answer))
	if err != nil {
		return used, fmt.Errorf("%w: %w", ErrWrong, err)
	}
	var found error
	var h *holder
	whose := func(id, _ []byte) (webauthn.User, error) {
		var k Key
		if k, found = find(base64.RawURLEncoding.EncodeToString(id)); found == nil {
			h, found = of("", "", []Key{k})
		}
		return h, found
	}
	_, c, err := d.authn.ValidatePasskeyLogin(whose, b.against, parsed)
	switch {
	case found != nil:
		return used, found
	case err != nil:
		return used, fmt.Errorf("%w: %w", ErrWrong, err)
	case c.Authenticator.CloneWarning:
		return used, ErrCopied
	}
	return keep(h.handle, c)
}
