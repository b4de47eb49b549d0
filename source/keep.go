package source

import (
	"context"
	"errors"
	"fmt"
	"regexp"

	"mantilla/core/frame"
	"mantilla/core/query"
	"mantilla/core/table"
	"mantilla/model"
)

// Keeps says that results may stay where their source lies: in a schema of their own, to which
// an account writes that may write nothing else.
type Keeps struct {
	Schema   string `yaml:"schema"`
	User     string `yaml:"user"`
	Password string `yaml:"password"` // name of a secret
}

// Engine keeps results where their source lies, and computes what is asked of them there.
type Engine interface {
	// Table asks the rows of a result that stay in the engine; schema is what its columns are.
	Table(stay model.Stay, rows int64, schema frame.Schema, cache table.Cache) table.Table
	// Again computes anew what is sealed of rows that stay: how many there are, and the digest
	// of each column.
	Again(ctx context.Context, stay model.Stay) (rows int64, digests []string, err error)
	// Kept are the names of the tables that a service keeps in the engine.
	Kept(ctx context.Context, service string) ([]string, error)
	// Drop removes a table of rows that stay; it is no fault where there is none.
	Drop(ctx context.Context, name string) error
}

// Keeper is a [Session] of an engine that keeps rows where they lie.
type Keeper interface {
	// Keep makes a table of the rows of a query as the session sees them. Nothing remains of
	// it where it fails.
	Keep(ctx context.Context, q query.Query, k Keeping) (stay model.Stay, rows int64, err error)
}

// Keeping is how rows are kept in an engine.
type Keeping struct {
	Service string // whose they are
	Table   string // the name of their table
	Most    int64  // how many rows there may be
}

// ErrKeepsNothing says that a source has no place for results.
var ErrKeepsNothing = errors.New("keeps no results; declare keeps: {schema: ..., user: ..., password: NAME OF A " +
	"SECRET} " +
	"for it, where its kind can")

var schemaName = regexp.MustCompile(`^[a-z_][a-z0-9_]{0,62}$`)

// check says what is wrong with where results are to be kept; the words follow the source's name.
func (k *Keeps) check() error {
	switch {
	case k == nil:
		return nil
	case !schemaName.MatchString(k.Schema):
		return fmt.Errorf("has the keeps.schema %q; write its name in small letters, digits and _", k.Schema)
	case k.User == "":
		return errors.New("lacks the key keeps.user: an account that may write to that schema alone")
	case k.Password != "" && !secretName.MatchString(k.Password):
		return errors.New("has a keeps.password which is no name of a secret; write the password into a secret, and here " +
			"the secret's name in small letters, digits and hyphens")
	}
	return nil
}

// ErrMore says that there are more rows than there may be.
var ErrMore = errors.New("there are more rows than there may be")
