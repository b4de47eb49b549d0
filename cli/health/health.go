// Package health has the commands that look after the catalog.
package health

import (
	"fmt"
	"net/http"
	"strconv"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command health: what the catalog needs, or how a report was used.
func Command(c *Program) *cobra.Command {
	days := 180
	cmd := &cobra.Command{
		Use:   "health [REPORT]",
		Short: "Tell what the catalog needs, or how a report was used month by month",
		Args:  talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if len(given) == 1 {
				return c.use(cmd, given[0])
			}
			h, err := talk.Fetch[api.Health](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.GetHealth(cmd.Context(), &api.GetHealthParams{UnusedDays: &days})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(h)
			}
			t := talk.Table{Headings: []string{"What", "Report", "Why", "Mend"}}
			for _, p := range h.Problems {
				t.Rows = append(t.Rows, []string{p.Kind, p.Report, p.Says, p.Mend})
			}
			if _, err := c.Draw(&t); err != nil {
				return err
			}
			fmt.Fprintf(c.Say(), "%d things to look at among %d reports.\n", len(h.Problems), h.Reports)
			return nil
		},
	}
	cmd.Flags().IntVar(&days, "unused", days, "days after which a report that nobody runs is told")
	return cmd
}

func (c *Program) use(cmd *cobra.Command, report string) error {
	months, err := talk.Fetch[[]api.MonthOfUse](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetUse(cmd.Context(), report) })
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(months)
	}
	if len(months) == 0 {
		fmt.Fprintln(c.Out, "It was never run.")
		return nil
	}
	t := talk.Table{Headings: []string{"Month", "Runs", "Failed", "People", "Results kept", "Readers", "Read",
		"Taken away", "Took"},
		Right: []bool{false, true, true, true, true, true, true, true, true}}
	for _, m := range months {
		t.Rows = append(t.Rows, []string{m.Month, strconv.Itoa(m.Runs), strconv.Itoa(m.Failed), strconv.Itoa(m.People),
			strconv.Itoa(m.Results), strconv.Itoa(m.Readers), strconv.Itoa(m.Reads), strconv.Itoa(m.Exports),
			talk.Seconds(m.Seconds)})
	}
	_, err = c.Draw(&t)
	return err
}
