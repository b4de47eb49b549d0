package librarytest

import (
	"strings"
	"testing"

	"mantilla/demo"
	"mantilla/library"
	"mantilla/library/access"
)

// Person is somebody of the demo, without the long way of signing in.
func Person(t *testing.T, l *library.Library, name string) *library.Access {
	t.Helper()
	a, err := l.AsPerson(t.Context(), name)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

// SignIn signs a person of the demo in.
func SignIn(t *testing.T, l *library.Library, name string) *library.Access {
	t.Helper()
	secret, _, _, err := l.Door().SignIn(t.Context(), access.Knock{Name: name, Password: demo.Password, Kind: "token"})
	if err != nil {
		t.Fatal(err)
	}
	a, err := l.WhoHas(t.Context(), secret)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

// Told is what stands on a person's desk, the newest first, a line for each.
func Told(t *testing.T, a *library.Access) string {
	t.Helper()
	all, err := a.Notices.List(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, n := range all {
		said = append(said, n.Says)
	}
	return strings.Join(said, "\n")
}
