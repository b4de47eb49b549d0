package model

import (
	"errors"
	"fmt"

	"mantilla/core/nearest"
)

// Missing says that something of that name does not exist.
type Missing struct {
	What, Name string
	Near       []string // what was probably meant
	Known      []string // all that there are, where these are few and none is near
}

// mostNamed is how many names are told to who used one that is not there.
const mostNamed = 8

// NoSuch says that nothing of a kind has a name, with those known ones that are
// near it.
func NoSuch(what, name string, known []string) error {
	m := &Missing{What: what, Name: name, Near: nearest.Names(name, known, 3)}
	if len(m.Near) == 0 && len(known) <= mostNamed {
		m.Known = known
	}
	return m
}

func (m *Missing) Error() string {
	text := fmt.Sprintf("there is no %s %q", m.What, m.Name)
	if len(m.Near) > 0 {
		text += "; did you mean " + nearest.Or(m.Near) + "?"
	}
	if len(m.Known) > 0 {
		text += "; there are " + nearest.And(m.Known)
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

// What callers tell apart, whatever it is about.
var (
	ErrNotFound = errors.New("not found")
	ErrStale    = errors.New("it was changed meanwhile; read it again and repeat the change")
	ErrFull     = errors.New("nothing can be written: the disk is full or fails; " +
		"what is there can be read, and writing goes on by itself when there is space again")

	// ErrTaken says that a name is in use already.
	ErrTaken = errors.New("the name is taken; choose another, or change what has it")

	// ErrKeyUsed says that an idempotency key was used for something else.
	ErrKeyUsed = errors.New("this idempotency key was used for a run of other values; take a new key for a new run")

	// ErrBroken says that a result is not what was sealed.
	ErrBroken = errors.New("is not as it was sealed: its record or its rows were changed; " +
		"take it from a back-up, or run the report again")
)
