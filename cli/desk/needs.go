package desk

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// NeedsCommand makes the command needs: what needs one, with what there is to do.
func NeedsCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "needs",
		Short: "What needs you: notes, requests, and what failed, each with what there is to do",
		Long: `What needs you, the newest first. What you were told goes with: mantilla notices away NUMBER;
all else goes when it is done.`,
		Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := talk.Fetch[[]api.Need](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListNeeds(cmd.Context()) })
			switch {
			case err != nil:
				return err
			case c.JSON():
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"What", "Of", "At", "Notice", "To do", "Says"}}
			for _, n := range all {
				notice := ""
				if n.Notice != nil {
					notice = fmt.Sprint(*n.Notice)
				}
				t.Rows = append(t.Rows, []string{string(n.Kind), n.Of, c.At(n.At), notice, n.Do, n.Says})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}
