package reading

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// ViewsCommand makes the command views: views that people kept of a report.
func ViewsCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:               "views REPORT",
		Short:             "Views that people kept of a report",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			views, err := talk.Fetch[[]api.KeptView](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListKeptViews(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(views)
			}
			t := talk.Table{Headings: []string{"View", "Name", "Based on", "For", "Kept by"}}
			for _, v := range views {
				t.Rows = append(t.Rows,
					[]string{v.Id, v.Name, v.View, map[bool]string{true: "everyone", false: "me"}[v.Everyone], v.Owner})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(keepViewCommand(c), deleteViewCommand(c))
	return cmd
}

// keepViewCommand makes the command delete: delete a kept view.
func keepViewCommand(c *Program) *cobra.Command {
	var everyone bool
	cmd := c.Looking("keep RESULT NAME", "Keep a view of a result's report, as the options change it",
		`  mantilla views keep R-000001 'By grade' --group grade --columns net_kg,value --everyone
  mantilla show R-000002 --view V-1`, 2,
		func(cmd *cobra.Command, id, view string, r Reading, given []string) error {
			result, err := c.result(cmd.Context(), id)
			if err != nil {
				return err
			}
			if view == "*" {
				view = result.Page[0].Id
			}
			if _, err := c.sheet(cmd.Context(), id, view, 1, 0, false, r); err != nil {
				return err // it must be possible to lay out what is kept
			}
			body := api.ViewBody{Name: given[0], View: view, Everyone: everyone, Changes: r.changes()}
			v, err := talk.Fetch[api.KeptView](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.KeepView(cmd.Context(), result.Report, body) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(v)
			}
			_, err = fmt.Fprintf(c.Out, "%s %s is kept for %s.\n", v.Id, v.Name,
				map[bool]string{true: "everyone", false: "you"}[everyone])
			return err
		})
	cmd.Flags().BoolVar(&everyone, "everyone", false, "for everyone who may open the report")
	return cmd
}

// deleteViewCommand makes the command delete: delete a kept view.
func deleteViewCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use: "delete REPORT VIEW", Short: "Delete a kept view", Args: talk.Args(cobra.ExactArgs(2)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.Send(func(a *client.Client) (*http.Response, error) {
				return a.DeleteKeptView(cmd.Context(), given[0], strings.ToUpper(given[1]))
			})
			if err == nil {
				r.Body.Close()
				fmt.Fprintf(c.Err, "%s is in the trash until it is deleted in 30 days; bring it back with: mantilla return %s\n",
					given[1], strings.ToUpper(given[1]))
			}
			return err
		},
	}
}
