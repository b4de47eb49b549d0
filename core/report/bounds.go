package report

import (
	"slices"
	"strings"
)

// Bound is one of the units that a person is limited to: a unit with all below it, those of them that are
// of a kind, or an exception from the others.
type Bound struct {
	Unit, Kind string // Kind "" for all kinds
	Except     bool
}

// BoundsOf reads bounds as they are written: UF for a unit with all below, UF:site for those of a kind,
// -UF-MAR for what is excepted with all below.
func BoundsOf(written []string) (all []Bound) {
	for _, text := range written {
		code, except := strings.CutPrefix(text, "-")
		unit, kind, _ := strings.Cut(code, ":")
		all = append(all, Bound{Unit: unit, Kind: kind, Except: except})
	}
	return all
}

// Plain are the units of bounds that name neither kinds nor exceptions; is tells that all are such.
func Plain(written []string) (units []string, is bool) {
	for _, b := range BoundsOf(written) {
		if !b.Except {
			units = append(units, b.Unit)
		}
	}
	return units, slices.Equal(units, written)
}
