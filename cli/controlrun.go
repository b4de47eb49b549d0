package cli

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
)

func runControlCommand(c *program) *cobra.Command {
	var noWait, send bool
	var to string
	cmd := &cobra.Command{
		Use:   "run ID [NAME=VALUE...]",
		Short: "Run every report of a run control, in order",
		Long: `Run every report of a run control, in order, and wait for all. Values replace
its own for this once: NAME for every report that has it, REPORT.NAME for one.
With --to, the files that it asks for are written into a directory.`,
		Example:           `  mantilla control run month-end received=2026-08 --to month`,
		Args:              args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			values, err := pairs(given[1:])
			if err != nil {
				return err
			}
			k, err := c.control(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			all, err := fetch[[]api.ControlRun](c, func(a *client.Client) (*http.Response, error) {
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
					if batch.Runs[i], err = c.wait(cmd.Context(), batch.Runs[i]); err != nil {
						return err
					}
					ends = append(ends, endOf(batch.Runs[i]))
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
func (c *program) takeAway(ctx context.Context, k api.Control, batch api.ControlRun, dir string) error {
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
			if err := c.export(ctx, *run.Result, view, path); err != nil {
				return err
			}
		}
	}
	return nil
}

func (c *program) tellControlRuns(batches []api.ControlRun) error {
	if c.json() {
		return c.printJSON(batches)
	}
	t := table{
		headings: []string{"Set", "Asked", "Part", "Report", "State", "Rows", "Took", "Result", "Sent", "Values"},
		right:    []bool{5: true, 6: true, 9: false},
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
			t.rows = append(t.rows,
				[]string{b.Id, c.at(b.AskedAt), deref(b.Part), r.Report, string(r.State), fmt.Sprint(r.Rows), seconds(r.Seconds),
					result, sentOf(b), said})
		}
	}
	_, err := c.draw(&t)
	return err
}

func deref[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

// sentOf says what became of the sending of a control's run.
func sentOf(b api.ControlRun) string {
	if b.Sending == nil {
		return ""
	}
	return strings.TrimSpace(string(*b.Sending) + " " + deref(b.SentNote))
}

func againControlCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:     "again SET",
		Short:   "Try again what failed of a past run of a run control, and send it",
		Example: "  mantilla control again S-000012",
		Args:    args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			set, err := fetch[api.ControlRun](c, func(a *client.Client) (*http.Response, error) {
				return a.AgainControlRun(cmd.Context(), given[0])
			})
			if err != nil {
				return err
			}
			return c.tellControlRuns([]api.ControlRun{set})
		},
	}
}

func pastControlCommand(c *program) *cobra.Command {
	var most int
	cmd := &cobra.Command{
		Use:               "past ID",
		Short:             "List the past runs of a run control",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			batches, err := fetch[[]api.ControlRun](c, func(a *client.Client) (*http.Response, error) {
				return a.ListControlRuns(cmd.Context(), given[0], &api.ListControlRunsParams{Limit: &most})
			})
			if err != nil {
				return err
			}
			return c.tellControlRuns(batches)
		},
	}
	limitFlag(cmd, &most, 10, "at most so many")
	return cmd
}
