package people

import (
	"encoding/json"
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api/client"
	"mantilla/cli/talk"
)

// dataCommand makes the command export: what the service keeps of a person.
func dataCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "export NAME",
		Short: "Print what the service keeps of a person, as JSON: yourself, or anybody for administrators",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, names []string) error {
			data, err := talk.Fetch[json.RawMessage](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.GetDataOf(cmd.Context(), names[0])
			})
			if err != nil {
				return err
			}
			return c.PrintJSON(data)
		},
	}
}

// eraseCommand makes the command erase: take a person out of the service.
func eraseCommand(c *Program) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{
		Use:   "erase NAME",
		Short: "Take a person out of the service whose account is closed; what they did goes on under an alias",
		Example: `  mantilla people put ottilie --closed
  mantilla people hand-over ottilie dora
  mantilla people erase ottilie`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, names []string) error {
			if err := c.Confirmed(cmd, names[0], "cannot be brought back", yes); err != nil {
				return err
			}
			gone, err := talk.Fetch[struct{ Alias string }](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ErasePerson(cmd.Context(), names[0])
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(gone)
			}
			fmt.Fprintf(c.Out, "%s is called %s from now on.\n", names[0], gone.Alias)
			return nil
		},
	}
	cmd.Flags().BoolVar(&yes, "yes", false, "erase without asking")
	return cmd
}
