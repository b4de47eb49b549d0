// Package asking has the commands of filling in: criteria, marks of the last look, and being asked.
package asking

import "mantilla/cli/talk"

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }
