// Package drafting has the commands of those who write reports: drafts, versions, what
// depends on a report, tables of sources, and notices.
package drafting

import "mantilla/cli/talk"

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }
