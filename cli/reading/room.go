// Package reading has the commands of results: reading, looking closer and taking away.
package reading

import "mantilla/cli/talk"

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }
