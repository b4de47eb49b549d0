package source

import (
	"fmt"
	"maps"
	"slices"
)

// Kind is a kind of source: what its declaration needs, and how it is opened.
type Kind struct {
	Name    string
	Dialect Dialect // that its sources speak
	Keeps   bool    // results can stay in its sources, where they are declared to keep them
	// Check says what a declaration lacks; the words follow the source's name.
	Check func(c *Config) error
	// Open opens a source whose declaration was checked.
	Open func(c *Config, at Place) (Source, error)
}

// Place is where sources are opened: files lie below Dir, and passwords are secrets.
type Place struct {
	Dir     string
	Secrets Secrets
}

// kinds are the registered ones by name; they are set while the program begins.
var kinds = map[string]Kind{}

// Register makes a kind of source known. It is for init functions, and panics when
// the name is taken.
func Register(k Kind) {
	if _, taken := kinds[k.Name]; taken {
		panic("two kinds of source are called " + k.Name)
	}
	kinds[k.Name] = k
}

// Kinds are the names of the registered kinds, in order.
func Kinds() []string { return slices.Sorted(maps.Keys(kinds)) }

// Dialects are the names of what the registered kinds speak, in order.
func Dialects() []string {
	names := map[string]bool{}
	for _, k := range kinds {
		names[k.Dialect.String()] = true
	}
	return slices.Sorted(maps.Keys(names))
}

// Open opens a declared source at a place.
func Open(c *Config, at Place) (Source, error) {
	s, err := kinds[c.Kind].Open(c, at)
	if err != nil {
		return nil, fmt.Errorf("source %s %w", c.ID, err)
	}
	return s, nil
}
