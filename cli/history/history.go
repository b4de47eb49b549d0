// Package history has the command about the results of a run control in their order.
package history

import (
	"fmt"
	"net/http"
	"strconv"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/capture"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command history: the results of a run control in their order.
func Command(c *Program) *cobra.Command {
	var report, like, dataset, since, until, to string
	key, track := []string{}, []string{}
	var noWait bool
	cmd := &cobra.Command{
		Use:   "history CONTROL",
		Short: "The results of a run control read as a history, as a result of its own",
		Long: `Read the results of a run control in their order: what each row was, since when
and until when, what entered, left and became what, and the course over all
captures, also where the source holds only what is now. Where nothing was kept
there is a gap.

The state of a row is told by the columns that --track names: the first of them
says which it is.

` + talk.ExitHelp,
		Example: `  mantilla history captures training-month
  mantilla history captures training-month --on 2026-01-20
  mantilla history training-month --track stage
  mantilla history training-month --since 2026-04-01 --to moves.xlsx`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			body := api.HistoryWish{Control: given[0], Report: &report, Dataset: &dataset, Since: &since, Until: &until,
				Key: &key, Track: &track}
			if like != "" {
				body.Like = &like
			}
			run, err := talk.Fetch[api.Run](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ReadHistory(cmd.Context(), body) })
			if err != nil {
				return err
			}
			return capture.Of(c.Program).AwaitMade(cmd.Context(), run, noWait, to)
		},
	}
	cmd.PersistentFlags().StringVar(&report, "report", "", "the report, where the control runs several")
	cmd.PersistentFlags().StringVar(&like, "like", "", "a result whose series is meant, where a control keeps several; "+
		"otherwise the last")
	cmd.Flags().StringVar(&dataset, "of", "", "dataset; otherwise that of the view which opens first")
	cmd.Flags().StringSliceVar(&key, "key", key, "columns that find a row in the next result, with commas between")
	cmd.Flags().StringSliceVar(&track, "track", track, "columns whose change begins another state, with commas between")
	cmd.Flags().StringVar(&since, "since", "", "first day")
	cmd.Flags().StringVar(&until, "until", "", "last day")
	cmd.Flags().StringVar(&to, "to", "", "also write it to this file, as run --to does")
	cmd.Flags().BoolVar(&noWait, "no-wait", false, "do not wait for the end")
	cmd.AddCommand(c.captures(&report, &like))
	return cmd
}

// captures makes the command that lists the results of a run control in their order.
func (c *Program) captures(report, like *string) *cobra.Command {
	var on string
	cmd := &cobra.Command{
		Use:   "captures CONTROL",
		Short: "The results of a run control in their order, with the moments of which nothing was kept",
		Example: `  mantilla history captures training-month
  mantilla show $(mantilla history captures training-month --on 2026-01-20)`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			params := &api.ListCapturesParams{}
			if *report != "" {
				params.Report = report
			}
			if *like != "" {
				params.Like = like
			}
			if on != "" {
				params.On = &on
			}
			s, err := talk.Fetch[api.Captures](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListCaptures(cmd.Context(), given[0], params) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(s)
			}
			if s.On != nil {
				fmt.Fprintln(c.Out, *s.On)
				return nil
			}
			t := talk.Table{Headings: []string{"Captured", "Result", "Rows", "Values"},
				Right: []bool{false, false, true, false}}
			for _, k := range s.Captures {
				if k.Result == nil {
					t.Rows = append(t.Rows, []string{c.At(k.At), "missing", "", talk.Deref(k.Reason)})
					continue
				}
				t.Rows = append(t.Rows, []string{c.At(k.At), *k.Result, strconv.FormatInt(k.Rows, 10), talk.Deref(k.Sentence)})
			}
			if _, err := c.Draw(&t); err != nil {
				return err
			}
			if s.Other > 0 {
				fmt.Fprintf(c.Say(), "\n%d results of other values or units are not part of it. There are, each with --like:\n",
					s.Other)
				for _, k := range s.Series {
					fmt.Fprintf(c.Say(), "  %s  %d kept: %s\n", k.Like, k.Kept, k.Sentence)
				}
			}
			return nil
		},
	}
	cmd.Flags().StringVar(&on, "on", "", "print only the result that says how it was on this day")
	return cmd
}
