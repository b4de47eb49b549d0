package e2e

import (
	"bufio"
	"context"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"
)

// TestThePackageIsInstalled makes the Debian package, installs it below a directory, and runs the service
// as its unit would.
func TestThePackageIsInstalled(t *testing.T) {
	t.Parallel()
	run := func(name string, args ...string) string {
		t.Helper()
		cmd := exec.CommandContext(t.Context(), name, args...)
		cmd.Dir = ".."
		out, err := cmd.CombinedOutput()
		if err != nil {
			t.Fatalf("%s %s: %v\n%s", name, strings.Join(args, " "), err, out)
		}
		return string(out)
	}
	run("make", "package", "VERSION=1.2.3")
	made, err := filepath.Glob("../bin/mantilla_1.2.3_*.deb")
	if err != nil || len(made) != 1 {
		t.Fatalf("there are %v, %v", made, err)
	}
	t.Cleanup(func() { os.Remove(made[0]) })
	root := t.TempDir()
	for _, dir := range []string{"var/lib/dpkg/info", "var/lib/dpkg/updates"} {
		if err := os.MkdirAll(filepath.Join(root, dir), 0o750); err != nil {
			t.Fatal(err)
		}
	}
	if err := os.WriteFile(filepath.Join(root, "var/lib/dpkg/status"), nil, 0o600); err != nil {
		t.Fatal(err)
	}
	deb, err := filepath.Abs(made[0])
	if err != nil {
		t.Fatal(err)
	}
	run("dpkg", "--root="+root, "--force-not-root", "--log=/dev/null", "-i", deb)
	if listed := run("dpkg", "--root="+root, "--force-not-root", "-s", "mantilla"); !strings.Contains(listed,
		"Status: install ok installed") || !strings.Contains(listed, "/etc/mantilla/mantilla.yaml") {
		t.Errorf("it is installed as\n%s", listed)
	}
	program := filepath.Join(root, "usr/bin/mantilla")
	if said := run(program, "--version"); !strings.Contains(said, "1.2.3") {
		t.Errorf("it calls itself %s", said)
	}
	if page := run("zcat", filepath.Join(root, "usr/share/man/man1/mantilla-audit.1.gz")); !strings.Contains(page,
		"who did what") {
		t.Errorf("the manual says of the audit\n%s", page)
	}
	unit, err := os.ReadFile(filepath.Join(root, "usr/lib/systemd/system/mantilla.service"))
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"DynamicUser=yes", "ProtectSystem=strict", "NoNewPrivileges=yes",
		"StateDirectory=mantilla",
		"LoadCredential=mantilla.yaml:/etc/mantilla/mantilla.yaml"} {
		if !strings.Contains(string(unit), want+"\n") {
			t.Errorf("the unit lacks %s", want)
		}
	}
	start := regexp.MustCompile(`(?m)^ExecStart=/usr/bin/mantilla (.*)$`).FindStringSubmatch(string(unit))
	if start == nil {
		t.Fatal("the unit starts nothing")
	}
	args := strings.NewReplacer("${CREDENTIALS_DIRECTORY}", filepath.Join(root, "etc/mantilla"), "${STATE_DIRECTORY}",
		t.TempDir()).Replace(start[1])
	began(t, program, append(strings.Fields(args), "--address", "127.0.0.1:0"))
}

// began starts a program that serves, and asks it what it is.
func began(t *testing.T, program string, args []string) {
	t.Helper()
	ctx, stop := context.WithTimeout(t.Context(), 30*time.Second)
	defer stop()
	cmd := exec.CommandContext(ctx, program, args...)
	cmd.Cancel = func() error { return cmd.Process.Signal(os.Interrupt) }
	out, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		t.Fatal(err)
	}
	for lines := bufio.NewScanner(out); lines.Scan(); {
		at, ok := strings.CutPrefix(lines.Text(), "Mantilla answers at ")
		if !ok {
			continue
		}
		r, err := http.Get(at + "/api/service")
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		body, err := io.ReadAll(r.Body)
		if err != nil || !strings.Contains(string(body), `"name":"Your organisation"`) || !strings.Contains(string(body),
			"1.2.3") {
			t.Errorf("it answers %s, %v", body, err)
		}
		break
	}
	stop()
	_ = cmd.Wait() // it was ended
}
