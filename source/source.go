// Package source is where rows come from. A source is declared in a YAML file
// of the catalog: what kind it is, where it lies and which lists (units,
// entities, choices) it offers. Sources are only ever read.
package source

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"time"

	"go.yaml.in/yaml/v3"

	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/core/query"
)

// What can be wrong with a source itself, whatever was asked of it.
var (
	ErrMissing = errors.New("is missing")
	ErrLocked  = errors.New("is locked by another program; try again when it is done")
	ErrSilent  = errors.New("does not answer")
)

// Config is a source as the catalog declares it.
type Config struct {
	ID     string               `yaml:"source"`
	Title  string               `yaml:"title"`
	Kind   string               `yaml:"kind"`   // as registered; see [Register]
	File   string               `yaml:"file"`   // relative to the data directory
	Server *Server              `yaml:"server"` // of kinds that are reached over the network
	Keeps  *Keeps               `yaml:"keeps"`  // where results may stay; nil for nowhere
	Units  string               `yaml:"units"`  // list that is the tree of the organisation's units
	Tables map[string]FileTable `yaml:"tables"` // of files that people bring
	Lists  map[string]List      `yaml:"lists"`
	Text   string               `yaml:"-"` // the file as written
}

// List declares a list of units, entities or choices in the source's own SQL.
// Parent makes it a tree.
type List struct {
	From    string   `yaml:"from"`
	Code    string   `yaml:"code"`
	Label   string   `yaml:"label"`
	Kind    string   `yaml:"kind"`
	Parent  string   `yaml:"parent"`
	Detail  string   `yaml:"detail"`
	Current string   `yaml:"current"`
	Order   string   `yaml:"order"`
	Find    []string `yaml:"find"`  // fields that a search looks into
	Scope   string   `yaml:"scope"` // the unit that an entry belongs to
	// Fields by which other parameters may narrow the list.
	Fields map[string]string `yaml:"fields"`
	Large  bool              `yaml:"large"`  // it is searched in the source, and never read whole
	Search string            `yaml:"search"` // a condition that finds what was typed, :text, by an index
}

// Item is an entry of a list with what finds, cuts and narrows it.
type Item struct {
	param.Entry
	Find   []string
	Scope  string
	Fields map[string]string
}

// MostItems is how many entries a list may have.
const MostItems = 500_000

var validID = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9_-]{0,62}$`)

// ParseConfig reads a source's declaration. Keys it does not know are errors.
func ParseConfig(text []byte) (*Config, error) {
	c := Config{Text: string(text)}
	decoder := yaml.NewDecoder(bytes.NewReader(text))
	decoder.KnownFields(true)
	if err := decoder.Decode(&c); err != nil {
		return nil, fmt.Errorf("reading the source's declaration: %w", err)
	}
	switch {
	case c.ID == "":
		return nil, errors.New("the source's declaration lacks the key source: ID")
	case !validID.MatchString(c.ID):
		return nil, fmt.Errorf("%q is no id of a source: it has letters, digits, hyphens and _", c.ID)
	}
	kind, ok := kinds[c.Kind]
	if !ok {
		return nil, fmt.Errorf("source %s: %q is not a kind of source; use %s", c.ID, c.Kind, nearest.Or(Kinds()))
	}
	if err := kind.Check(&c); err != nil {
		return nil, fmt.Errorf("source %s %w", c.ID, err)
	}
	if c.Keeps != nil && !kind.Keeps {
		return nil, fmt.Errorf("source %s: %s keeps no results where they lie; leave the key keeps out", c.ID, c.Kind)
	}
	for id, l := range c.Lists {
		if l.From == "" || l.Code == "" || l.Label == "" {
			return nil, fmt.Errorf("source %s, list %s: from, code and label are needed", c.ID, id)
		}
		if err := c.checkLarge(id); err != nil {
			return nil, fmt.Errorf("source %s %w", c.ID, err)
		}
	}
	if _, ok := c.Lists[c.Units]; c.Units != "" && !ok {
		return nil, fmt.Errorf("source %s: units: %q is not one of its lists", c.ID, c.Units)
	}
	return &c, nil
}

// Uses tells whether the source is opened with a secret.
func (c *Config) Uses(secret string) bool {
	return c.Server != nil && c.Server.Password == secret || c.Keeps != nil && c.Keeps.Password == secret
}

// ListNames returns the ids of the lists in alphabetical order.
func (c *Config) ListNames() []string {
	var names []string
	for id := range c.Lists {
		names = append(names, id)
	}
	slices.Sort(names)
	return names
}

// Source reads rows and lists. It is safe for several goroutines.
type Source interface {
	// Dialect is how the source writes what engines write differently.
	Dialect() Dialect
	// Prepare checks that the source understands a query, without running it.
	Prepare(ctx context.Context, q query.Query) error
	// Engine keeps results where they lie; nil where the source does not.
	Engine() Engine
	// Begin opens one unchanging view of the source for all queries of a run.
	Begin(ctx context.Context) (Session, error)
	// List returns all entries of a declared list, in its order.
	List(ctx context.Context, list string) ([]Item, error)
	// Find returns the entries of a declared list that are sought, in its order.
	Find(ctx context.Context, list string, w Sought) ([]Item, error)
	// Tables are the tables and views that definitions can read, by name.
	Tables(ctx context.Context) ([]Table, error)
	// Sample returns the first rows of a table, at most so many.
	Sample(ctx context.Context, table string, rows int) (Sample, error)
	// Fingerprint identifies the present state of the source; it changes when
	// the source is written to.
	Fingerprint(ctx context.Context) (string, error)
	// Rest is how long lists that were read count as the present ones, so that not every
	// keystroke asks a server; 0 where asking costs nothing.
	Rest() time.Duration
	// Examine looks whether the source can be reached and read, and that nothing else can
	// be done to it, step by step.
	Examine(ctx context.Context) Findings
	Close() error
}

// Session reads the queries of one run.
type Session interface {
	// Read pours the rows of a query into a sink of what the dataset reads. The
	// query itself is interrupted when the context ends.
	Read(ctx context.Context, q query.Query, to *Sink) error
	// Fingerprint identifies the state of the source that the session reads.
	Fingerprint() string
	Close() error
}
