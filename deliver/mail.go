// Package deliver carries what is taken away to people and programs: as mail by
// SMTP, into a folder, and to an address on the web. It knows nothing of
// results, and it does not wait or try again; the library's queue does.
package deliver

import (
	"bytes"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	netmail "net/mail"
	"net/textproto"
	"strings"
	"time"
	"unicode"

	"github.com/wneessen/go-mail"
	"github.com/wneessen/go-mail/smtp"
)

// Server is a mail server as RFC 5321 has them.
type Server struct {
	Address  string // host:port; "" when there is none
	From     string // that messages are sent from: Reports <reports@example.org>
	User     string
	Password string
	TLS      string // none, starttls or tls
}

// Attachment is a file of a message.
type Attachment struct {
	Name string
	Type string // of media
	Data []byte
}

// Person is a mail address with a name.
type Person struct{ Name, Address string }

// written quotes the name as RFC 5322 has it, whatever it holds.
func (p Person) written() string {
	name := strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, p.Name)
	return (&netmail.Address{Name: name, Address: p.Address}).String()
}

// Message is what a mail says. Blind recipients do not stand in it.
type Message struct {
	ID      string // such as 12.3@mantilla; the same whenever it is sent
	From    string
	To, Cc  []Person
	Subject string
	Text    string
	HTML    string // shown instead of the text where it is not empty
	Date    time.Time
	Files   []Attachment
}

// Compose writes a message as RFC 5322 and MIME have it.
func Compose(m Message) ([]byte, error) {
	out := mail.NewMsg()
	if err := out.From(m.From); err != nil {
		return nil, fmt.Errorf("the sender %q: %w", m.From, err)
	}
	for _, p := range m.To {
		if err := out.AddTo(p.written()); err != nil {
			return nil, fmt.Errorf("the recipient %q: %w", p.Address, err)
		}
	}
	for _, p := range m.Cc {
		if err := out.AddCc(p.written()); err != nil {
			return nil, fmt.Errorf("the recipient %q: %w", p.Address, err)
		}
	}
	if len(m.To)+len(m.Cc) == 0 { // RFC 5322 wants no more, readers want a line
		out.SetGenHeader("To", "undisclosed-recipients:;")
	}
	out.Subject(m.Subject)
	out.SetMessageIDWithValue(m.ID)
	out.SetDateWithValue(m.Date)
	out.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834: nobody's absence is to be told
	out.SetBodyString(mail.TypeTextPlain, m.Text)
	if m.HTML != "" {
		out.AddAlternativeString(mail.TypeTextHTML, m.HTML)
	}
	for _, f := range m.Files {
		if err := out.AttachReader(f.Name, bytes.NewReader(f.Data),
			mail.WithFileContentType(mail.ContentType(f.Type))); err != nil {
			return nil, fmt.Errorf("the file %s: %w", f.Name, err)
		}
	}
	var b bytes.Buffer
	if _, err := out.WriteTo(&b); err != nil {
		return nil, fmt.Errorf("writing the message: %w", err)
	}
	return b.Bytes(), nil
}

// Outcome is what became of one recipient.
type Outcome struct {
	Address string
	Sent    bool
	Final   bool   // refused, and asking again would not help
	Answer  string // of the server
}

// ErrNoServer says that mail cannot be sent.
var ErrNoServer = errors.New("the service has no mail server; an administrator sets one with --smtp")

// patience bounds a conversation with a server.
const patience = time.Minute

// Send hands a message to the server for the recipients and returns what it
// said of each. The error is of the conversation as a whole: nothing is known
// of any recipient then, and the message may be sent again, with the same id.
func Send(ctx context.Context, s Server, recipients []string, message []byte) ([]Outcome, error) {
	if s.Address == "" {
		return nil, ErrNoServer
	}
	ctx, end := context.WithCancel(ctx)
	defer end()
	client, err := s.dial(ctx)
	if err != nil {
		return nil, fmt.Errorf("the mail server %s: %w", s.Address, err)
	}
	defer client.Close()
	from, err := sender(s.From)
	if err != nil {
		return nil, err
	}
	if err := client.Mail(from); err != nil {
		return nil, fmt.Errorf("the mail server refuses the sender: %w", err)
	}
	outcomes := make([]Outcome, len(recipients))
	taken := 0
	for i, r := range recipients {
		outcomes[i] = Outcome{Address: r, Sent: true, Answer: "taken"}
		if err := client.Rcpt("<" + r + ">"); err != nil { // paths stand in angle brackets (RFC 5321, 4.1.1.2)
			outcomes[i] = refusal(r, err)
			continue
		}
		taken++
	}
	if taken == 0 {
		return outcomes, nil
	}
	if err := write(client, message); err != nil {
		for i := range outcomes {
			if outcomes[i].Sent {
				outcomes[i] = refusal(outcomes[i].Address, err)
			}
		}
		return outcomes, nil
	}
	_ = client.Quit() // the server has the message
	return outcomes, nil
}

func write(client *smtp.Client, message []byte) error {
	w, err := client.Data()
	if err != nil {
		return err
	}
	if _, err := w.Write(message); err != nil {
		return err
	}
	return w.Close()
}

// refusal is what an error says of a recipient: codes from 500 on are final
// (RFC 5321, 4.2.1).
func refusal(address string, err error) Outcome {
	var said *textproto.Error
	final := errors.As(err, &said) && said.Code >= 500
	return Outcome{Address: address, Final: final, Answer: err.Error()}
}

func sender(from string) (string, error) {
	m := mail.NewMsg()
	if err := m.From(from); err != nil {
		return "", fmt.Errorf("the sender %q: %w", from, err)
	}
	return m.GetSender(false)
}

func (s Server) dial(ctx context.Context) (*smtp.Client, error) {
	host, _, err := net.SplitHostPort(s.Address)
	if err != nil {
		return nil, err
	}
	dialer := net.Dialer{Timeout: 10 * time.Second}
	conn, err := dialer.DialContext(ctx, "tcp", s.Address)
	if err != nil {
		return nil, err
	}
	_ = conn.SetDeadline(time.Now().Add(patience))
	raw := conn
	context.AfterFunc(ctx, func() { raw.Close() }) // a service that ends does not wait for the server
	if s.TLS == "tls" {
		conn = tls.Client(conn, &tls.Config{ServerName: host, MinVersion: tls.VersionTLS12})
	}
	client, err := smtp.NewClient(conn, host)
	if err != nil {
		return nil, errors.Join(err, conn.Close())
	}
	if s.TLS == "starttls" {
		err = client.StartTLS(&tls.Config{ServerName: host, MinVersion: tls.VersionTLS12})
	}
	if err == nil && s.User != "" {
		err = client.Auth(smtp.PlainAuth("", s.User, s.Password, host, false))
	}
	if err != nil {
		return nil, errors.Join(err, client.Close())
	}
	return client, nil
}
