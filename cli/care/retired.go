package care

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// RetiredCommand makes the command retired: what nothing new is to use.
func RetiredCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "retired",
		Short: "Sources, shared parameters, groups and addresses that nothing new is to use; add and end",
		Example: `  mantilla retired add source oldcoop --successor coop
  mantilla retired add address m.marr --successor t.tansey
  mantilla retired end group field`,
		Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := talk.Fetch[[]api.Retired](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListRetired(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{Headings: []string{"What", "Id", "Instead", "Since", "By"}}
			for _, r := range list {
				t.Rows = append(t.Rows, []string{string(r.Kind), r.Id, talk.Deref(r.Successor), c.At(r.At), r.By})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	var successor string
	add := &cobra.Command{
		Use:       "add source|parameter|group|address ID",
		Short:     "Retire something; what uses it goes on, and is told what takes its place",
		Args:      talk.Args(cobra.ExactArgs(2)),
		ValidArgs: []string{"source", "parameter", "group", "address"},
		RunE: func(cmd *cobra.Command, given []string) error {
			body := api.Retirement{}
			if successor != "" {
				body.Successor = &successor
			}
			return c.Done(fmt.Sprintf("the %s %s is retired.", given[0], given[1]),
				func(a *client.Client) (*http.Response, error) {
					return a.RetireOther(cmd.Context(), given[0], given[1], body)
				})
		},
	}
	add.Flags().StringVar(&successor, "successor", "", "what is used instead")
	cmd.AddCommand(add, &cobra.Command{
		Use:   "end source|parameter|group|address ID",
		Short: "Let something be used again",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done(fmt.Sprintf("the %s %s can be used again.", given[0], given[1]),
				func(a *client.Client) (*http.Response, error) {
					return a.ReinstateOther(cmd.Context(), given[0], given[1])
				})
		},
	})
	return cmd
}
