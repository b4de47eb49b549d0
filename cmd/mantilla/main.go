// Command mantilla is the reporting service and its command-line client.
package main

import (
	"context"
	"os"
	"os/signal"
	"syscall"

	"mantilla/cli"
)

// version is set when a release is built.
var version = "development"

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	readApart()
	root := cli.Root(version)
	root.AddCommand(serveCommand(), demoCommand(), restoreCommand(), verifyCommand(), keyCommand())
	root.AddCommand(apartCommands()...)
	code := cli.Execute(ctx, root)
	stop()
	os.Exit(code)
}
