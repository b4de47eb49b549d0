package people

import (
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// PurposeCommand makes the command purpose: say what you read the results of a report for.
func PurposeCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "purpose REPORT WHY",
		Short: "Say what you read the results of a report for, which asks so",
		Long: `Some reports say of people what not everybody is to see, and ask whoever reads their rows
what for. It counts for twelve hours and is in the audit, with each reading.`,
		Example:           "  mantilla purpose staff-profile 'yearly talk with the team'",
		Args:              talk.Args(cobra.ExactArgs(2)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done("It is in the audit, and counts for twelve hours.",
				func(a *client.Client) (*http.Response, error) {
					return a.SayPurpose(cmd.Context(), given[0], api.SayPurposeJSONRequestBody{Purpose: given[1]})
				})
		},
	}
}
