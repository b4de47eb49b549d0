package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"mantilla/cli/talk"
	"mantilla/core/audit"
	"mantilla/store"
	"mantilla/store/backup"
)

// restoreCommand brings a back-up back.
func restoreCommand() *cobra.Command {
	var dir, key, result string
	cmd := &cobra.Command{
		Use:   "restore FILE",
		Short: "Bring the records of a back-up into a data directory that has none, or the rows of a damaged result back",
		Long: `Bring the records of a back-up into a data directory that has none. They are there whole
and unchanged, or not at all. The next mantilla serve opens them, and brings them up to date
where the back-up is of an earlier version.

With --result the rows of that one come from the back-up into records that are there, whose
service is stopped: where mantilla verify tells that it is damaged. It has to be the same
result, whole in the back-up by its seal.

Put the key that seals passwords (secrets.key, or --key-file) and the files of sources beside
them; they are in no back-up.`,
		Example: "  mantilla restore mantilla-20261015T030000Z.backup --data data\n" +
			"  mantilla restore mantilla-20261015T030000Z.backup --data data --result R-12",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, given []string) error {
			if result != "" {
				return mended(cmd, given[0], key, dir, result)
			}
			a, err := backup.Restore(given[0], key, dir)
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%s has the records of %s as of %s: %d results, %d bytes.\n", dir, a.Of,
				a.At.Local().Format(time.RFC1123), a.Results, a.Bytes)
			return err
		},
	}
	cmd.Flags().StringVar(&dir, "data", "data", "data directory")
	cmd.Flags().StringVar(&key, "key", "", "file of the key that opens a back-up which is encrypted")
	cmd.Flags().StringVar(&result, "result", "", "only the rows of this result, into records that are there")
	return cmd
}

// mended takes the rows of a result from a back-up.
func mended(cmd *cobra.Command, file, key, dir, result string) (err error) {
	number, err := strconv.ParseInt(strings.TrimPrefix(strings.ToUpper(result), "R-"), 10, 64)
	if err != nil {
		return talk.Usage("--result: %q is no result such as R-000012", result)
	}
	place, err := os.MkdirTemp("", "mantilla-restore")
	if err != nil {
		return err
	}
	defer os.RemoveAll(place)
	if _, err := backup.Restore(file, key, place); err != nil {
		return err
	}
	there, err := store.Open(cmd.Context(), place, 64<<20) // which brings it up to date
	if err != nil {
		return err
	}
	seal, err := there.Backup().Good(cmd.Context(), number)
	if err = errors.Join(err, there.Close()); err != nil {
		return fmt.Errorf("in the back-up: %w", err)
	}
	records, err := store.Open(cmd.Context(), dir, 64<<20)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	if err := records.Backup().Mend(cmd.Context(), number, seal, filepath.Join(place, store.RecordsFile)); err != nil {
		return err
	}
	if _, err := records.Backup().Good(cmd.Context(), number); err != nil {
		return err
	}
	if _, err := records.Audit().Add(cmd.Context(), audit.Line{At: time.Now(), Face: "command line", Act: "restoreResult",
		Kind: "result", ID: fmt.Sprintf("R-%06d", number), Outcome: "done", Why: "from " + filepath.Base(file)},
		false); err != nil {
		return err
	}
	_, err = fmt.Fprintf(cmd.OutOrStdout(), "R-%06d has its rows back, as they were sealed.\n", number)
	return err
}

// verifyCommand proves that records, or a back-up of them, are whole.
func verifyCommand() *cobra.Command {
	var dir, key string
	cmd := &cobra.Command{
		Use:   "verify [FILE]",
		Short: "Prove that the records, or a back-up of them, are whole: every seal, key and blob",
		Long: `Read all records of a data directory whose service is stopped, or of a back-up: whether the
file is sound, whether everything that is spoken of is there, and of each result whether its
rows are those that were sealed. A back-up is unpacked for that beside the system's temporary
files and opened as a service would. Exit code 1 tells that something is wrong.`,
		Example: "  mantilla verify --data data\n  mantilla verify mantilla-20261015T030000Z.backup",
		Args:    cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, given []string) error {
			if len(given) == 0 {
				return verify(cmd, dir, dir)
			}
			place, err := os.MkdirTemp("", "mantilla-verify")
			if err != nil {
				return err
			}
			defer os.RemoveAll(place)
			a, err := backup.Restore(given[0], key, place)
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "· of %s, made %s by %s\n", a.Of, a.At.Local().Format(time.RFC1123), a.Program)
			return verify(cmd, place, given[0])
		},
	}
	cmd.Flags().StringVar(&dir, "data", "data", "data directory")
	cmd.Flags().StringVar(&key, "key", "", "file of the key that opens a back-up which is encrypted")
	return cmd
}

func verify(cmd *cobra.Command, dir, called string) (err error) {
	if _, err := os.Stat(filepath.Join(dir, store.RecordsFile)); err != nil {
		return fmt.Errorf("the directory %s has no records of a service: %w", dir, err)
	}
	records, err := store.Open(cmd.Context(), dir, 64<<20)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	found, err := verified(cmd.Context(), records)
	if err != nil {
		return err
	}
	if output := cmd.Flag("output"); output != nil && output.Value.String() == "json" {
		if err := json.NewEncoder(cmd.OutOrStdout()).Encode(found); err != nil {
			return err
		}
	} else {
		for _, fault := range found.Faults {
			fmt.Fprintln(cmd.OutOrStdout(), "✗", fault)
		}
	}
	if n := len(found.Faults); n > 0 {
		return &talk.Coded{Code: talk.ExitOther, Text: fmt.Sprintf("%s is damaged: %d faults", called, n)}
	}
	if output := cmd.Flag("output"); output == nil || output.Value.String() != "json" {
		fmt.Fprintf(cmd.OutOrStdout(), "%s is whole: %d results with %d rows are as they were sealed, and "+
			"%d lines of the audit are as they were added.\n", strings.TrimSuffix(called, "/"), found.Results, found.Rows,
			found.Lines)
	}
	return nil
}

func verified(ctx context.Context, records *store.Store) (backup.Verified, error) {
	return records.Backup().Verify(ctx, func(int64) {})
}

// keyCommand makes a key for back-ups.
func keyCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "key FILE",
		Short: "Make a key that opens back-ups, and print for whom these are to be encrypted",
		Long: `Make a key in a file that is not there yet, and print its public part. Put that into a file
for mantilla serve --backup-for: back-ups are encrypted for it from then on, in the format of
age (age-encryption.org), and the service itself cannot open them. Keep the key apart from
them, and twice: without it nobody opens them.`,
		Example: "  mantilla key backup.key > backup.pub\n  mantilla serve --backup-dir /mnt/elsewhere --backup-for " +
			"backup.pub",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, given []string) error {
			public, err := backup.NewKey(given[0])
			if err == nil {
				_, err = fmt.Fprintln(cmd.OutOrStdout(), public)
			}
			return err
		},
	}
}
