// Package e2e tests the product as its users meet it: the built binary on the
// command line, and the console in a browser.
package e2e

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"mantilla/demo"
)

// binary is the path of the built command.
var binary string

func TestMain(m *testing.M) {
	var err error
	if binary, err = filepath.Abs("../bin/mantilla"); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	// As make build does, so that nothing is linked again where it has just done so.
	build := exec.Command("go", "build", "-ldflags=-s -w", "-o", binary, "mantilla/cmd/mantilla")
	if out, err := build.CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "building the command: %v\n%s", err, out)
		os.Exit(1)
	}
	code := m.Run()
	closeChromium()
	os.Exit(code)
}

// outcome is how a command ended.
type outcome struct {
	code     int
	out, err string
}

// command runs the client against a service, with a token.
func command(t *testing.T, service, token string, args ...string) outcome {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), binary, args...)
	cmd.Env = append(os.Environ(), "MANTILLA_SERVICE="+service, "MANTILLA_TOKEN="+token, "TZ=UTC")
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &stderr
	err := cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		t.Fatal(err)
	}
	return outcome{cmd.ProcessState.ExitCode(), stdout.String(), stderr.String()}
}

// login signs in at the command line and returns the token.
func login(t *testing.T, service, name, password string) string {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), binary, "login", name, "--print", "--service", service)
	cmd.Stdin = strings.NewReader(password + "\n")
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("signing in as %s: %v", name, err)
	}
	return strings.TrimSpace(string(out))
}

var madeAccount = regexp.MustCompile(`one was made: (\w+) with the password (\S+)\.`)

// serve starts the service as a process of its own, waits until it answers and
// signs in: as the account that it made, or as the demo's administrator.
func serve(t *testing.T, args ...string) (cmd *exec.Cmd, address, token string) {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	t.Cleanup(cancel)
	cmd = exec.CommandContext(ctx, binary, args...)
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	cmd.Stderr = os.Stderr
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { cmd.Wait() })
	t.Cleanup(func() { cmd.Process.Kill() })
	said := ""
	chunk := make([]byte, 4096)
	for {
		n, err := out.Read(chunk)
		said += string(chunk[:n])
		if _, after, ok := strings.Cut(said, "http://"); ok && strings.Contains(after, "\n") {
			address, _, _ = strings.Cut(after, "\n")
			name, password := "adda", demo.Password
			if m := madeAccount.FindStringSubmatch(said); m != nil {
				name, password = m[1], m[2]
			}
			return cmd, "http://" + address, login(t, "http://"+address, name, password)
		}
		if err != nil {
			t.Fatalf("the service did not start: %s", said)
		}
	}
}
