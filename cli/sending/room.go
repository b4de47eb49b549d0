// Package sending has the commands of what goes out: sending, parcels, the address book, the mailbox.
package sending

import "mantilla/cli/talk"

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }
