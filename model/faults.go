package model

import (
	"fmt"

	"mantilla/core/nearest"
)

// Missing says that something of that name does not exist.
type Missing struct {
	What, Name string
	Near       []string // what was probably meant
}

// NoSuch says that nothing of a kind has a name, with those known ones that are
// near it.
func NoSuch(what, name string, known []string) error {
	return &Missing{What: what, Name: name, Near: nearest.Names(name, known, 3)}
}

func (m *Missing) Error() string {
	text := fmt.Sprintf("there is no %s %q", m.What, m.Name)
	if len(m.Near) > 0 {
		text += "; did you mean " + nearest.Or(m.Near) + "?"
	}
	return text
}

// Refused says that what was asked for is not right: which part of it, and why.
type Refused struct {
	Part string
	Err  error
}

// Refuse says what is not right about a part of what was asked for.
func Refuse(part, format string, args ...any) error {
	return &Refused{Part: part, Err: fmt.Errorf(format, args...)}
}

func (r *Refused) Error() string { return r.Err.Error() }

// Unwrap returns why.
func (r *Refused) Unwrap() error { return r.Err }

// Forbidden says that a person's role does not reach for something.
type Forbidden struct{ message string }

// Forbid says what is not for this person, and for whom it is.
func Forbid(format string, args ...any) error { return &Forbidden{fmt.Sprintf(format, args...)} }

func (f *Forbidden) Error() string { return f.message }

// Busy says that somebody asks for more at once than one person may take.
type Busy struct{ message string }

// TooMuch says what is under way already.
func TooMuch(format string, args ...any) error { return &Busy{fmt.Sprintf(format, args...)} }

func (b *Busy) Error() string { return b.message }
