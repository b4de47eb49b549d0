package people

import (
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// PasskeysCommand makes the command passkeys: list your passkeys; delete one.
func PasskeysCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "passkeys",
		Short: "List your passkeys, which sign you in to the console without a password; delete one",
		Long: `List your passkeys. A browser makes them: in the console, in the menu with your name. A
command line signs in by a password, or by a token.`,
		Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := talk.Fetch[[]api.Passkey](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListPasskeys(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Passkey", "On", "Made", "Used last"}}
			for _, k := range all {
				last := ""
				if k.LastAt != nil {
					last = c.At(*k.LastAt)
				}
				t.Rows = append(t.Rows, []string{k.Id, k.Label, c.At(k.MadeAt), last})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(c.Removing("delete PASSKEY", "Make a passkey of yours worthless", nil,
		func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
			return a.DeletePasskey(cmd.Context(), id)
		}))
	return cmd
}
