// Package capture has the commands of runs: asking for them, watching and stopping them.
package capture

import "mantilla/cli/talk"

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }
