package capture

import (
	"net/http"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/reading"
	"mantilla/cli/talk"
)

// FollowCommand makes the command follow.
func FollowCommand(c *Program) *cobra.Command {
	var noWait bool
	cmd := reading.Of(c.Program).Looking("follow RESULT COLUMN", "Run the report that a column of a row opens",
		`  mantilla follow R-000001 lot_no --filter lot_no=L26-03512
  mantilla follow R-000004 agreement --view agreements --filter agreement=A-0017`, 2,
		func(cmd *cobra.Command, result, view string, r reading.Reading, given []string) error {
			in, row, err := reading.Of(c.Program).OneRow(cmd.Context(), result, view, r)
			if err != nil {
				return err
			}
			key := uuid.NewString()
			run, err := talk.Fetch[api.Run](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.FollowLink(cmd.Context(), result, in, &api.FollowLinkParams{IdempotencyKey: &key},
					api.Followed{Row: row, Column: given[0]})
			})
			if err != nil {
				return err
			}
			return c.Await(cmd.Context(), run, noWait, func(string) error { return nil })
		})
	cmd.Flags().BoolVar(&noWait, "no-wait", false, "do not wait for the end")
	return cmd
}
