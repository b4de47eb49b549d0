package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"runtime"

	"github.com/spf13/cobra"

	"mantilla/console"
	"mantilla/library"
	"mantilla/library/acting"
	"mantilla/server"
	"mantilla/server/ops"
	"mantilla/store"
	"mantilla/tracing"
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
			return serve(cmd.Context(), settings, nil, func(l *library.Library, address string) error {
				out := cmd.OutOrStdout()
				name, password, err := l.Door().FirstAdministrator(cmd.Context())
				if name != "" && err == nil {
					fmt.Fprintf(out, "There were no accounts, so one was made: %s with the password %s. Sign in and change it.\n",
						name, password)
				}
				fmt.Fprintf(out, "Mantilla answers at %s://%s\n", settings.scheme(), address)
				return err
			})
		},
	}
	addSettings(cmd)
	return cmd
}

// beside answers what watches over the service, at an address of its own, until ended is called;
// nothing where there is no address.
func beside(ctx context.Context, address string, handler http.Handler, log *slog.Logger) (ended func(), err error) {
	if address == "" {
		return func() {}, nil
	}
	listener, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("ops-address: %w", err)
	}
	ctx, stop := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() {
		defer close(done)
		if err := server.Serve(ctx, listener, handler, func() {}, log); err != nil {
			log.Error("what watches over the service is not answered", "error", err)
		}
	}()
	log.Info("what watches over the service is answered", "address", listener.Addr().String())
	return func() { stop(); <-done }, nil
}

// serve opens everything, answers until the context ends, and closes
// everything in the opposite order. Load, if any, fills the catalog first;
// ready is called when the service answers.
func serve(ctx context.Context, s *settings, load func(context.Context, *library.Library) error,
	ready func(*library.Library, string) error) (err error) {
	log := s.log(os.Stderr)
	slog.SetDefault(log)
	traced, err := tracing.To(ctx, s.OTLP, version)
	if err != nil {
		return err
	}
	defer traced()
	listener, err := server.Listen(s.Address, s.TLSCert, s.TLSKey)
	if err != nil {
		return err
	}
	defer listener.Close()
	// Every worker has a thread of its own that steps back behind readers; these need
	// as many to go on with as before.
	runtime.GOMAXPROCS(runtime.GOMAXPROCS(0) + s.Workers)
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
	watch := ops.New(lib, &s.logLevel, version)
	handler, err := server.Handler(lib, server.Settings{Console: console.Files(), Version: version,
		TrustedProxies: s.TrustedProxies, Closing: closing, Observe: watch.Observe, Rate: s.Rate,
		Provider: s.provider(), Local: s.LocalAccount == ""}, log)
	if err != nil {
		return err
	}
	watched, err := beside(ctx, s.OpsAddress, watch.Handler(), log)
	if err != nil {
		return err
	}
	defer watched()
	if err := ready(lib, listener.Addr().String()); err != nil {
		return err
	}
	if err := lib.NoteSettings(ctx, s.said); err != nil {
		return err
	}
	lib.Note(ctx, acting.Done{Act: "startService", Kind: "service", ID: s.Name, Why: "version " + version})
	defer func() { lib.Note(ctx, acting.Done{Act: "stopService", Kind: "service", ID: s.Name}) }()
	return server.Serve(ctx, listener, handler, func() { close(closing) }, log)
}
