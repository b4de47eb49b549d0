package expr

import (
	"errors"
	"strings"
	"testing"
)

func TestParseTellsWhereAFaultIs(t *testing.T) {
	for text, at := range map[string]int{
		"a +": 3, "(a": 2, "a b": 2, "'open": 0, "case else 1 end": 5, "a in 3": 5, "1 ? 2": 2, "is": 0, "f(a": 3,
	} {
		_, err := Parse(text)
		var fault *Fault
		if !errors.As(err, &fault) || fault.At != at {
			t.Errorf("%q: got %+v (%v), want a fault at %d", text, fault, err, at)
		}
	}
}

func TestParseIsBounded(t *testing.T) {
	for name, text := range map[string]string{
		"bytes":    strings.Repeat(" ", mostBytes) + "a",
		"parts":    "a" + strings.Repeat("+a", mostTokens),
		"brackets": strings.Repeat("(", mostDepth+1) + "a" + strings.Repeat(")", mostDepth+1),
		"signs":    strings.Repeat("- ", mostDepth+1) + "a",
		"not":      strings.Repeat("not ", mostDepth+1) + "a",
	} {
		if e, err := Parse(text); err == nil {
			t.Errorf("%s: %d bytes were read as %s", name, len(text), e.Op)
		}
	}
}

func TestHasLooksAtEveryPart(t *testing.T) {
	e, err := Parse("case a when 1 then b else f(c, 'd') end")
	if err != nil {
		t.Fatal(err)
	}
	for _, text := range []string{"a", "1", "b", "f", "c", "d"} {
		if !e.Has(func(e *Expr) bool { return e.Text == text }) {
			t.Errorf("it has no %s", text)
		}
	}
	if e.Has(func(e *Expr) bool { return e.Text == "e" }) {
		t.Error("it has what was not written")
	}
}
