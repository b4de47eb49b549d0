package source

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"os"
	"regexp"
	"strings"
	"time"
)

// Server says how a database server is reached. The password is not written here: it is
// the name of a secret.
type Server struct {
	Host     string   `yaml:"host"`
	Port     uint16   `yaml:"port"` // 0 for the kind's usual one
	Database string   `yaml:"database"`
	User     string   `yaml:"user"`
	Password string   `yaml:"password"` // name of a secret
	TLS      string   `yaml:"tls"`      // verify, which is meant where it is silent, or off
	CA       string   `yaml:"ca"`       // file with the certificates that are trusted; otherwise the system's
	Schemas  []string `yaml:"schemas"`  // whose tables are shown; otherwise the engine's usual one
	Most     int      `yaml:"connections"`
	Longest  string   `yaml:"longest"` // how long a query may take, such as 5m; otherwise as long as a run may
}

// MostConnections is how many connections there are to a server where its declaration
// says nothing else.
const MostConnections = 8

var secretName = regexp.MustCompile(`^[a-z0-9][a-z0-9-]*$`)

// check says what the declaration of a server lacks; the words follow the source's name.
func (s *Server) check() error {
	if s == nil {
		return errors.New("lacks the key server: {host: ..., database: ..., user: ..., password: NAME OF A SECRET}")
	}
	if s.Host == "" {
		return lacks("host")
	}
	switch {
	case s.Password != "" && !secretName.MatchString(s.Password):
		return errors.New("has a server.password which is no name of a secret; write the password into a secret, and " +
			"here the secret's name in small letters, digits and hyphens")
	case s.TLS != "" && s.TLS != "verify" && s.TLS != "off":
		return fmt.Errorf("has the server.tls %q; use verify or off", s.TLS)
	case s.TLS == "off" && s.CA != "":
		return errors.New("has server.tls off and a server.ca; leave one of them out")
	case s.Most < 0 || s.Most > 100:
		return fmt.Errorf("has %d server.connections; use 1 to 100", s.Most)
	}
	if _, err := s.LongestQuery(); err != nil {
		return fmt.Errorf("has the server.longest %q; write a time such as 90s or 5m", s.Longest)
	}
	return nil
}

// Connections is how many connections there may be at once.
func (s *Server) Connections() int {
	if s.Most == 0 {
		return MostConnections
	}
	return s.Most
}

// LongestQuery is how long a query may take; 0 for as long as its run.
func (s *Server) LongestQuery() (time.Duration, error) {
	if s.Longest == "" {
		return 0, nil
	}
	d, err := time.ParseDuration(s.Longest)
	if err == nil && d <= 0 {
		err = errors.New("it is not a time to wait")
	}
	return d, err
}

func lacks(key string) error { return fmt.Errorf("lacks the key server.%s", key) }

// CheckServer says what the declaration of a source on a server lacks, of which one database is
// read as one account.
func CheckServer(c *Config) error {
	if err := CheckAddress(c); err != nil {
		return err
	}
	switch {
	case c.Server.Database == "":
		return lacks("database")
	case c.Server.User == "":
		return lacks("user")
	}
	return nil
}

// CheckAddress says what the declaration of a source on a server lacks.
func CheckAddress(c *Config) error {
	if c.File != "" {
		return errors.New("has a file, and is on a server; leave the key file out")
	}
	if err := c.Server.check(); err != nil {
		return err
	}
	return c.Keeps.check()
}

// TLSConfig is how the server proves who it is; nil where nothing is asked of it.
func (s *Server) TLSConfig() (*tls.Config, error) {
	if s.TLS == "off" {
		return nil, nil
	}
	c := &tls.Config{ServerName: s.Host, MinVersion: tls.VersionTLS12}
	if s.CA == "" {
		return c, nil
	}
	text, err := os.ReadFile(s.CA)
	if err != nil {
		return nil, fmt.Errorf("reading the certificates that are trusted: %w", err)
	}
	c.RootCAs = x509.NewCertPool()
	if !c.RootCAs.AppendCertsFromPEM(text) {
		return nil, fmt.Errorf("%s holds no certificate in PEM", s.CA)
	}
	return c, nil
}

// Plainly is the last of what went wrong, without the names of the program's parts.
func Plainly(err error) string {
	for {
		next := errors.Unwrap(err)
		if several, ok := err.(interface{ Unwrap() []error }); ok && len(several.Unwrap()) > 0 {
			next = several.Unwrap()[len(several.Unwrap())-1]
		}
		if next == nil {
			return err.Error()
		}
		err = next
	}
}

// farClock is how far a server's clock may be from ours before it is told as wrong.
const farClock = 5 * time.Second

// Clock compares a server's clock with ours, half a round trip after it was asked.
func Clock(ask func() (time.Time, error)) (says string, err error) {
	began := time.Now()
	there, err := ask()
	if err != nil {
		return "", err
	}
	off := there.Sub(began.Add(time.Since(began) / 2)).Round(time.Millisecond)
	says = fmt.Sprintf("its clock is %s off ours", strings.TrimPrefix(off.String(), "-"))
	if off.Abs() > farClock {
		return "", fmt.Errorf("%s; what was changed since a moment may be missed", says)
	}
	return says, nil
}

// Secrets finds what secrets hold, by their names; it fails where there is none of a name.
type Secrets func(name string) (string, error)

// Finding is one thing that was looked at of a source, and how it was found.
type Finding struct {
	What string
	Says string
	Good bool
	Took time.Duration
}

// Findings gathers what is found of a source, one after the other.
type Findings []Finding

// Add looks at something, takes the time, and tells whether it is well.
func (f *Findings) Add(what string, look func() (says string, err error)) bool {
	began := time.Now()
	says, err := look()
	if err != nil {
		says = err.Error()
	}
	*f = append(*f, Finding{What: what, Says: strings.TrimSpace(says), Good: err == nil, Took: time.Since(began)})
	return err == nil
}

// Lists reads each list that a source declares, and searches those that are large.
func (f *Findings) Lists(ctx context.Context, c *Config, of interface {
	List(ctx context.Context, list string) ([]Item, error)
	Find(ctx context.Context, list string, w Sought) ([]Item, error)
}) {
	for _, id := range c.ListNames() {
		f.Add("list "+id, func() (string, error) {
			if !c.Lists[id].Large {
				items, err := of.List(ctx, id)
				return fmt.Sprintf("%d entries", len(items)), err
			}
			items, err := of.Find(ctx, id, Sought{Limit: 1})
			if err != nil || len(items) == 0 {
				return "no entries", err
			}
			_, err = of.Find(ctx, id, Sought{Words: []string{items[0].Code}, Limit: 1})
			return "it is searched where it lies", err
		})
	}
}
