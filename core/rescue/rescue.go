// Package rescue turns a panic into an error of whoever asked for the work, so
// that one bad piece of work is one failed request, run or letter and never the
// end of the service. Every goroutine that computes begins with it: a panic in
// a goroutine without it ends the process.
package rescue

import (
	"fmt"
	"runtime/debug"
)

// Panic is a panic that was caught, with the stack where it happened. Its
// message is for the log; people are told that something is wrong with the
// program.
type Panic struct {
	Value any
	Stack []byte
}

func (p *Panic) Error() string { return fmt.Sprintf("a fault in the program: %v", p.Value) }

// Unwrap returns the error that was panicked with, if it was one.
func (p *Panic) Unwrap() error {
	err, _ := p.Value.(error)
	return err
}

// Call does some work and returns its error, or a [*Panic] where it panicked.
func Call(work func() error) (err error) {
	defer func() {
		if v := recover(); v != nil {
			err = caught(v)
		}
	}()
	return work()
}

// Into is deferred by a function with a named error: it puts a panic there.
func Into(err *error) {
	if v := recover(); v != nil {
		*err = caught(v)
	}
}

// caught keeps the innermost panic where one goes through several goroutines.
func caught(v any) error {
	if p, ok := v.(*Panic); ok {
		return p
	}
	return &Panic{Value: v, Stack: debug.Stack()}
}
