package controls

import (
	"cmp"
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// versionsCommand makes the command versions: list what a run control was before it was overwritten.
func versionsCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "versions ID",
		Short: "List what a run control was before it was overwritten",
		Long: `List what a run control was before it was overwritten, with what bringing each
version back would change; mantilla control restore ID --revision N does so.`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			past, err := talk.Fetch[[]api.PastControl](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListPastControls(cmd.Context(), given[0]) })
			switch {
			case err != nil:
				return err
			case c.JSON():
				return c.PrintJSON(past)
			case len(past) == 0:
				fmt.Fprintf(c.Out, "%s was never overwritten.\n", given[0])
				return nil
			}
			t := talk.Table{Headings: []string{"Revision", "Kept", "By", "Would change"}}
			for _, p := range past {
				by := ""
				if p.Control.ChangedBy != nil {
					by = *p.Control.ChangedBy
				}
				t.Rows = append(t.Rows, []string{fmt.Sprint(p.Control.Revision), c.At(p.Control.ChangedAt), by,
					wouldChange(p.Differences)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

// wouldChange says what bringing a version back would change.
func wouldChange(all []api.ControlDifference) string {
	var out []string
	for _, d := range all {
		out = append(out, fmt.Sprintf("%s: %s → %s", d.Place, cmp.Or(d.Is, "nothing"), cmp.Or(d.Was, "nothing")))
	}
	return cmp.Or(strings.Join(out, "; "), "nothing")
}

// restoreControlCommand makes the command restore: bring back a deleted run control, or an earlier version.
func restoreControlCommand(c *Program) *cobra.Command {
	var revision int64
	cmd := &cobra.Command{
		Use:   "restore ID",
		Short: "Bring back a deleted run control, or what it was before it was overwritten",
		Long: `Bring back a deleted run control or, with --revision, what it was before it was
overwritten; mantilla control versions ID lists those.`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			wish, says := &api.RestoreControlParams{}, given[0]+" is back."
			if cmd.Flags().Changed("revision") {
				wish.Revision, says = &revision, fmt.Sprintf("%s is what it was in revision %d.", given[0], revision)
			}
			return c.Done(says,
				func(a *client.Client) (*http.Response, error) { return a.RestoreControl(cmd.Context(), given[0], wish) })
		},
	}
	cmd.Flags().Int64Var(&revision, "revision", 0, "bring back the version of this revision")
	return cmd
}
