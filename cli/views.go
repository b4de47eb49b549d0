package cli

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

func viewsCommand(c *program) *cobra.Command {
	cmd := &cobra.Command{
		Use:               "views REPORT",
		Short:             "Views that people kept of a report",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			views, err := fetch[[]api.KeptView](c,
				func(a *client.Client) (*http.Response, error) { return a.ListKeptViews(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(views)
			}
			t := table{headings: []string{"View", "Name", "Based on", "For", "Kept by"}}
			for _, v := range views {
				t.rows = append(t.rows,
					[]string{v.Id, v.Name, v.View, map[bool]string{true: "everyone", false: "me"}[v.Everyone], v.Owner})
			}
			_, err = c.draw(&t)
			return err
		},
	}
	cmd.AddCommand(keepViewCommand(c), deleteViewCommand(c))
	return cmd
}

func keepViewCommand(c *program) *cobra.Command {
	var everyone bool
	cmd := c.looking("keep RESULT NAME", "Keep a view of a result's report, as the options change it",
		`  mantilla views keep R-000001 'By grade' --group grade --columns net_kg,value --everyone
  mantilla show R-000002 --view V-1`, 2,
		func(cmd *cobra.Command, id, view string, r reading, given []string) error {
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
			v, err := fetch[api.KeptView](c,
				func(a *client.Client) (*http.Response, error) { return a.KeepView(cmd.Context(), result.Report, body) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(v)
			}
			_, err = fmt.Fprintf(c.out, "%s %s is kept for %s.\n", v.Id, v.Name,
				map[bool]string{true: "everyone", false: "you"}[everyone])
			return err
		})
	cmd.Flags().BoolVar(&everyone, "everyone", false, "for everyone who may open the report")
	return cmd
}

func deleteViewCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use: "delete REPORT VIEW", Short: "Delete a kept view", Args: args(cobra.ExactArgs(2)),
		ValidArgsFunction: c.completeReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.send(func(a *client.Client) (*http.Response, error) {
				return a.DeleteKeptView(cmd.Context(), given[0], strings.ToUpper(given[1]))
			})
			if err == nil {
				r.Body.Close()
				fmt.Fprintf(c.err, "%s is deleted.\n", given[1])
			}
			return err
		},
	}
}
