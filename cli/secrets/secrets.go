// Package secrets has the commands of the passwords and keys of sources.
package secrets

import (
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command secret: list, set or delete passwords and keys of sources.
func Command(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "secret",
		Short: "List the passwords and keys of sources by their names; set or delete one",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := talk.Fetch[[]api.Secret](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListSecrets(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Secret", "From", "Changed", "By"}}
			for _, s := range all {
				changed := ""
				if s.ChangedAt != nil {
					changed = c.At(*s.ChangedAt)
				}
				t.Rows = append(t.Rows, []string{s.Name, string(s.From), changed, talk.Deref(s.ChangedBy)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	set := &cobra.Command{
		Use:     "set NAME",
		Short:   "Keep a password or key; it is asked for, or read from standard input",
		Example: "  mantilla secret set shop-reader < password.txt",
		Args:    talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := c.AskSecret(cmd, "What "+given[0]+" holds: ")
			if err != nil {
				return err
			}
			return c.Done(given[0]+" is kept.", func(a *client.Client) (*http.Response, error) {
				return a.PutSecret(cmd.Context(), given[0], api.PutSecretJSONRequestBody{Text: text})
			})
		},
	}
	cmd.AddCommand(set, c.Removing("delete NAME", "Forget a password or key of the service's own records", nil,
		func(cmd *cobra.Command, a *client.Client, name string) (*http.Response, error) {
			return a.DeleteSecret(cmd.Context(), name)
		}))
	return cmd
}
