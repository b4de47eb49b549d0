package people

import (
	"net/http"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// SessionsCommand makes the command sessions.
func SessionsCommand(c *Program) *cobra.Command {
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
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := talk.Fetch[[]api.Session](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListSessions(cmd.Context(), &api.ListSessionsParams{Person: params()})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Session", "Kind", "Since", "Until", "Used last", "Acts as", "Label"}}
			for _, s := range all {
				label := s.Label
				if s.Present {
					label = strings.TrimSpace(label + " (this one)")
				}
				t.Rows = append(t.Rows, []string{s.Id, string(s.Kind), c.At(s.MadeAt), c.At(s.EndsAt), c.atOnce(s.LastAt),
					string(talk.Deref(s.As)), label})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.PersistentFlags().StringVar(&person, "person", "", "of another account, for administrators")
	cmd.AddCommand(&cobra.Command{
		Use: "end SESSION", Short: "Sign a browser or command line out", Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done(given[0]+" is signed out.", func(a *client.Client) (*http.Response, error) {
				return a.EndSession(cmd.Context(), given[0], &api.EndSessionParams{Person: params()})
			})
		},
	})
	return cmd
}

// atOnce is a moment that there may be none of.
func (c *Program) atOnce(at *time.Time) string {
	if at == nil {
		return ""
	}
	return c.At(*at)
}
