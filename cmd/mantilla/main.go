// Command mantilla is the reporting service and its command-line client.
package main

import (
	"context"
	"os"
	"os/signal"
	"runtime/debug"
	"strings"
	"syscall"

	"mantilla/cli"
)

// release is set when a release is built.
var release = "development"

// version is the release with the commit that it was built of, and its day.
var version = built()

func built() string {
	text := release
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return text
	}
	said := map[string]string{}
	for _, s := range info.Settings {
		said[s.Key] = s.Value
	}
	if commit := said["vcs.revision"]; len(commit) >= 12 {
		text += ", commit " + commit[:12]
		if said["vcs.modified"] == "true" {
			text += " with changes"
		}
	}
	if day, _, ok := strings.Cut(said["vcs.time"], "T"); ok {
		text += ", " + day
	}
	return text
}

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	readApart()
	root := cli.Root(version)
	root.AddCommand(serveCommand(), demoCommand(), restoreCommand(), verifyCommand(), keyCommand(), manualCommand())
	root.AddCommand(apartCommands()...)
	code := cli.Execute(ctx, root)
	stop()
	os.Exit(code)
}
