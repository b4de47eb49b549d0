package model

import "errors"

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
