package audit

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"encoding/json"
	"fmt"
	"net"
	"net/url"
	"os"
	"time"

	"github.com/crewjam/rfc5424"

	"mantilla/core/audit"
	"mantilla/library/background"
)

// How lines are sent on, as RFC 5424 numbers them: those of a log audit, at the level notice.
const (
	facilityAudit = rfc5424.Priority(13 << 3)
	longestSend   = 10 * time.Second
)

// collector is where lines are sent.
type collector struct {
	network, address string
	speaks           *tls.Config // nil for none
}

// parsed reads where lines are sent on.
func parsed(s Settings) (*collector, error) {
	at, err := url.Parse(s.Syslog)
	if err != nil || at.Hostname() == "" {
		return nil, fmt.Errorf("audit-syslog: %q is no address such as tls://logs.example.org:6514", s.Syslog)
	}
	c := &collector{network: at.Scheme}
	port := at.Port()
	switch at.Scheme {
	case "udp", "tcp":
		if port == "" {
			port = "514"
		}
	case "tls":
		c.network, c.speaks = "tcp", &tls.Config{ServerName: at.Hostname(), MinVersion: tls.VersionTLS12}
		if port == "" {
			port = "6514"
		}
	default:
		return nil, fmt.Errorf("audit-syslog: %q is sent by %q; use udp://, tcp:// or tls://", s.Syslog, at.Scheme)
	}
	if s.CA != "" && c.speaks != nil {
		text, err := os.ReadFile(s.CA)
		if err != nil {
			return nil, fmt.Errorf("audit-syslog-ca: %w", err)
		}
		c.speaks.RootCAs = x509.NewCertPool()
		if !c.speaks.RootCAs.AppendCertsFromPEM(text) {
			return nil, fmt.Errorf("audit-syslog-ca: %s holds no certificate in PEM", s.CA)
		}
	}
	c.address = net.JoinHostPort(at.Hostname(), port)
	return c, nil
}

// Send sends lines on as they are added, each at least once and in order, until the library
// closes. Where nobody takes them it tries again, and they wait.
func (room *Room) Send(work *background.Work) {
	if room.settings.Syslog == "" {
		return
	}
	failures := 0
	for {
		err := room.send(work.Context())
		pause := time.Minute
		if err != nil && work.Context().Err() == nil {
			failures++
			pause = background.PauseAfter(failures)
			room.log.Error("the audit is not sent on", "to", room.settings.Syslog, "error", err)
		} else {
			failures = 0
		}
		select {
		case <-work.Context().Done():
			return
		case <-time.After(pause):
		case <-waking(room.added, err):
		}
	}
}

// waking is told of more lines, but not while they cannot be sent.
func waking(added chan struct{}, err error) <-chan struct{} {
	if err != nil {
		return nil
	}
	return added
}

// send sends what was not sent yet.
func (room *Room) send(ctx context.Context) (err error) {
	sent, err := room.records.Sent(ctx)
	if err != nil {
		return err
	}
	var to net.Conn
	defer func() {
		if to != nil {
			_ = to.Close() // what was sent is written down already
		}
	}()
	return room.records.Each(ctx, sent, func(l audit.Line) error {
		if to == nil {
			if to, err = room.dial(ctx); err != nil {
				return err
			}
		}
		if err := room.sendLine(to, l); err != nil {
			return fmt.Errorf("sending line %d: %w", l.Number, err)
		}
		return room.records.SetSent(ctx, l.Number)
	})
}

func (room *Room) dial(ctx context.Context) (net.Conn, error) {
	c, err := parsed(room.settings)
	if err != nil {
		return nil, err
	}
	dialer := &net.Dialer{Timeout: longestSend}
	if c.speaks != nil {
		return (&tls.Dialer{NetDialer: dialer, Config: c.speaks}).DialContext(ctx, c.network, c.address)
	}
	return dialer.DialContext(ctx, c.network, c.address)
}

// sendLine sends a line as RFC 5424 has it, with its own JSON as the message: a datagram each, or
// counted octets in a stream (RFC 6587).
func (room *Room) sendLine(to net.Conn, l audit.Line) error {
	text, err := json.Marshal(l)
	if err != nil {
		return err
	}
	host, err := os.Hostname()
	if err != nil {
		host = "-"
	}
	m := rfc5424.Message{Priority: facilityAudit | rfc5424.Notice, Timestamp: l.At.UTC(), Hostname: host,
		AppName: "mantilla", ProcessID: fmt.Sprint(os.Getpid()), MessageID: l.Act, Message: text}
	if err := to.SetWriteDeadline(time.Now().Add(longestSend)); err != nil {
		return err
	}
	if to.LocalAddr().Network() == "udp" {
		datagram, err := m.MarshalBinary()
		if err == nil {
			_, err = to.Write(datagram)
		}
		return err
	}
	_, err = m.WriteTo(to)
	return err
}
