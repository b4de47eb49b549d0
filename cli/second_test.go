package cli_test

import (
	"io"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"mantilla/cli"
	"mantilla/demo"
	"mantilla/demo/demotest"
)

// answering types a command and then what it asks for, which may depend on what it said.
func (p person) answering(t *testing.T, answer func(said string) string, words ...string) outcome {
	t.Helper()
	in, typed := io.Pipe()
	var out, said tale
	root := cli.Root("test")
	root.SetIn(in)
	root.SetOut(&out)
	root.SetErr(&said)
	t.Setenv("MANTILLA_TOKEN", p.token)
	t.Setenv("MANTILLA_SERVICE", p.service)
	root.SetArgs(append(words, "--service", p.service))
	go func() {
		for range 100 {
			if text := answer(said.String()); text != "" {
				_, _ = io.WriteString(typed, text+"\n")
				break
			}
			time.Sleep(20 * time.Millisecond)
		}
		typed.Close()
	}()
	code := cli.Execute(t.Context(), root)
	return outcome{code, out.String(), said.String()}
}

// TestASecondFactor is asked for beside the password once it counts, and its codes count once.
func TestASecondFactor(t *testing.T) {
	s := demotest.Start(t)
	t.Setenv("XDG_CONFIG_HOME", t.TempDir())
	runa, secret := as(t, s, "runa"), ""
	code := func(said string) string {
		_, after, ok := strings.Cut(said, "secret   ")
		if !ok || !strings.Contains(after, "\n") {
			return ""
		}
		secret, _, _ = strings.Cut(after, "\n")
		now, err := totp.GenerateCode(secret, time.Now())
		if err != nil {
			t.Error(err)
		}
		return now
	}
	begun := runa.answering(t, code, "second")
	left := strings.Fields(begun.out)
	if begun.code != 0 || len(left) != 10 {
		t.Fatalf("it is set up as %+v", begun)
	}
	login := func(lines ...string) outcome {
		return person{service: s.URL}.answering(t, func(string) string { return strings.Join(lines, "\n") }, "login", "runa",
			"--print")
	}
	if got := login(demo.Password); got.code == 0 || !strings.Contains(got.err, "no password is given") {
		t.Errorf("without a code: %+v", got)
	}
	if got := login(demo.Password, "000000"); got.code != 7 || !strings.Contains(got.err, "the code is not right") {
		t.Errorf("with a wrong code: %+v", got)
	}
	if got := login("wrong-wrong-wrong", left[0]); got.code != 7 || strings.Contains(got.err, "second factor") {
		t.Errorf("with a wrong password: %+v", got)
	}
	if got := login(demo.Password, left[0]); got.code != 0 {
		t.Errorf("with a code that was kept: %+v", got)
	}
	if got := login(demo.Password, left[0]); got.code != 7 {
		t.Errorf("with it again: %+v", got)
	}
	next, err := totp.GenerateCode(secret, time.Now().Add(30*time.Second))
	if err != nil {
		t.Fatal(err)
	}
	if got := login(demo.Password, next); got.code != 0 {
		t.Errorf("with the next code: %+v", got)
	}
	follow(t, s, []step{
		{"lila", "people reset-second runa", 7, "needs the role administrator"},
		{"adda", "people reset-second nobody", 3, "nobody"},
		{"adda", "people reset-second runa", 0, "is gone"},
		{"adda", "audit --on person:runa", 0, "second factor → nothing"},
	})
	if got := login(demo.Password); got.code != 0 {
		t.Errorf("when it is gone: %+v", got)
	}
}
