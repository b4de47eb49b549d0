// Package catalog has the commands of the catalog: finding and describing reports, definitions and sources.
package catalog

import "mantilla/cli/talk"

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }
