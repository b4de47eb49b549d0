package controls

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// ControlCommand makes the command control: run one or several reports under a name.
func ControlCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "control",
		Short: "Run one or several reports under a name",
		Long: `A run control names one or several reports, in order, each with criteria or
values, and how they are run. It is written as a YAML file:

  title: Month end
  steps:
    - {report: intake-by-origin, values: {received: last month}}
    - {report: payout-detail, criteria: C-3}
  outputs: [kept, xlsx, pdf]  # kept, or formats of mantilla formats
  empty: note                 # keep, note or fail
  hours: 20:00-06:00          # when its runs may start
  rows: 100000                # tighter limits than the reports' own
  time: 5m
  keep: 400                   # days that results are kept
  shared: field               # a group, or everyone
  send:
    to: [lil, management]     # nicknames, groups of the address book, mail addresses
    subject: '{title} {part}' # also {report}, {sentence}, {result}, {rows}, {date}, {link}
    when: sum(value) > 10000  # or rows; otherwise always
  split: {units: district}    # one for each, to those who stand for it in the address book
  timetable:
    rule: FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1   # RFC 5545
    at: '18:00'
    calendar: holidays        # whose days off count
    offDay: previous          # run, skip, next or previous
    missed: once              # once, all or skip, after the service was down`,
	}
	cmd.AddCommand(listControlsCommand(c), putControlCommand(c), tryControlCommand(c), showControlCommand(c),
		runControlCommand(c),
		pastControlCommand(c), againControlCommand(c), pauseControlCommand(c), followControlCommand(c),
		deleteControlCommand(c),
		versionsCommand(c), restoreControlCommand(c))
	return cmd
}

func (c *Program) control(ctx context.Context, id string) (api.Control, error) {
	return talk.Fetch[api.Control](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetControl(ctx, id) })
}

func (c *Program) controls(ctx context.Context, search string) ([]api.Control, error) {
	return talk.Fetch[[]api.Control](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.ListControls(ctx, &api.ListControlsParams{Search: &search})
	})
}

func (c *Program) completeControl(_ *cobra.Command, given []string, _ string) (ids []string,
	_ cobra.ShellCompDirective) {
	if len(given) > 0 {
		return nil, talk.NoFiles
	}
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	all, _ := c.controls(ctx, "")
	for _, k := range all {
		ids = append(ids, k.Id+"\t"+k.Title)
	}
	return ids, talk.NoFiles
}

// listControlsCommand makes the command list: list run controls.
func listControlsCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "list [WORD]",
		Short: "List run controls",
		Args:  talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			list, err := c.controls(cmd.Context(), strings.Join(given, ""))
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{Headings: []string{"Run control", "Owner", "Last run", "Title", "Reports"}}
			for _, k := range list {
				last := "never"
				if k.LastRun != nil {
					last = c.At(*k.LastRun)
				}
				var reports []string
				for _, s := range k.Steps {
					reports = append(reports, s.Report)
				}
				t.Rows = append(t.Rows, []string{k.Id, k.Owner, last, k.Title, strings.Join(reports, ", ")})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

// putControlCommand makes the command put: make a run control, or change one; - reads standard input.
func putControlCommand(c *Program) *cobra.Command {
	var overwrite bool
	cmd := &cobra.Command{
		Use:   "put ID FILE",
		Short: "Make a run control, or change one; - reads standard input",
		Long: `Make a run control of a file. When there is one of that id, what would change
is shown and nothing is kept, unless --overwrite says so.`,
		Args:              talk.Args(cobra.ExactArgs(2)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			change, err := readControl(given[1])
			if err != nil {
				return err
			}
			params := &api.PutControlParams{}
			present, err := c.control(cmd.Context(), given[0])
			var refused *talk.Coded
			switch {
			case errors.As(err, &refused) && refused.Code == talk.ExitNotFound:
			case err != nil:
				return err
			default:
				if err := c.mayOverwrite(present, change, overwrite); err != nil {
					return err
				}
				revision := fmt.Sprint(present.Revision)
				params.IfMatch = &revision
			}
			kept, err := talk.Fetch[api.Control](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.PutControl(cmd.Context(), given[0], params, change)
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(kept)
			}
			fmt.Fprintf(c.Out, "%s is kept; run it with: mantilla control run %s\n", kept.Title, kept.Id)
			if kept.NextRun != nil {
				fmt.Fprintf(c.Out, "It is due %s, next on %s.\n", *kept.Says, c.OnDay(*kept.NextRun))
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&overwrite, "overwrite", false, "change the run control that has the id")
	return cmd
}

// readControl reads the file of a run control; - is standard input.
func readControl(file string) (change api.ControlChange, err error) {
	text, err := talk.ReadText(file)
	if err != nil {
		return change, err
	}
	var f controlFile
	decoder := yaml.NewDecoder(bytes.NewReader(text))
	decoder.KnownFields(true)
	if err := decoder.Decode(&f); err != nil {
		return change, talk.Usage("%s: %v", file, err)
	}
	return f.change()
}

// mayOverwrite shows what a file would change of a run control, and refuses
// unless that is wanted.
func (c *Program) mayOverwrite(present api.Control, change api.ControlChange, wanted bool) error {
	was, err := yaml.Marshal(fileOf(present))
	if err != nil {
		return err
	}
	will, err := yaml.Marshal(
		fileOf(api.Control{Title: change.Title, Shared: change.Shared, Steps: change.Steps, Outputs: change.Outputs,
			Rows: change.Rows, Seconds: change.Seconds,
			Hours: change.Hours, Empty: api.ControlEmpty(change.Empty), KeepDays: change.KeepDays,
			Restate: change.Restate, Send: change.Send,
			Split: change.Split, Timetable: change.Timetable}))
	if err != nil || wanted || bytes.Equal(was, will) {
		return err
	}
	var lines []string
	before, after := strings.Split(string(was), "\n"), strings.Split(string(will), "\n")
	for _, line := range before {
		if !slices.Contains(after, line) {
			lines = append(lines, "- "+line)
		}
	}
	for _, line := range after {
		if !slices.Contains(before, line) {
			lines = append(lines, "+ "+line)
		}
	}
	return talk.Usage("%s exists, and this would change it:\n  %s\nrepeat with --overwrite, or choose another id",
		present.Id,
		strings.Join(lines, "\n  "))
}

// showControlCommand makes the command show: print a run control as its file.
func showControlCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "show ID",
		Short:             "Print a run control as its file",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := c.control(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(k)
			}
			return yaml.NewEncoder(c.Out).Encode(fileOf(k))
		},
	}
}

// pauseControlCommand makes the command pause: stop the timetable of a run control for a while; --end lets it go on.
func pauseControlCommand(c *Program) *cobra.Command {
	var on bool
	cmd := &cobra.Command{
		Use:               "pause ID",
		Short:             "Stop the timetable of a run control for a while; --end lets it go on",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := talk.Fetch[api.Control](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.PauseControl(cmd.Context(), given[0], api.PauseControlJSONRequestBody{Paused: !on})
			})
			switch {
			case err != nil:
				return err
			case c.JSON():
				return c.PrintJSON(k)
			case on && k.NextRun != nil:
				fmt.Fprintf(c.Err, "%s goes on, next on %s.\n", k.Title, c.OnDay(*k.NextRun))
			case !on:
				fmt.Fprintf(c.Err, "The timetable of %s waits; mantilla control pause %s --end lets it go on.\n", k.Title, k.Id)
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&on, "end", false, "let it go on")
	return cmd
}

// deleteControlCommand makes the command delete: delete a run control; restore brings it back.
func deleteControlCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "delete ID",
		Short:             "Delete a run control; restore brings it back",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done(fmt.Sprintf("%[1]s is deleted; mantilla control restore %[1]s brings it back.", given[0]),
				func(a *client.Client) (*http.Response, error) {
					return a.DeleteControl(cmd.Context(), given[0])
				})
		},
	}
}
