package librarytest

import (
	"testing"
	"time"
)

// UntilOr is until, which also shows something where it never comes.
func UntilOr(t *testing.T, what string, ok func() bool, shown func() any) {
	t.Helper()
	defer func() {
		if t.Failed() {
			t.Logf("%+v", shown())
		}
	}()
	Until(t, what, ok)
}

// Until waits for something; it fails the test where that never comes.
func Until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for begun := time.Now(); !ok(); time.Sleep(5 * time.Millisecond) {
		if time.Since(begun) > 30*time.Second {
			t.Fatalf("never: %s", what)
		}
	}
}
