package people

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// SecondCommand makes the command second: set up a second factor, or take it away.
func SecondCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "second",
		Short: "Set up a second factor: codes by time that are asked for beside the password",
		Long: `Set up a second factor. An authenticator on a telephone takes the secret, or the address that
is printed; the code that it shows is asked for, or read from standard input, and from then on
beside the password. Keep the codes that are printed then: each signs you in once when the
telephone is lost. Who signs in by a provider has the provider's.`,
		Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			n, err := talk.Fetch[api.NewSecond](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.BeginSecond(cmd.Context()) })
			if err != nil {
				return err
			}
			fmt.Fprintf(c.Err, "secret   %s\naddress  %s\n", n.Secret, n.Uri)
			code, err := c.AskSecret(cmd, "Code that the authenticator shows: ")
			if err != nil {
				return err
			}
			left, err := talk.Fetch[[]string](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ConfirmSecond(cmd.Context(), api.Code{Code: code})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(left)
			}
			fmt.Fprintln(c.Err, "· it counts from now on; keep these codes for the day that it is lost, each for one time:")
			for _, one := range left {
				fmt.Fprintln(c.Out, one)
			}
			return nil
		},
	}
	cmd.AddCommand(&cobra.Command{
		Use: "end", Short: "Take the second factor away, by a code of it", Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			code, err := c.AskSecret(cmd, "Code: ")
			if err != nil {
				return err
			}
			return c.Done("The second factor is gone.", func(a *client.Client) (*http.Response, error) {
				return a.EndSecond(cmd.Context(), api.Code{Code: code})
			})
		},
	})
	return cmd
}

// resetCommand makes the command reset-second: take another's second factor away.
func resetCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "reset-second NAME",
		Short: "Take the second factor of an account away, whose owner lost it",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done("The second factor of "+given[0]+" is gone.",
				func(a *client.Client) (*http.Response, error) { return a.ResetSecond(cmd.Context(), given[0]) })
		},
	}
}
