package cli

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"mantilla/api"
)

func controlCommand(c *client) *cobra.Command {
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
	cmd.AddCommand(listControlsCommand(c), putControlCommand(c), showControlCommand(c), runControlCommand(c), pastControlCommand(c), pauseControlCommand(c), deleteControlCommand(c), restoreControlCommand(c))
	return cmd
}

func (c *client) control(ctx context.Context, id string) (api.Control, error) {
	return fetch[api.Control](c, func(a *api.Client) (*http.Response, error) { return a.GetControl(ctx, id) })
}

func (c *client) controls(ctx context.Context, search string) ([]api.Control, error) {
	return fetch[[]api.Control](c, func(a *api.Client) (*http.Response, error) {
		return a.ListControls(ctx, &api.ListControlsParams{Search: &search})
	})
}

func (c *client) completeControl(_ *cobra.Command, given []string, _ string) (ids []string, _ cobra.ShellCompDirective) {
	if len(given) > 0 {
		return nil, noFiles
	}
	ctx, cancel := context.WithTimeout(context.Background(), completionTime)
	defer cancel()
	all, _ := c.controls(ctx, "")
	for _, k := range all {
		ids = append(ids, k.Id+"\t"+k.Title)
	}
	return ids, noFiles
}

func listControlsCommand(c *client) *cobra.Command {
	return &cobra.Command{
		Use:   "list [WORD]",
		Short: "List run controls",
		Args:  args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			list, err := c.controls(cmd.Context(), strings.Join(given, ""))
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(list)
			}
			t := table{headings: []string{"Run control", "Owner", "Last run", "Title", "Reports"}}
			for _, k := range list {
				last := "never"
				if k.LastRun != nil {
					last = k.LastRun.Local().Format("2 Jan 2006 15:04")
				}
				var reports []string
				for _, s := range k.Steps {
					reports = append(reports, s.Report)
				}
				t.rows = append(t.rows, []string{k.Id, k.Owner, last, k.Title, strings.Join(reports, ", ")})
			}
			_, err = t.draw(c.out, widthOf(c.out))
			return err
		},
	}
}

// controlFile is a run control as it is written.
type controlFile struct {
	Title   string        `yaml:"title"`
	Shared  string        `yaml:"shared,omitempty"`
	Steps   []stepFile    `yaml:"steps"`
	Outputs []string      `yaml:"outputs,omitempty,flow"`
	Empty   string        `yaml:"empty,omitempty"`
	Hours   string        `yaml:"hours,omitempty"`
	Rows    int64         `yaml:"rows,omitempty"`
	Time    time.Duration `yaml:"time,omitempty"`
	Keep    int           `yaml:"keep,omitempty"`

	Send      map[string]any `yaml:"send,omitempty"`
	Split     map[string]any `yaml:"split,omitempty"`
	Timetable map[string]any `yaml:"timetable,omitempty"`
}

type stepFile struct {
	Report   string            `yaml:"report"`
	Criteria string            `yaml:"criteria,omitempty"`
	Values   map[string]string `yaml:"values,omitempty"`
	View     string            `yaml:"view,omitempty"`
}

func (f controlFile) change() (change api.ControlChange, err error) {
	change = api.ControlChange{Title: f.Title, Shared: f.Shared, Steps: []api.Step{}, Outputs: []api.Output{}, Rows: f.Rows, Seconds: int64(f.Time / time.Second),
		Hours: f.Hours, Empty: api.ControlChangeEmpty(f.Empty), KeepDays: f.Keep}
	if f.Empty == "" {
		change.Empty = "keep"
	}
	for _, s := range f.Steps {
		step := api.Step{Report: s.Report}
		if s.Criteria != "" {
			step.Criteria = &s.Criteria
		}
		if s.Values != nil {
			step.Values = (*api.Values)(&s.Values)
		}
		if s.View != "" {
			step.View = &s.View
		}
		change.Steps = append(change.Steps, step)
	}
	for _, o := range f.Outputs {
		change.Outputs = append(change.Outputs, api.Output(o))
	}
	for _, part := range []struct {
		name string
		from map[string]any
		to   any
	}{{"send", f.Send, &change.Send}, {"split", f.Split, &change.Split}, {"timetable", f.Timetable, &change.Timetable}} {
		if part.from == nil {
			continue
		}
		if err := strictly(part.from, part.to); err != nil {
			return change, usage("%s: %v", part.name, err)
		}
	}
	return change, nil
}

// strictly reads what YAML holds as the contract has it; names that it does not
// know are errors.
func strictly(from, to any) error {
	text, err := json.Marshal(from)
	if err != nil {
		return err
	}
	decoder := json.NewDecoder(bytes.NewReader(text))
	decoder.DisallowUnknownFields()
	return decoder.Decode(to)
}

// loosely writes what the contract has as YAML may hold it.
func loosely(from any) (to map[string]any) {
	text, _ := json.Marshal(from)
	_ = json.Unmarshal(text, &to) // it was written just now
	return to
}

func fileOf(k api.Control) controlFile {
	f := controlFile{Title: k.Title, Shared: k.Shared, Empty: string(k.Empty), Hours: k.Hours, Rows: k.Rows, Time: time.Duration(k.Seconds) * time.Second, Keep: k.KeepDays}
	for _, s := range k.Steps {
		step := stepFile{Report: s.Report}
		if s.Criteria != nil {
			step.Criteria = *s.Criteria
		}
		if s.Values != nil {
			step.Values = *s.Values
		}
		if s.View != nil {
			step.View = *s.View
		}
		f.Steps = append(f.Steps, step)
	}
	for _, o := range k.Outputs {
		f.Outputs = append(f.Outputs, string(o))
	}
	if k.Send != nil {
		f.Send = loosely(k.Send)
	}
	if k.Split != nil {
		f.Split = loosely(k.Split)
	}
	if k.Timetable != nil {
		f.Timetable = loosely(k.Timetable)
	}
	return f
}

func putControlCommand(c *client) *cobra.Command {
	return &cobra.Command{
		Use:               "put ID FILE",
		Short:             "Make a run control, or change one; - reads standard input",
		Args:              args(cobra.ExactArgs(2)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := readText(given[1])
			if err != nil {
				return err
			}
			var f controlFile
			decoder := yaml.NewDecoder(bytes.NewReader(text))
			decoder.KnownFields(true)
			if err := decoder.Decode(&f); err != nil {
				return usage("%s: %v", given[1], err)
			}
			change, err := f.change()
			if err != nil {
				return err
			}
			params := &api.PutControlParams{}
			present, err := c.control(cmd.Context(), given[0])
			var refused *coded
			switch {
			case errors.As(err, &refused) && refused.code == exitNotFound:
			case err != nil:
				return err
			default:
				revision := fmt.Sprint(present.Revision)
				params.IfMatch = &revision
			}
			kept, err := fetch[api.Control](c, func(a *api.Client) (*http.Response, error) {
				return a.PutControl(cmd.Context(), given[0], params, change)
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(kept)
			}
			fmt.Fprintf(c.out, "%s is kept; run it with: mantilla control run %s\n", kept.Title, kept.Id)
			if kept.NextRun != nil {
				fmt.Fprintf(c.out, "It is due %s, next on %s.\n", *kept.Says, kept.NextRun.Local().Format("Mon 2 Jan 2006 15:04"))
			}
			return nil
		},
	}
}

func showControlCommand(c *client) *cobra.Command {
	return &cobra.Command{
		Use:               "show ID",
		Short:             "Print a run control as its file",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := c.control(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(k)
			}
			return yaml.NewEncoder(c.out).Encode(fileOf(k))
		},
	}
}

func runControlCommand(c *client) *cobra.Command {
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
			all, err := fetch[[]api.ControlRun](c, func(a *api.Client) (*http.Response, error) {
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
func (c *client) takeAway(ctx context.Context, k api.Control, batch api.ControlRun, dir string) error {
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

func (c *client) tellControlRuns(batches []api.ControlRun) error {
	if c.json() {
		return c.printJSON(batches)
	}
	t := table{headings: []string{"Set", "Asked", "Part", "Report", "State", "Rows", "Took", "Result", "Sent", "Values"}, right: []bool{5: true, 6: true, 9: false}}
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
			t.rows = append(t.rows, []string{b.Id, b.AskedAt.Local().Format("2 Jan 15:04"), deref(b.Part), r.Report, string(r.State), fmt.Sprint(r.Rows), seconds(r.Seconds), result, sentOf(b), said})
		}
	}
	_, err := t.draw(c.out, widthOf(c.out))
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

func pauseControlCommand(c *client) *cobra.Command {
	var on bool
	cmd := &cobra.Command{
		Use:               "pause ID",
		Short:             "Stop the timetable of a run control for a while; --end lets it go on",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := fetch[api.Control](c, func(a *api.Client) (*http.Response, error) {
				return a.PauseControl(cmd.Context(), given[0], api.PauseControlJSONRequestBody{Paused: !on})
			})
			switch {
			case err != nil:
				return err
			case c.json():
				return c.printJSON(k)
			case on && k.NextRun != nil:
				fmt.Fprintf(c.err, "%s goes on, next on %s.\n", k.Title, k.NextRun.Local().Format("Mon 2 Jan 2006 15:04"))
			case !on:
				fmt.Fprintf(c.err, "The timetable of %s waits; mantilla control pause %s --end lets it go on.\n", k.Title, k.Id)
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&on, "end", false, "let it go on")
	return cmd
}

func pastControlCommand(c *client) *cobra.Command {
	var most int
	cmd := &cobra.Command{
		Use:               "past ID",
		Short:             "List the past runs of a run control",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			batches, err := fetch[[]api.ControlRun](c, func(a *api.Client) (*http.Response, error) {
				return a.ListControlRuns(cmd.Context(), given[0], &api.ListControlRunsParams{Limit: &most})
			})
			if err != nil {
				return err
			}
			return c.tellControlRuns(batches)
		},
	}
	cmd.Flags().IntVar(&most, "most", 10, "at most so many")
	return cmd
}

func deleteControlCommand(c *client) *cobra.Command {
	return &cobra.Command{
		Use:               "delete ID",
		Short:             "Delete a run control; restore brings it back",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeControl,
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.done(fmt.Sprintf("%[1]s is deleted; mantilla control restore %[1]s brings it back.", given[0]), func(a *api.Client) (*http.Response, error) {
				return a.DeleteControl(cmd.Context(), given[0])
			})
		},
	}
}

func restoreControlCommand(c *client) *cobra.Command {
	return &cobra.Command{
		Use:   "restore ID",
		Short: "Bring a deleted run control back",
		Args:  args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.done(given[0]+" is back.", func(a *api.Client) (*http.Response, error) { return a.RestoreControl(cmd.Context(), given[0]) })
		},
	}
}
