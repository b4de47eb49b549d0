// Package controls has the commands of run controls, the timetable and calendars.
package controls

import "mantilla/cli/talk"

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }
