package asking

import (
	"fmt"
	"net/http"
	"time"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// MarksCommand makes the command marks: until when you looked at a report with since last run; set a mark back.
func MarksCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "marks REPORT",
		Short: "Until when you looked at a report with since last run; set a mark back",
		Long: `A range that is typed as since last run begins where the last one so typed
ended, for the same other values: of you, of the criteria, or of the run control.
Looking at an earlier month moves no mark.`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			all, err := talk.Fetch[[]api.Mark](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListMarks(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Mark", "Whose", "Looked until", "By", "Values"}}
			for _, m := range all {
				t.Rows = append(t.Rows, []string{m.Id, m.Whose, m.Says, m.Run, m.Sentence})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	set := &cobra.Command{
		Use:     "set MARK MOMENT",
		Short:   "Say until when you looked: 2026-10-14 or '2026-10-14 06:00', in your zone",
		Example: "  mantilla marks set M-3 '2026-10-01 06:00'",
		Args:    talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			at, err := c.momentOf(given[1])
			if err != nil {
				return err
			}
			m, err := talk.Fetch[api.Mark](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.SetMark(cmd.Context(), given[0], api.SetMarkJSONRequestBody{At: at})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(m)
			}
			fmt.Fprintf(c.Out, "%s begins at %s now.\n", m.Label, m.Says)
			return nil
		},
	}
	cmd.AddCommand(set,
		c.Throwing(api.ThrownKindMark, "delete MARK", "Forget until when you looked", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteMark(cmd.Context(), id)
			}))
	return cmd
}

// momentOf reads a day or a moment in your zone.
func (c *Program) momentOf(text string) (time.Time, error) {
	for _, layout := range []string{time.RFC3339, "2006-01-02 15:04:05", "2006-01-02 15:04", "2006-01-02T15:04",
		time.DateOnly} {
		if at, err := time.ParseInLocation(layout, text, c.Zone()); err == nil {
			return at, nil
		}
	}
	return time.Time{}, talk.Usage("%q is not a moment such as 2026-10-14 or '2026-10-14 06:00'", text)
}
