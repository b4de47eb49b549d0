package cli

import (
	"bufio"
	"fmt"
	"net/http"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"mantilla/api"
	"mantilla/api/client"
)

// confirmed asks at a terminal before something is gone for good; elsewhere
// --yes must say so.
func (c *program) confirmed(cmd *cobra.Command, what string, yes bool) error {
	if yes {
		return nil
	}
	file, ok := cmd.InOrStdin().(*os.File)
	if !ok || !term.IsTerminal(int(file.Fd())) {
		return usage("%s cannot be brought back; repeat with --yes to delete it", what)
	}
	fmt.Fprintf(c.err, "%s cannot be brought back. Delete it? [y/N] ", what)
	line, err := bufio.NewReader(file).ReadString('\n')
	if answer := strings.ToLower(strings.TrimSpace(line)); err != nil || answer != "y" && answer != "yes" {
		return &coded{exitOther, "nothing was deleted"}
	}
	return nil
}

// removing is a command that deletes one thing for good.
func (c *program) removing(use, short string, complete cobra.CompletionFunc,
	remove func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error)) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{Use: use, Short: short, Args: args(cobra.ExactArgs(1)), ValidArgsFunction: complete,
		RunE: func(cmd *cobra.Command, given []string) error {
			if err := c.confirmed(cmd, given[0], yes); err != nil {
				return err
			}
			return c.done(given[0]+" is deleted.",
				func(a *client.Client) (*http.Response, error) { return remove(cmd, a, given[0]) })
		}}
	cmd.Flags().BoolVar(&yes, "yes", false, "delete without asking")
	return cmd
}

func sessionsCommand(c *program) *cobra.Command {
	var person string
	params := func() *string {
		if person == "" {
			return nil
		}
		return &person
	}
	cmd := &cobra.Command{
		Use:   "sessions",
		Short: "List the browsers and command lines that are signed in as you; end one",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := fetch[[]api.Session](c, func(a *client.Client) (*http.Response, error) {
				return a.ListSessions(cmd.Context(), &api.ListSessionsParams{Person: params()})
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(all)
			}
			t := table{headings: []string{"Session", "Kind", "Since", "Until", "Label"}}
			for _, s := range all {
				label := s.Label
				if s.Present {
					label = strings.TrimSpace(label + " (this one)")
				}
				t.rows = append(t.rows, []string{s.Id, string(s.Kind), c.at(s.MadeAt), c.at(s.EndsAt), label})
			}
			_, err = c.draw(&t)
			return err
		},
	}
	cmd.PersistentFlags().StringVar(&person, "person", "", "of another account, for administrators")
	cmd.AddCommand(&cobra.Command{
		Use: "end SESSION", Short: "Sign a browser or command line out", Args: args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.done(given[0]+" is signed out.", func(a *client.Client) (*http.Response, error) {
				return a.EndSession(cmd.Context(), given[0], &api.EndSessionParams{Person: params()})
			})
		},
	})
	return cmd
}

func marksCommand(c *program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "marks REPORT",
		Short: "Until when you looked at a report with since last run; set a mark back",
		Long: `A range that is typed as since last run begins where the last one so typed
ended, for the same other values: of you, of the criteria, or of the run control.
Looking at an earlier month moves no mark.`,
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			all, err := fetch[[]api.Mark](c,
				func(a *client.Client) (*http.Response, error) { return a.ListMarks(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(all)
			}
			t := table{headings: []string{"Mark", "Whose", "Looked until", "By", "Values"}}
			for _, m := range all {
				t.rows = append(t.rows, []string{m.Id, m.Whose, m.Says, m.Run, m.Sentence})
			}
			_, err = c.draw(&t)
			return err
		},
	}
	set := &cobra.Command{
		Use:     "set MARK MOMENT",
		Short:   "Say until when you looked: 2026-10-14 or '2026-10-14 06:00', in your zone",
		Example: "  mantilla marks set M-3 '2026-10-01 06:00'",
		Args:    args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			at, err := c.momentOf(given[1])
			if err != nil {
				return err
			}
			m, err := fetch[api.Mark](c, func(a *client.Client) (*http.Response, error) {
				return a.SetMark(cmd.Context(), given[0], api.SetMarkJSONRequestBody{At: at})
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(m)
			}
			fmt.Fprintf(c.out, "%s begins at %s now.\n", m.Label, m.Says)
			return nil
		},
	}
	cmd.AddCommand(set,
		c.removing("delete MARK", "Forget until when you looked", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteMark(cmd.Context(), id)
			}))
	return cmd
}

// momentOf reads a day or a moment in your zone.
func (c *program) momentOf(text string) (time.Time, error) {
	for _, layout := range []string{time.RFC3339, "2006-01-02 15:04:05", "2006-01-02 15:04", "2006-01-02T15:04",
		time.DateOnly} {
		if at, err := time.ParseInLocation(layout, text, c.zone()); err == nil {
			return at, nil
		}
	}
	return time.Time{}, usage("%q is not a moment such as 2026-10-14 or '2026-10-14 06:00'", text)
}
