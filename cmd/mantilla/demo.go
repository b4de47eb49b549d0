package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"mantilla/core/nearest"
	"mantilla/deliver/mailbox"
	"mantilla/demo"
	"mantilla/demo/provider"
	"mantilla/demo/servers"
	"mantilla/library"
	"mantilla/store"
)

func demoCommand() *cobra.Command {
	var with string
	var standIn bool
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Run the service on made-up data of a honey cooperative",
		Long: `Write the demo data into the data directory (once), take its reports into the
catalog, and run the service on the demo's business date.

With --with postgres or --with mariadb the cooperative's records lie on a server
that is started from the packages which are installed, with its files in the data
directory; every report gives the same figures there.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) (err error) {
			settings, err := readSettings(cmd)
			if err != nil {
				return err
			}
			if !cmd.Flags().Changed("log-level") {
				settings.LogLevel = "warn" // what is loaded is no news
			}
			settings.Name = "Brackenfell Honey Cooperative"
			if settings.BusinessDate == "" {
				settings.BusinessDate = demo.Today.String()
			}
			if settings.BackupDir == "" { // where somebody may ask for one
				settings.BackupDir, settings.BackupEvery = filepath.Join(settings.Data, "backups"), 0
			}
			if err := settings.check(); err != nil {
				return err
			}
			begun := time.Now()
			if err := demo.WriteData(cmd.Context(), settings.Data); err != nil {
				return err
			}
			if err := keepHistory(cmd.Context(), settings); err != nil {
				return fmt.Errorf("making the year before today: %w", err)
			}
			wrote := time.Since(begun)
			if settings.SMTP == "" {
				if settings.mailbox,
					err = mailbox.Open(filepath.Join(settings.Data, "mailbox"), "127.0.0.1:0", settings.now); err != nil {
					return err
				}
				defer settings.mailbox.Close()
				settings.SMTP, settings.SMTPTLS, settings.MailFrom = settings.mailbox.Address(), "none",
					"Brackenfell reports <reports@brackenfell.example>"
			}
			if standIn {
				there, err := startProvider(settings)
				if err != nil {
					return err
				}
				defer func() { err = errors.Join(err, there.Close()) }()
			}
			load := demo.LoadAll
			if with != "" {
				there, err := servers.Start(cmd.Context(), with, settings.Data, filepath.Join(settings.Data, demo.SourceFile))
				if err != nil {
					return err
				}
				defer func() { err = errors.Join(err, there.Stop()) }()
				load = func(ctx context.Context, l *library.Library) error {
					return errors.Join(demo.LoadAll(ctx, l), there.Declare(ctx, l.AsService()))
				}
			}
			return serve(cmd.Context(), settings, load, func(l *library.Library, address string) error {
				printDemo(cmd, l, settings.scheme()+"://"+address, wrote)
				return nil
			})
		},
	}
	addSettings(cmd)
	cmd.Flags().StringVar(&with, "with", "", "take the records to a server: "+strings.Join(servers.Kinds(), " or "))
	cmd.Flags().BoolVar(&standIn, "provider", false, "start a stand-in for an OpenID Connect provider, by which people "+
		"sign in as well")
	return cmd
}

// startProvider starts the stand-in provider, which knows the people of the demo and one more, and has
// the service ask it.
func startProvider(s *settings) (*provider.Provider, error) {
	people := []provider.Person{{Name: "nell", Title: "Nell Briarwood", Groups: []string{"field"},
		Units: []string{"UF-HOL"}}}
	for _, p := range demo.People {
		units := p.Units
		if len(units) == 0 {
			units = []string{"*"}
		}
		people = append(people, provider.Person{Name: p.Name, Title: p.Title, Groups: demo.GroupsOf(p.Name), Units: units})
	}
	there, err := provider.Start("127.0.0.1:0", demo.Password, people)
	if err != nil {
		return nil, err
	}
	s.OIDCIssuer, s.OIDCClient, s.OIDCLabel, s.OIDCAccounts = there.Issuer, there.Client, "the stand-in provider", "runner"
	s.OIDCGroups, s.OIDCUnits = "groups", "units"
	return there, s.check()
}

// keepHistory has the demo's year go by, where there are no records yet.
func keepHistory(ctx context.Context, s *settings) error {
	if _, err := os.Stat(filepath.Join(s.Data, store.RecordsFile)); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: max(s.logLevel.Level(), slog.LevelWarn)}))
	return demo.KeepHistory(ctx, s.Data, func(ctx context.Context, at time.Time) (*library.Library, func() error, error) {
		then, begun := s.library(), time.Now()
		then.Backup.Dir = "" // nobody waits for back-ups of a year that is made in seconds
		then.Organisation.Now = func() time.Time { return at.Add(time.Since(begun)) }
		records, err := store.Open(ctx, s.Data, s.CacheMB<<20)
		if err != nil {
			return nil, nil, err
		}
		l, err := library.Open(ctx, records, then, log)
		if err != nil {
			return nil, nil, errors.Join(err, records.Close())
		}
		return l, func() error { return errors.Join(l.Close(), records.Close()) }, nil
	})
}

func printDemo(cmd *cobra.Command, l *library.Library, address string, wrote time.Duration) {
	out := cmd.OutOrStdout()
	fmt.Fprintf(out, "The demo data is ready (%.1f s). Today is %s in the demo.\n\n", wrote.Seconds(),
		l.Calendar().Today.Long())
	fmt.Fprintf(out, "  Console       %s\n", address)
	fmt.Fprintln(out, "  Accounts      all with the password", demo.Password)
	for _, p := range demo.People {
		about := string(p.Role)
		if len(p.Units) > 0 {
			about += ", sees only " + nearest.And(p.Units) + " with everything below"
		}
		fmt.Fprintf(out, "    %-12s%s: %s\n", p.Name, p.Title, about)
	}
	if l.Settings().Trust.Asked {
		fmt.Fprintln(out, "  Provider      a stand-in: the same people sign in there with the same password, and nell, who "+
			"has no account yet")
	}
	if l.Settings().Sending.Mailbox != nil {
		fmt.Fprintln(out, "  Mail          stays here: adda reads all of it in the console under Sending, Stand-in "+
			"mailbox; others what is theirs")
	}
	command := os.Args[0]
	if !strings.HasSuffix(address, ":8480") {
		command = "MANTILLA_SERVICE=" + address + " " + command
	}
	fmt.Fprintf(out, "  Command line  %s login runa\n\nPress Ctrl-C to end it.\n", command)
}
