// Package backup has the commands of back-ups of the records.
package backup

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command backup: list, make and take away copies of the records.
func Command(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "backup",
		Short: "List the back-ups that the service keeps; make one, or take one away",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			b, err := talk.Fetch[api.Backups](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListBackups(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(b)
			}
			t := talk.Table{Headings: []string{"Back-up", "Made", "Bytes", "Has"}, Right: []bool{2: true, 3: false}}
			for _, f := range b.Files {
				t.Rows = append(t.Rows, []string{f.Name, c.At(f.At), fmt.Sprint(f.Bytes), has(f)})
			}
			if _, err := c.Draw(&t); err != nil {
				return err
			}
			c.told(b)
			return nil
		},
	}
	cmd.AddCommand(takeCommand(c), makeCommand(c))
	return cmd
}

func takeCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "take TO",
		Short: "Copy the records while the service runs, into a directory or file, or - for standard output",
		Long: `Copy everything that the service keeps (catalog, results, people, run controls) into one
file, while it runs. What is written meanwhile is not in it, and nobody waits for it.

Not in it are the files of sources, and the key that seals passwords (--key-file): keep that
apart. mantilla restore brings a back-up back, mantilla verify looks whether one can be.`,
		Example: "  mantilla backup take /mnt/elsewhere/\n" +
			"  mantilla backup take - | ssh elsewhere 'cat > mantilla.backup'",
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.TakeBackup(cmd.Context()) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			return c.written(given[0], r)
		},
	}
}

// written writes a back-up that comes, whole or not at all.
func (c *Program) written(to string, r *http.Response) error {
	if to == "-" {
		_, err := io.Copy(c.Out, r.Body)
		return err
	}
	if about, err := os.Stat(to); err == nil && about.IsDir() {
		_, name, _ := strings.Cut(r.Header.Get("Content-Disposition"), `filename="`)
		to = filepath.Join(to, filepath.Base(strings.TrimSuffix(name, `"`)))
	}
	n, err := talk.WriteWhole(to, r.Body)
	if err != nil {
		return fmt.Errorf("writing %s: %w", to, err)
	}
	fmt.Fprintf(c.Err, "%s is written, %d bytes; look at it with: mantilla verify '%s'\n", to, n, to)
	return nil
}

// told says where back-ups go, and what is wrong.
func (c *Program) told(b api.Backups) {
	switch {
	case b.Dir == "":
		fmt.Fprintln(c.Err, "· the service makes none by itself: start it with --backup-dir")
	case b.EverySeconds == 0:
		fmt.Fprintf(c.Err, "· in %s, when somebody asks; %s\n", b.Dir, stay(b))
	default:
		fmt.Fprintf(c.Err, "· in %s, one every %s; %s\n", b.Dir, time.Duration(b.EverySeconds)*time.Second, stay(b))
	}
	if b.Fault != nil {
		fmt.Fprintf(c.Err, "✗ the last was not made, %s: %s\n", c.At(*b.FaultAt), *b.Fault)
	}
}

// has says what is in a back-up.
func has(f api.Backup) string {
	if f.After == nil {
		return "everything"
	}
	return "what changed since " + *f.After
}

// stay says which back-ups are not removed.
func stay(b api.Backups) string {
	if b.Whole <= 1 {
		return fmt.Sprintf("each has everything, the newest %d stay", b.Keep)
	}
	return fmt.Sprintf("one of %d has everything, the others what changed since; the newest %d stay, with those that "+
		"they lean on", b.Whole, b.Keep)
}

func makeCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "make",
		Short: "Make a back-up now where the service keeps them",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := talk.Fetch[api.Backup](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.MakeBackup(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(f)
			}
			_, err = fmt.Fprintf(c.Out, "%s is made, %d bytes: %s.\n", f.Name, f.Bytes, has(f))
			return err
		},
	}
}
