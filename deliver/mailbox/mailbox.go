// Package mailbox is a stand-in for a mail server: it takes messages by SMTP
// and keeps them to be looked at, and sends nothing on. A message that comes
// again, by its id, for a recipient who has it is not kept twice, as careful
// servers do.
package mailbox

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/mail"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Letter is one message as one recipient got it.
type Letter struct {
	ID        string    `json:"id"`
	Recipient string    `json:"recipient"`
	MessageID string    `json:"message_id"`
	From      string    `json:"from"`
	Subject   string    `json:"subject"`
	At        time.Time `json:"at"`
	Bytes     int       `json:"bytes"`
}

// Box keeps letters in a directory, the message beside what is known of it.
type Box struct {
	dir    string
	now    func() time.Time
	server *smtp.Server
	listen net.Listener

	mu      sync.Mutex
	letters map[string]Letter // by id
	refuse  map[string]int    // recipients that are refused, with the code
	again   int               // how many came again
}

// Open opens the box and begins to listen; port 0 takes any.
func Open(dir, address string, now func() time.Time) (*Box, error) {
	b := &Box{dir: dir, now: now, letters: map[string]Letter{}, refuse: map[string]int{}}
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return nil, fmt.Errorf("making the mailbox: %w", err)
	}
	known, err := filepath.Glob(filepath.Join(dir, "*.json"))
	if err != nil {
		return nil, err
	}
	for _, path := range known {
		text, err := os.ReadFile(path)
		var l Letter
		if err == nil {
			err = json.Unmarshal(text, &l)
		}
		if err != nil {
			return nil, fmt.Errorf("reading the mailbox: %s: %w", path, err)
		}
		b.letters[l.ID] = l
	}
	if b.listen, err = net.Listen("tcp", address); err != nil {
		return nil, fmt.Errorf("the stand-in mail server: %w", err)
	}
	b.server = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{box: b}, nil }))
	b.server.Domain = "localhost"
	b.server.MaxMessageBytes = 64 << 20
	b.server.ReadTimeout, b.server.WriteTimeout = time.Minute, time.Minute
	go b.server.Serve(b.listen) //nolint:errcheck // it ends with Close
	return b, nil
}

// Address is where the box listens.
func (b *Box) Address() string { return b.listen.Addr().String() }

// Close ends listening.
func (b *Box) Close() error { return b.server.Close() }

// Refuse makes the box refuse a recipient with a code of RFC 5321; 0 takes
// letters again.
func (b *Box) Refuse(recipient string, code int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.refuse[recipient] = code
}

// Again returns how many letters came that were there already.
func (b *Box) Again() int {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.again
}

// Letters returns what recipients got, the newest first.
func (b *Box) Letters() []Letter {
	b.mu.Lock()
	defer b.mu.Unlock()
	out := make([]Letter, 0, len(b.letters))
	for _, l := range b.letters {
		out = append(out, l)
	}
	slices.SortFunc(out, func(x, y Letter) int { return cmp.Or(y.At.Compare(x.At), cmp.Compare(x.ID, y.ID)) })
	return out
}

// Message returns a letter with the message as it came.
func (b *Box) Message(id string) (Letter, []byte, error) {
	b.mu.Lock()
	l, ok := b.letters[id]
	b.mu.Unlock()
	if !ok {
		return l, nil, os.ErrNotExist
	}
	text, err := os.ReadFile(filepath.Join(b.dir, l.ID+".eml"))
	return l, text, err
}

// keep keeps a message for a recipient, once.
func (b *Box) keep(from, recipient string, text []byte) error {
	l := Letter{Recipient: recipient, From: from, At: b.now(), Bytes: len(text)}
	if m, err := mail.ReadMessage(bytes.NewReader(text)); err == nil {
		l.MessageID = m.Header.Get("Message-ID")
		l.Subject = decoded(m.Header.Get("Subject"))
		l.From = cmp.Or(decoded(m.Header.Get("From")), from)
	}
	sum := sha256.Sum256([]byte(cmp.Or(l.MessageID, string(text)) + "\x00" + strings.ToLower(recipient)))
	l.ID = hex.EncodeToString(sum[:8])
	b.mu.Lock()
	defer b.mu.Unlock()
	if _, known := b.letters[l.ID]; known {
		b.again++
		return nil
	}
	about, err := json.Marshal(l)
	if err == nil {
		err = os.WriteFile(filepath.Join(b.dir, l.ID+".eml"), text, 0o640)
	}
	if err == nil {
		err = os.WriteFile(filepath.Join(b.dir, l.ID+".json"), about, 0o640)
	}
	if err != nil {
		return err
	}
	b.letters[l.ID] = l
	return nil
}

// session is one conversation.
type session struct {
	box        *Box
	from       string
	recipients []string
}

func (s *session) Mail(from string, _ *smtp.MailOptions) error { s.from = from; return nil }

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.box.mu.Lock()
	code := s.box.refuse[to]
	s.box.mu.Unlock()
	if code > 0 {
		return &smtp.SMTPError{Code: code, EnhancedCode: smtp.EnhancedCode{code / 100, 1, 1}, Message: "no mail for " + to}
	}
	s.recipients = append(s.recipients, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	text, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	var errs []error
	for _, to := range s.recipients {
		errs = append(errs, s.box.keep(s.from, to, text))
	}
	return errors.Join(errs...)
}

func (s *session) Reset() { s.from, s.recipients = "", nil }

func (s *session) Logout() error { return nil }
