package controls

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// tryControlCommand makes the command try: show what would come of a run control.
func tryControlCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "try ID|FILE",
		Short: "Show what would come of a run control, kept or in a file: who would get what, and how many rows",
		Long: `Show what would come of a run control if it ran now: which reports with which values, how
many rows each would have, and who would get them. Nothing is kept and nothing is sent. A run
control that is not kept yet is read of its file; - is standard input.`,
		Example:           "  mantilla control try month-end\n  mantilla control try month-end.yaml",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			change, paused, err := c.changeOf(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			said, err := talk.Fetch[api.ControlSaid](c.Program,
				func(a *client.Client) (*http.Response, error) {
					return a.SayControl(cmd.Context(), &api.SayControlParams{Paused: &paused}, change)
				})
			if err != nil {
				return err
			}
			trial, err := talk.Fetch[api.ControlTrial](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.TryControl(cmd.Context(), change) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(trial)
			}
			fmt.Fprintln(c.Say(), said.All)
			return c.drawTrial(trial)
		},
	}
}

// changeOf is a run control that is kept, or in a file, and whether its timetable waits.
func (c *Program) changeOf(ctx context.Context, given string) (change api.ControlChange, paused bool, err error) {
	if _, err := os.Stat(given); err == nil || given == "-" {
		change, err = readControl(given)
		return change, false, err
	}
	k, err := c.control(ctx, given)
	if err != nil {
		return change, false, err
	}
	change = api.ControlChange{Title: k.Title, Shared: k.Shared, Steps: k.Steps, Outputs: k.Outputs, Rows: k.Rows,
		Seconds: k.Seconds, Hours: k.Hours, Empty: api.ControlChangeEmpty(k.Empty), KeepDays: k.KeepDays,
		Restate: k.Restate, Send: k.Send, Split: k.Split, Timetable: k.Timetable}
	return change, k.Paused != nil && *k.Paused, nil
}

// drawTrial draws a line for each run that would be, and tells who would get nothing.
func (c *Program) drawTrial(trial api.ControlTrial) error {
	t := talk.Table{Headings: []string{"Part", "Report", "Values", "Rows", "To"}, Right: []bool{3: true, 4: false}}
	for _, p := range trial.Parts {
		for _, run := range p.Runs {
			t.Rows = append(t.Rows, []string{p.Name, run.Report, run.Sentence, rowsOf(run), recipients(p)})
		}
	}
	if _, err := c.Draw(&t); err != nil {
		return err
	}
	for _, p := range trial.Parts {
		for _, why := range p.Not {
			fmt.Fprintf(c.Say(), "· gets nothing: %s\n", why)
		}
	}
	for i, at := range trial.Next {
		if i == 0 {
			fmt.Fprintf(c.Say(), "· next on %s\n", c.OnDay(at))
		}
	}
	return nil
}

func rowsOf(run api.TriedRun) string {
	switch {
	case run.Failed != nil:
		return *run.Failed
	case run.Rows == nil:
		return "not counted"
	}
	return fmt.Sprint(*run.Rows)
}

func recipients(p api.TriedPart) string {
	var to []string
	for _, r := range p.To {
		name := r.Name
		if r.Values != nil {
			name += " (" + strings.Join(*r.Values, ", ") + ")"
		}
		to = append(to, name)
	}
	if len(to) == 0 {
		return "nobody"
	}
	return strings.Join(to, ", ")
}
