// Package trash has the commands of what was deleted.
package trash

import (
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command trash: list what was deleted and can be brought back.
func Command(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "trash",
		Short: "List what was deleted and can be brought back: results, criteria, run controls, views, tiles",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := talk.Fetch[[]api.Thrown](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListTrash(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Id", "What", "Deleted", "Until", "Of", "Report", "Name"}}
			for _, x := range all {
				t.Rows = append(t.Rows, []string{x.Id, string(x.Kind), c.At(x.At), c.At(x.Until), x.Owner,
					talk.Deref(x.Report), x.Name})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

// ReturnCommand makes the command return: take things out of the trash.
func ReturnCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "return ID...",
		Short: "Take what was deleted out of the trash; trash lists it",
		Example: `  mantilla return R-000013
  mantilla return C-4 V-2 T-1 month-end`,
		Args: talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			for _, id := range given {
				kind := kindOf(id)
				if err := c.Done(id+" is kept again.", func(a *client.Client) (*http.Response, error) {
					return a.ReturnThrown(cmd.Context(), kind, id)
				}); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

// kindOf tells by its id what a thing is; a run control's is a name.
func kindOf(id string) string {
	for prefix, kind := range map[string]api.ThrownKind{"R-": api.ThrownKindResult, "C-": api.ThrownKindCriteria,
		"V-": api.ThrownKindView, "T-": api.ThrownKindTile} {
		if strings.HasPrefix(id, prefix) {
			return string(kind)
		}
	}
	return string(api.ThrownKindControl)
}
