package capture

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/google/uuid"
	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/asking"
	"mantilla/cli/catalog"
	"mantilla/cli/reading"
	"mantilla/cli/talk"
	"mantilla/core/shown"
)

// RunCommand makes the command run: run a report and wait for its result.
func RunCommand(c *Program) *cobra.Command {
	var noWait, reuse bool
	var to, criteria string
	cmd := &cobra.Command{
		Use:   "run REPORT [NAME=VALUE...]",
		Short: "Run a report and wait for its result",
		Long: `Run a report with values for its parameters and wait for its result.
A parameter that is not named takes its default; NAME= leaves it empty. With no
values at all, each needed one is asked for when you are at a terminal.
Values are written as on the form: last month, 2026-Q3, Hollin; Marr.

` + talk.ExitHelp,
		Example: `  mantilla run intake-lots received="last month" unit="Hollin; Marr"
  mantilla run near-best-before within=30 --to near.xlsx`,
		Args:              talk.Args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.completeRun,
		RunE: func(cmd *cobra.Command, given []string) error {
			values, err := talk.Pairs(given[1:])
			if err != nil {
				return err
			}
			if to != "" {
				if _, err := reading.Of(c.Program).FormatOf(cmd.Context(), to, ""); err != nil {
					return err
				}
			}
			ask := api.Ask{Report: given[0], Values: values}
			if criteria != "" {
				if err := c.withCriteria(cmd.Context(), &ask, criteria); err != nil {
					return err
				}
			} else if len(values) == 0 && c.AtTerminal(cmd) {
				if err := asking.Of(c.Program).AskValues(cmd, given[0], values); err != nil {
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
				fmt.Fprintf(c.Err, "· %s has the same values and its source has not changed since; --reuse takes it instead of "+
					"running\n", kept.Id)
			}
			run, err := c.start(cmd.Context(), ask)
			if err != nil {
				return err
			}
			return c.Await(cmd.Context(), run, noWait, func(result string) error {
				if to == "" {
					return nil
				}
				return reading.Of(c.Program).Export(cmd.Context(), result, "", to)
			})
		},
	}
	cmd.Flags().StringVar(&criteria, "criteria", "", "run with the values kept under this name; values given beside "+
		"replace them")
	talk.Must(cmd.RegisterFlagCompletionFunc("criteria", asking.Of(c.Program).CompleteCriteria))
	cmd.Flags().BoolVar(&reuse, "reuse", false, "take a kept result of the same values, if the source has not "+
		"changed since")
	cmd.Flags().BoolVar(&noWait, "no-wait", false, "do not wait for the end")
	cmd.Flags().StringVar(&to, "to", "", "also write the result's first view to this file (.csv or .xlsx), or - for CSV "+
		"on standard output")
	return cmd
}

func (c *Program) start(ctx context.Context, ask api.Ask) (api.Run, error) {
	key := uuid.NewString()
	return talk.Fetch[api.Run](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.StartRun(ctx, &api.StartRunParams{IdempotencyKey: &key}, ask)
	})
}

// withCriteria fills in what was kept under a name, less what is given.
func (c *Program) withCriteria(ctx context.Context, ask *api.Ask, name string) error {
	k, err := asking.Of(c.Program).Named(ctx, ask.Report, name)
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
func (c *Program) keptOf(ctx context.Context, ask api.Ask) (*api.ResultLine, error) {
	r, err := talk.Fetch[api.Resolution](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.ResolveValues(ctx, ask.Report, api.Typed{Values: ask.Values, Criteria: ask.Criteria})
	})
	for _, note := range r.Notes {
		fmt.Fprintln(c.Err, "·", note)
	}
	return r.Kept, err
}

// tellKept gives a kept result as if it had been run.
func (c *Program) tellKept(ctx context.Context, kept api.ResultLine, to string) error {
	if c.JSON() {
		if err := c.PrintJSON(kept); err != nil {
			return err
		}
	} else {
		fmt.Fprintf(c.Err, "%s  kept  %s\n%d rows; read them with: mantilla show %s\n", kept.Id, kept.Sentence, kept.Rows,
			kept.Id)
	}
	if to == "" {
		return nil
	}
	return reading.Of(c.Program).Export(ctx, kept.Id, "", to)
}

// Await follows a run to its end unless nobody waits for it, tells of it, and does something
// with its result.
func (c *Program) Await(ctx context.Context, run api.Run, noWait bool, then func(result string) error) error {
	if !noWait {
		var err error
		if run, err = c.Wait(ctx, run); err != nil {
			return err
		}
	}
	if err := c.tellRun(run); err != nil {
		return err
	}
	if err := EndOf(run); err != nil || run.Result == nil {
		return err
	}
	return then(*run.Result)
}

// AwaitMade follows a run that makes a result of others, as [Program.Await] does, and writes what it
// made to a file; to none where the name is empty.
func (c *Program) AwaitMade(ctx context.Context, run api.Run, noWait bool, to string) error {
	return c.Await(ctx, run, noWait, func(result string) error {
		if to == "" {
			return nil
		}
		return reading.Of(c.Program).Export(ctx, result, "", to)
	})
}

// Wait follows a run to its end, with a bar when a person looks on.
func (c *Program) Wait(ctx context.Context, run api.Run) (api.Run, error) {
	r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.WatchRun(ctx, run.Id) })
	if err != nil {
		return run, err
	}
	defer r.Body.Close()
	bar := progressbar.NewOptions64(-1, progressbar.OptionSetWriter(c.Err), progressbar.OptionSetDescription("waiting"),
		progressbar.OptionSpinnerType(14), progressbar.OptionSetVisibility(talk.WidthOf(c.Err) > 0 && !c.JSON()),
		progressbar.OptionShowCount(),
		progressbar.OptionSetItsString("rows"), progressbar.OptionShowIts(), progressbar.OptionClearOnFinish())
	defer bar.Finish()
	warned := false
	err = talk.Follow(r.Body, func(now api.Run) {
		run = now
		bar.Describe(describe(run))
		_ = bar.Set64(run.Rows) // a bar that cannot be drawn is no reason to stop
		if run.State == api.StateRunning && run.Note != nil && !warned {
			warned = true
			_ = bar.Clear()
			fmt.Fprintln(c.Err, *run.Note)
		}
	})
	switch {
	case errors.Is(err, context.Canceled):
		return run, &talk.Coded{Code: talk.ExitOther, Text: fmt.Sprintf("no longer waiting; %s goes on: see mantilla runs, "+
			"or stop it with "+
			"mantilla stop %s", run.Id, run.Id)}
	case err != nil:
		return run, fmt.Errorf("following %s: %w", run.Id, err)
	case !ended(run.State):
		return run, &talk.Coded{Code: talk.ExitOther, Text: fmt.Sprintf("the service ended while %s was under way", run.Id)}
	}
	return run, nil
}

// describe says what a run does, and of how many rows where the source reckons that.
func describe(run api.Run) string {
	if run.State == api.StateRunning && run.Expected != nil {
		return fmt.Sprintf("%s, about %s rows are expected", run.State, shown.Grouped(fmt.Sprint(*run.Expected)))
	}
	return string(run.State)
}

func ended(s api.State) bool {
	return s == api.StateDone || s == api.StateFailed || s == api.StateStopped
}

func (c *Program) tellRun(run api.Run) error {
	if c.JSON() {
		return c.PrintJSON(run)
	}
	fmt.Fprintf(c.Err, "%s  %s  %s\n", run.Id, run.State, run.Sentence)
	if run.Result != nil {
		fmt.Fprintf(c.Err, "%d rows in %s; read them with: mantilla show %s\n", run.Rows, talk.Seconds(run.Seconds),
			*run.Result)
	}
	return nil
}

// EndOf gives the exit code of a run that did not end well.
func EndOf(run api.Run) error {
	switch run.State {
	case api.StateFailed:
		reason := "no reason is on record"
		if run.Reason != nil {
			reason = *run.Reason
		}
		return &talk.Coded{Code: talk.ExitFailed, Text: fmt.Sprintf("%s failed: %s", run.Id, reason)}
	case api.StateStopped:
		return &talk.Coded{Code: talk.ExitStopped, Text: run.Id + " was stopped"}
	}
	return nil
}

// RunsCommand makes the command runs: list runs, the newest first.
func RunsCommand(c *Program) *cobra.Command {
	var state, report string
	var most int
	cmd := &cobra.Command{
		Use:   "runs",
		Short: "List runs, the newest first",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			params := &api.ListRunsParams{Limit: &most}
			if state != "" {
				s := api.State(state)
				params.State = &s
			}
			if report != "" {
				params.Report = &report
			}
			runs, err := talk.Fetch[[]api.Run](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListRuns(cmd.Context(), params) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(runs)
			}
			t := talk.Table{
				Headings: []string{"Run", "State", "Asked", "Rows", "Took", "Result", "Report", "Values"},
				Right:    []bool{3: true, 4: true, 7: false},
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
				t.Rows = append(t.Rows,
					[]string{r.Id, string(r.State), c.At(r.AskedAt), fmt.Sprint(r.Rows), talk.Seconds(r.Seconds), result, r.Report,
						said})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&state, "state", "", "only runs in this state: waiting, running, done, failed or stopped")
	cmd.Flags().StringVar(&report, "report", "", "only runs of this report")
	talk.LimitFlag(cmd, &most, 30, "at most so many")
	talk.Must(cmd.RegisterFlagCompletionFunc("state", talk.Fixed("waiting", "running", "done", "failed", "stopped")))
	talk.Must(cmd.RegisterFlagCompletionFunc("report", catalog.Of(c.Program).CompleteReport))
	return cmd
}

// StopCommand makes the command stop: stop a run that waits or is running.
func StopCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "stop RUN",
		Short:             "Stop a run that waits or is running",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeRunning,
		RunE: func(cmd *cobra.Command, given []string) error {
			run, err := talk.Fetch[api.Run](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.StopRun(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(run)
			}
			if ended(run.State) && run.State != api.StateStopped {
				fmt.Fprintf(c.Out, "%s had ended already: %s.\n", run.Id, run.State)
				return nil
			}
			fmt.Fprintf(c.Out, "%s is being stopped.\n", run.Id)
			return nil
		},
	}
}
