package people

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// TokenCommand makes the command token: make a token for a script.
func TokenCommand(c *Program) *cobra.Command {
	as, person, days := "", "", 0
	cmd := &cobra.Command{
		Use:   "token LABEL",
		Short: "Make a token for a script, or for the command line of who signs in by a provider",
		Long: `Make a token and print it; nothing tells it again. A script takes it from MANTILLA_TOKEN.
With --as it acts as its owner with another role at most: a reader's reads what is open to
them, a runner's runs as well. mantilla sessions lists tokens with when they were used last,
and mantilla sessions end makes one worthless.`,
		Example: "  mantilla token 'nightly export' --as reader --days 90\n" +
			"  mantilla token 'payroll script' --person payroll --as runner",
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			body := api.NewToken{Label: given[0], Days: days}
			if as != "" {
				role := api.Role(as)
				body.As = &role
			}
			if person != "" {
				body.Person = &person
			}
			made, err := talk.Fetch[api.MadeToken](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.NewToken(cmd.Context(), body) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(made)
			}
			fmt.Fprintf(c.Err, "· it lasts until %s; it is not told again\n", c.At(made.Ends))
			_, err = fmt.Fprintln(c.Out, made.Token)
			return err
		},
	}
	cmd.Flags().StringVar(&as, "as", "", "the role that it acts as at most: reader, runner, author, librarian")
	cmd.Flags().IntVar(&days, "days", 90, "how many days it lasts, up to 366")
	cmd.Flags().StringVar(&person, "person", "",
		"of another account: a service account that you answer for; for administrators, any")
	return cmd
}
