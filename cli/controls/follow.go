package controls

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// followControlCommand makes the command follow: be told of each result of somebody's run control; --end no longer.
func followControlCommand(c *Program) *cobra.Command {
	var end bool
	cmd := &cobra.Command{
		Use:   "follow ID",
		Short: "Be told of each result of somebody's run control, on your desk and by mail; --end no longer",
		Long: `Be told of each result of a run control that somebody shares with you, as far as you may see it:
on your desk (mantilla needs) and by mail.`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			now, err := talk.Fetch[api.Following](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.FollowControl(cmd.Context(), given[0], api.Following{Follows: !end})
			})
			switch {
			case err != nil:
				return err
			case c.JSON():
				return c.PrintJSON(now)
			case now.Follows:
				fmt.Fprintf(c.Err, "You are told of each result of %s; mantilla control follow %s --end ends that.\n",
					given[0], given[0])
			default:
				fmt.Fprintf(c.Err, "You are no longer told of results of %s.\n", given[0])
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&end, "end", false, "be told no longer")
	return cmd
}
