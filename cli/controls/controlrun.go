package controls

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/capture"
	"mantilla/cli/reading"
	"mantilla/cli/talk"
)

// runControlCommand makes the command run: run every report of a run control, in order.
func runControlCommand(c *Program) *cobra.Command {
	var noWait, send bool
	var to string
	cmd := &cobra.Command{
		Use:   "run ID [NAME=VALUE...]",
		Short: "Run every report of a run control, in order",
		Long: `Run every report of a run control, in order, and wait for all. Values replace
its own for this once: NAME for every report that has it, REPORT.NAME for one.
With --to, the files that it asks for are written into a directory.`,
		Example:           `  mantilla control run month-end received=2026-08 --to month`,
		Args:              talk.Args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			values, err := talk.Pairs(given[1:])
			if err != nil {
				return err
			}
			k, err := c.control(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			all, err := talk.Fetch[[]api.ControlRun](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.RunControl(cmd.Context(), given[0], api.Overrides{Values: values, Send: &send})
			})
			if err != nil {
				return err
			}
			var ends []error
			for _, batch := range all {
				for i := range batch.Runs {
					if noWait {
						break
					}
					if batch.Runs[i], err = capture.Of(c.Program).Wait(cmd.Context(), batch.Runs[i]); err != nil {
						return err
					}
					ends = append(ends, capture.EndOf(batch.Runs[i]))
				}
			}
			if err := c.tellControlRuns(all); err != nil {
				return err
			}
			for _, batch := range all {
				if to != "" {
					if err := c.takeAway(cmd.Context(), k, batch, to); err != nil {
						return err
					}
				}
			}
			return errors.Join(ends...)
		},
	}
	cmd.Flags().BoolVar(&noWait, "no-wait", false, "do not wait for the end")
	cmd.Flags().BoolVar(&send, "send", false, "send what it gives as the run control says, for each of its parts")
	cmd.Flags().StringVar(&to, "to", "", "directory for the files that the run control asks for")
	return cmd
}

// takeAway writes the files that a run control asks for.
func (c *Program) takeAway(ctx context.Context, k api.Control, batch api.ControlRun, dir string) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	for i, run := range batch.Runs {
		if run.Result == nil {
			continue
		}
		for _, o := range k.Outputs {
			if o == api.OutputKept {
				continue
			}
			view := ""
			if i < len(k.Steps) && k.Steps[i].View != nil {
				view = *k.Steps[i].View
			}
			path := filepath.Join(dir, fmt.Sprintf("%d %s %s.%s", i+1, run.Report, *run.Result, o))
			if err := reading.Of(c.Program).Export(ctx, *run.Result, view, path); err != nil {
				return err
			}
		}
	}
	return nil
}

func (c *Program) tellControlRuns(batches []api.ControlRun) error {
	if c.JSON() {
		return c.PrintJSON(batches)
	}
	t := talk.Table{
		Headings: []string{"Set", "Asked", "Part", "Report", "State", "Rows", "Took", "Result", "Sent", "Values"},
		Right:    []bool{5: true, 6: true, 9: false},
	}
	for _, b := range batches {
		for _, r := range b.Runs {
			result, said := "", r.Sentence
			if r.Result != nil {
				result = *r.Result
			}
			if r.Reason != nil {
				said = *r.Reason
			} else if r.Note != nil {
				said = *r.Note + " " + said
			}
			t.Rows = append(t.Rows,
				[]string{b.Id, c.At(b.AskedAt), talk.Deref(b.Part), r.Report, string(r.State), fmt.Sprint(r.Rows),
					talk.Seconds(r.Seconds),
					result, sentOf(b), said})
		}
	}
	_, err := c.Draw(&t)
	return err
}

// sentOf says what became of the sending of a control's run.
func sentOf(b api.ControlRun) string {
	if b.Sending == nil {
		return ""
	}
	return strings.TrimSpace(string(*b.Sending) + " " + talk.Deref(b.SentNote))
}

// againControlCommand makes the command again: try again what failed of a past run of a run control, and send it.
func againControlCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:     "again SET",
		Short:   "Try again what failed of a past run of a run control, and send it",
		Example: "  mantilla control again S-000012",
		Args:    talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			set, err := talk.Fetch[api.ControlRun](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.AgainControlRun(cmd.Context(), given[0])
			})
			if err != nil {
				return err
			}
			return c.tellControlRuns([]api.ControlRun{set})
		},
	}
}

// pastControlCommand makes the command past: list the past runs of a run control.
func pastControlCommand(c *Program) *cobra.Command {
	var most int
	cmd := &cobra.Command{
		Use:               "past ID",
		Short:             "List the past runs of a run control",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			batches, err := talk.Fetch[[]api.ControlRun](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListControlRuns(cmd.Context(), given[0], &api.ListControlRunsParams{Limit: &most})
			})
			if err != nil {
				return err
			}
			return c.tellControlRuns(batches)
		},
	}
	talk.LimitFlag(cmd, &most, 10, "at most so many")
	return cmd
}
