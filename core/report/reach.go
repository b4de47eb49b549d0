package report

import (
	"errors"
	"slices"
)

// Reach is how far a person sees: everything, or the rows of these units.
type Reach struct {
	Limited bool
	Units   []string
}

// Cuts tells whether the rows of every dataset can be cut to units, or are not
// about units.
func (d *Definition) Cuts() bool {
	return !slices.ContainsFunc(d.Datasets, func(set Dataset) bool { return set.Scope.SQL == "" && set.Scope.By == "" })
}

// ErrNotCut says that rows cannot be cut to a person's units.
var ErrNotCut = errors.New("its rows cannot be cut to your units, because its definition names no scope; ask a " +
	"librarian")
