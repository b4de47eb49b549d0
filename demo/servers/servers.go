// Package servers takes the cooperative's records to database servers of one's own, so that the
// demo's reports run on them as well, with the same figures.
package servers

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"mantilla/demo"
	"mantilla/library"
)

// secret is the name of the secret that holds the password of the account which reads.
const secret = "coop-reports"

// password is that of the account which reads: it guards made-up data, on this machine alone.
const password = demo.Password

// engine is a server that runs, and how records are taken to it.
type engine struct {
	server
	port   int
	types  types
	rents  string // makes the view of the months of agreements, with their rents
	grants string // makes the account that reads, and one that keeps results where they can stay
	keeps  string // declares where results may stay
}

type server interface {
	// Exec runs statements, with semicolons between, as the owner.
	Exec(ctx context.Context, database, statements string) error
	Stop() error
}

// engines start a server with an empty database coop, where there is none yet, by its kind.
var engines = map[string]func(ctx context.Context, dir string) (engine, error){"mariadb": mariaDB, "postgres": postgres}

// Kinds are the kinds of sources that the records can be taken to.
func Kinds() []string { return slices.Sorted(maps.Keys(engines)) }

// Served is a server that has the cooperative's records.
type Served struct {
	kind   string
	engine engine
}

// Start starts a server of a kind with its files in a directory, and takes the records to it from
// the SQLite file, unless it has them already.
func Start(ctx context.Context, kind, dir, from string) (*Served, error) {
	start, ok := engines[kind]
	if !ok {
		return nil, fmt.Errorf("the demo's records are not taken to %q; use %s", kind, strings.Join(Kinds(), " or "))
	}
	e, err := start(ctx, filepath.Join(dir, kind))
	if err != nil {
		return nil, err
	}
	marker := fmt.Sprintf("as_of_%d", demo.DataVersion)
	if e.Exec(ctx, "coop", "select 1 from "+marker) != nil {
		if err = carry(ctx, e, from); err == nil {
			err = e.Exec(ctx, "coop", e.grants+" create table "+marker+" (n bigint);")
		}
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("taking the records to %s: %w", kind, err), e.Stop())
	}
	return &Served{kind: kind, engine: e}, nil
}

// Exec runs statements, with semicolons between, as the owner of the records.
func (s *Served) Exec(ctx context.Context, statements string) error {
	return s.engine.Exec(ctx, "coop", statements)
}

// Stop ends the server.
func (s *Served) Stop() error { return s.engine.Stop() }

// Declare lets a service read the records from the server instead.
func (s *Served) Declare(ctx context.Context, service *library.Access) error {
	if err := service.Secrets.Put(ctx, secret, password); err != nil {
		return err
	}
	text, err := demo.Source()
	if err != nil {
		return err
	}
	return service.Catalog.PutSource(ctx, "coop", []byte(s.declared(text)))
}

// declared is the declaration of the source as it is when its records lie on the server.
func (s *Served) declared(text string) string {
	there := fmt.Sprintf("kind: %s\nserver: {host: 127.0.0.1, port: %d, database: coop, user: reports, "+
		"password: %s, tls: off}%s", s.kind, s.engine.port, secret, s.engine.keeps)
	return strings.NewReplacer("kind: sqlite", there, "file: "+demo.SourceFile+"\n", "").Replace(text)
}
