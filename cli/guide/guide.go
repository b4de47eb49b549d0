// Package guide has the command of the pages that explain the console.
package guide

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the command needs.
type Program struct{ *talk.Program }

// Of returns the command's program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command guide: list, find and print the pages that explain the console.
func Command(c *Program) *cobra.Command {
	var sought string
	cmd := &cobra.Command{
		Use:     "guide [PAGE]",
		Short:   "Read how the console is used: the pages, what they say of something, or one of them",
		Example: "  mantilla guide\n  mantilla guide --search 'address book'\n  mantilla guide results",
		Args:    talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if len(given) == 1 {
				return c.print(cmd, given[0])
			}
			pages, err := talk.Fetch[[]api.GuideLine](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListGuide(cmd.Context(), &api.ListGuideParams{Search: &sought})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(pages)
			}
			t := talk.Table{Headings: []string{"Page", "Title", "What it is for"}}
			for _, p := range pages {
				t.Rows = append(t.Rows, []string{p.Id, p.Title, p.Line})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&sought, "search", "", "only pages in which this is found")
	return cmd
}

func (c *Program) print(cmd *cobra.Command, page string) error {
	p, err := talk.Fetch[api.GuidePage](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetGuidePage(cmd.Context(), page) })
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(p)
	}
	_, err = fmt.Fprint(c.Out, p.Text)
	return err
}
