package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/google/uuid"
	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

func runCommand(c *program) *cobra.Command {
	var noWait, reuse bool
	var to, criteria string
	cmd := &cobra.Command{
		Use:   "run REPORT [NAME=VALUE...]",
		Short: "Run a report and wait for its result",
		Long: `Run a report with values for its parameters and wait for its result.
A parameter that is not named takes its default; NAME= leaves it empty. With no
values at all, each needed one is asked for when you are at a terminal.
Values are written as on the form: last month, 2026-Q3, Hollin; Marr.

` + exitHelp,
		Example: `  mantilla run intake-lots received="last month" unit="Hollin; Marr"
  mantilla run near-best-before within=30 --to near.xlsx`,
		Args:              args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.completeRun,
		RunE: func(cmd *cobra.Command, given []string) error {
			values, err := pairs(given[1:])
			if err != nil {
				return err
			}
			if to != "" {
				if _, err := c.formatOf(cmd.Context(), to, ""); err != nil {
					return err
				}
			}
			ask := api.Ask{Report: given[0], Values: values}
			if criteria != "" {
				if err := c.withCriteria(cmd.Context(), &ask, criteria); err != nil {
					return err
				}
			} else if len(values) == 0 && c.atTerminal(cmd) {
				if err := c.askValues(cmd, given[0], values); err != nil {
					return err
				}
			}
			kept, err := c.keptOf(cmd.Context(), ask)
			if err != nil {
				return err
			}
			if kept != nil && reuse {
				return c.tellKept(cmd.Context(), *kept, to)
			}
			if kept != nil {
				fmt.Fprintf(c.err, "· %s has the same values and its source has not changed since; --reuse takes it instead of "+
					"running\n", kept.Id)
			}
			run, err := c.start(cmd.Context(), ask)
			if err != nil {
				return err
			}
			if !noWait {
				if run, err = c.wait(cmd.Context(), run); err != nil {
					return err
				}
			}
			if err := c.tellRun(run); err != nil {
				return err
			}
			if err := endOf(run); err != nil || to == "" || run.Result == nil {
				return err
			}
			return c.export(cmd.Context(), *run.Result, "", to)
		},
	}
	cmd.Flags().StringVar(&criteria, "criteria", "", "run with the values kept under this name; values given beside "+
		"replace them")
	must(cmd.RegisterFlagCompletionFunc("criteria", c.completeCriteria))
	cmd.Flags().BoolVar(&reuse, "reuse", false, "take a kept result of the same values, if the source has not "+
		"changed since")
	cmd.Flags().BoolVar(&noWait, "no-wait", false, "do not wait for the end")
	cmd.Flags().StringVar(&to, "to", "", "also write the result's first view to this file (.csv or .xlsx), or - for CSV "+
		"on standard output")
	return cmd
}

// pairs reads NAME=VALUE arguments.
func pairs(given []string) (api.Values, error) {
	values := api.Values{}
	for _, g := range given {
		name, value, ok := strings.Cut(g, "=")
		if !ok || name == "" {
			return nil, usage("%q is not a value; write it as NAME=VALUE", g)
		}
		if _, twice := values[name]; twice {
			return nil, usage("%s is given twice; several entries go in one value with ; between", name)
		}
		values[name] = value
	}
	return values, nil
}

func (c *program) start(ctx context.Context, ask api.Ask) (api.Run, error) {
	key := uuid.NewString()
	return fetch[api.Run](c, func(a *client.Client) (*http.Response, error) {
		return a.StartRun(ctx, &api.StartRunParams{IdempotencyKey: &key}, ask)
	})
}

// withCriteria fills in what was kept under a name, less what is given.
func (c *program) withCriteria(ctx context.Context, ask *api.Ask, name string) error {
	k, err := c.named(ctx, ask.Report, name)
	if err != nil {
		return err
	}
	if len(ask.Values) == 0 { // with other values it is no run of these criteria
		ask.Criteria = &k.Id
	}
	for parameter, text := range k.Values {
		if _, given := ask.Values[parameter]; !given {
			ask.Values[parameter] = text
		}
	}
	return nil
}

// keptOf finds a result that has the same values already; nil for none. Faults
// in the values are for the run to tell.
func (c *program) keptOf(ctx context.Context, ask api.Ask) (*api.ResultLine, error) {
	r, err := fetch[api.Resolution](c, func(a *client.Client) (*http.Response, error) {
		return a.ResolveValues(ctx, ask.Report, api.Typed{Values: ask.Values, Criteria: ask.Criteria})
	})
	for _, note := range r.Notes {
		fmt.Fprintln(c.err, "·", note)
	}
	return r.Kept, err
}

// tellKept gives a kept result as if it had been run.
func (c *program) tellKept(ctx context.Context, kept api.ResultLine, to string) error {
	if c.json() {
		if err := c.printJSON(kept); err != nil {
			return err
		}
	} else {
		fmt.Fprintf(c.err, "%s  kept  %s\n%d rows; read them with: mantilla show %s\n", kept.Id, kept.Sentence, kept.Rows,
			kept.Id)
	}
	if to == "" {
		return nil
	}
	return c.export(ctx, kept.Id, "", to)
}

// wait follows a run to its end, with a bar when a person looks on.
func (c *program) wait(ctx context.Context, run api.Run) (api.Run, error) {
	r, err := c.send(func(a *client.Client) (*http.Response, error) { return a.WatchRun(ctx, run.Id) })
	if err != nil {
		return run, err
	}
	defer r.Body.Close()
	bar := progressbar.NewOptions64(-1, progressbar.OptionSetWriter(c.err), progressbar.OptionSetDescription("waiting"),
		progressbar.OptionSpinnerType(14), progressbar.OptionSetVisibility(widthOf(c.err) > 0 && !c.json()),
		progressbar.OptionShowCount(),
		progressbar.OptionSetItsString("rows"), progressbar.OptionShowIts(), progressbar.OptionClearOnFinish())
	defer bar.Finish()
	err = follow(r.Body, func(now api.Run) {
		run = now
		bar.Describe(string(run.State))
		_ = bar.Set64(run.Rows) // a bar that cannot be drawn is no reason to stop
	})
	switch {
	case errors.Is(err, context.Canceled):
		return run, &coded{exitOther, fmt.Sprintf("no longer waiting; %s goes on: see mantilla runs, or stop it with "+
			"mantilla stop %s", run.Id, run.Id)}
	case err != nil:
		return run, fmt.Errorf("following %s: %w", run.Id, err)
	case !ended(run.State):
		return run, &coded{exitOther, fmt.Sprintf("the service ended while %s was under way", run.Id)}
	}
	return run, nil
}

// follow reads server-sent events and hands on what each one holds.
func follow[T any](events io.Reader, changed func(T)) error {
	lines := bufio.NewScanner(events)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		data, ok := strings.CutPrefix(lines.Text(), "data: ")
		if !ok {
			continue
		}
		var now T
		if err := json.Unmarshal([]byte(data), &now); err != nil {
			return err
		}
		changed(now)
	}
	return lines.Err()
}

func ended(s api.State) bool {
	return s == api.StateDone || s == api.StateFailed || s == api.StateStopped
}

func (c *program) tellRun(run api.Run) error {
	if c.json() {
		return c.printJSON(run)
	}
	fmt.Fprintf(c.err, "%s  %s  %s\n", run.Id, run.State, run.Sentence)
	if run.Result != nil {
		fmt.Fprintf(c.err, "%d rows in %s; read them with: mantilla show %s\n", run.Rows, seconds(run.Seconds), *run.Result)
	}
	return nil
}

// endOf gives the exit code of a run that did not end well.
func endOf(run api.Run) error {
	switch run.State {
	case api.StateFailed:
		reason := "no reason is on record"
		if run.Reason != nil {
			reason = *run.Reason
		}
		return &coded{exitFailed, fmt.Sprintf("%s failed: %s", run.Id, reason)}
	case api.StateStopped:
		return &coded{exitStopped, run.Id + " was stopped"}
	}
	return nil
}

func runsCommand(c *program) *cobra.Command {
	var state, report string
	var most int
	cmd := &cobra.Command{
		Use:   "runs",
		Short: "List runs, the newest first",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			params := &api.ListRunsParams{Limit: &most}
			if state != "" {
				s := api.State(state)
				params.State = &s
			}
			if report != "" {
				params.Report = &report
			}
			runs, err := fetch[[]api.Run](c,
				func(a *client.Client) (*http.Response, error) { return a.ListRuns(cmd.Context(), params) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(runs)
			}
			t := table{
				headings: []string{"Run", "State", "Asked", "Rows", "Took", "Result", "Report", "Values"},
				right:    []bool{3: true, 4: true, 7: false},
			}
			for _, r := range runs {
				result := ""
				if r.Result != nil {
					result = *r.Result
				}
				said := r.Sentence
				if r.Reason != nil {
					said = *r.Reason
				}
				t.rows = append(t.rows,
					[]string{r.Id, string(r.State), c.at(r.AskedAt), fmt.Sprint(r.Rows), seconds(r.Seconds), result, r.Report, said})
			}
			_, err = c.draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&state, "state", "", "only runs in this state: waiting, running, done, failed or stopped")
	cmd.Flags().StringVar(&report, "report", "", "only runs of this report")
	limitFlag(cmd, &most, 30, "at most so many")
	must(cmd.RegisterFlagCompletionFunc("state", fixed("waiting", "running", "done", "failed", "stopped")))
	must(cmd.RegisterFlagCompletionFunc("report", c.completeReport))
	return cmd
}

func stopCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:               "stop RUN",
		Short:             "Stop a run that waits or is running",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeRunning,
		RunE: func(cmd *cobra.Command, given []string) error {
			run, err := fetch[api.Run](c,
				func(a *client.Client) (*http.Response, error) { return a.StopRun(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(run)
			}
			if ended(run.State) && run.State != api.StateStopped {
				fmt.Fprintf(c.out, "%s had ended already: %s.\n", run.Id, run.State)
				return nil
			}
			fmt.Fprintf(c.out, "%s is being stopped.\n", run.Id)
			return nil
		},
	}
}
