package rescue

import (
	"errors"
	"strings"
	"testing"
)

func TestCall(t *testing.T) {
	plain := errors.New("plain")
	if err := Call(func() error { return plain }); err != plain {
		t.Errorf("an error became %v", err)
	}
	if err := Call(func() error { return nil }); err != nil {
		t.Errorf("good work gave %v", err)
	}
	err := Call(func() error { return []error{}[len("abc")] })
	var p *Panic
	if !errors.As(err, &p) || !strings.Contains(err.Error(), "index out of range") ||
		!strings.Contains(string(p.Stack), "TestCall") {
		t.Errorf("a panic became %v", err)
	}
	if err := Call(func() error { panic(plain) }); !errors.Is(err, plain) {
		t.Errorf("a panic with an error became %v", err)
	}
}

func TestIntoKeepsTheInnermostPanic(t *testing.T) {
	inner := func() (err error) {
		defer Into(&err)
		panic("inner")
	}
	err := Call(func() error { panic(inner()) })
	var p *Panic
	if !errors.As(err, &p) || p.Value != "inner" {
		t.Errorf("two panics became %v", err)
	}
}
