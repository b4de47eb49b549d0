package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"time"

	"github.com/spf13/cobra"

	"mantilla/console"
	"mantilla/demo"
	"mantilla/library"
	"mantilla/server"
	"mantilla/store"
)

func serveCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Run the service with its console",
		Long: `Run the service with its console until it is interrupted.

Settings come from flags, from the environment (MANTILLA_DATA, MANTILLA_ADDRESS
and so on), and from a configuration file in YAML, in this order of weight.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			settings, err := readSettings(cmd)
			if err != nil {
				return err
			}
			return serve(cmd.Context(), settings, nil, func(l *library.Library, address string) {
				fmt.Fprintf(cmd.OutOrStdout(), "Mantilla answers at http://%s\n", address)
			})
		},
	}
	addSettings(cmd)
	return cmd
}

func demoCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Run the service on made-up data of a honey cooperative",
		Long: `Write the demo data into the data directory (once), take its reports into the
catalog, and run the service on the demo's business date.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			settings, err := readSettings(cmd)
			if err != nil {
				return err
			}
			settings.Name = "Brackenfell Honey Cooperative"
			settings.BusinessDate = demo.Today.String()
			if err := settings.check(); err != nil {
				return err
			}
			begun := time.Now()
			if err := demo.WriteData(cmd.Context(), settings.Data); err != nil {
				return err
			}
			wrote := time.Since(begun)
			return serve(cmd.Context(), settings, demo.LoadCatalog, func(l *library.Library, address string) {
				printDemo(cmd, l, address, wrote)
			})
		},
	}
	addSettings(cmd)
	return cmd
}

func printDemo(cmd *cobra.Command, l *library.Library, address string, wrote time.Duration) {
	out := cmd.OutOrStdout()
	fmt.Fprintf(out, "The demo data is ready (%.1f s). Today is %s in the demo.\n\n", wrote.Seconds(), l.Calendar().Today.Long())
	fmt.Fprintf(out, "  Console       http://%s\n", address)
	fmt.Fprintln(out, "  Accounts      none are needed: the service can be reached from this machine only")
	command := os.Args[0]
	if _, port, err := net.SplitHostPort(address); err == nil && port != "8480" {
		command = "MANTILLA_SERVICE=http://" + address + " " + command
	}
	fmt.Fprintf(out, "  Command line  %s catalog\n\nPress Ctrl-C to end it.\n", command)
}

// serve opens everything, answers until the context ends, and closes
// everything in the opposite order. Load, if any, fills the catalog first;
// ready is called when the service answers.
func serve(ctx context.Context, s *settings, load func(context.Context, *library.Library) error, ready func(*library.Library, string)) (err error) {
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: s.logLevel}))
	listener, err := server.Listen(s.Address)
	if err != nil {
		return err
	}
	defer listener.Close()
	records, err := store.Open(ctx, s.Data, s.CacheMB<<20)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	lib, err := library.Open(ctx, records, s.library(), log)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, lib.Close()) }()
	if load != nil {
		if err := load(ctx, lib); err != nil {
			return err
		}
	}
	closing := make(chan struct{})
	handler := server.Handler(lib, console.Files(), version, log, closing)
	ready(lib, listener.Addr().String())
	return server.Serve(ctx, listener, handler, func() { close(closing) }, log)
}
