// Package reconciling has the commands about statements and what is reconciled with them.
package reconciling

import (
	"context"
	"fmt"
	"net/http"
	"regexp"
	"strconv"
	"strings"

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

// kept is how a statement that is kept is called.
var kept = regexp.MustCompile(`^[Ss]-?\d+$`)

// ReconcileCommand makes the command reconcile: a result held against a statement.
func ReconcileCommand(c *Program) *cobra.Command {
	var as, earlier, until, to string
	var choose []string
	var noWait bool
	cmd := &cobra.Command{
		Use:   "reconcile RESULT STATEMENT",
		Short: "Hold a result against a statement: what matches, differs and stays open, as a result of its own",
		Long: `Hold a result against what somebody else states of the same rows, as payments
against a bank's statement: a file in CSV, XLSX or ISO 20022 camt.053, or a
statement that is kept, S-3. How it is read, and by how many working days its
lines follow, the report declares.

What is doubtful is chosen by the numbers that reconcile open shows; choices are
told with the result.

` + talk.ExitHelp,
		Example: `  mantilla reconcile R-12 statements/2025-10.csv --until 2025-10-31
  mantilla reconcile open R-14
  mantilla reconcile R-12 S-1 --choose 4=9
  mantilla reconcile R-13 statements/2025-11.xml --earlier R-15 --to november.xlsx`,
		Args: talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			body := api.Reconcile{Result: given[0], Statement: given[1]}
			if len(choose) > 0 {
				chosen, err := choices(choose)
				if err != nil {
					return err
				}
				body.Chosen = &chosen
			}
			if earlier != "" {
				body.Earlier = &earlier
			}
			if until != "" {
				body.Until = &until
			}
			if !kept.MatchString(given[1]) {
				s, err := c.bring(cmd.Context(), given[0], given[1], as)
				if err != nil {
					return err
				}
				body.Statement = s.Id
			}
			run, err := talk.Fetch[api.Run](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.Reconcile(cmd.Context(), body) })
			if err != nil {
				return err
			}
			return capture.Of(c.Program).AwaitMade(cmd.Context(), run, noWait, to)
		},
	}
	cmd.Flags().StringVar(&as, "as", "", "which statement of the report the file is, where it declares several")
	cmd.Flags().StringVar(&earlier, "earlier", "", "the reconciliation whose open items are brought on")
	cmd.Flags().StringVar(&until, "until", "",
		"the last day that the statement covers; otherwise as it says, or its last line")
	cmd.Flags().StringArrayVar(&choose, "choose", nil,
		"what belongs together, by numbers: 4=9, 3+5=7, or lines that cancel: =8+9")
	cmd.Flags().StringVar(&to, "to", "", "also write it to this file, as run --to does")
	cmd.Flags().BoolVar(&noWait, "no-wait", false, "do not wait for the end")
	cmd.AddCommand(c.open())
	return cmd
}

// bring has a file read as a statement of the report that a result is of.
func (c *Program) bring(ctx context.Context, result, file, as string) (s api.StatementFile, err error) {
	r, err := talk.Fetch[api.Result](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetResult(ctx, result) })
	if err != nil {
		return s, err
	}
	return c.add(ctx, r.Report, file, as)
}

// choices reads what belongs together, as 3+5=7.
func choices(given []string) (out []api.MatchChoice, err error) {
	for _, g := range given {
		ours, lines, found := strings.Cut(g, "=")
		choice := api.MatchChoice{Ours: []int{}, Lines: []int{}}
		for side, to := range map[string]*[]int{ours: &choice.Ours, lines: &choice.Lines} {
			for _, n := range strings.FieldsFunc(side, func(r rune) bool { return r == '+' || r == ' ' }) {
				number, err := strconv.Atoi(n)
				if err != nil || number < 1 {
					found = false
				}
				*to = append(*to, number)
			}
		}
		if !found {
			return nil, talk.Usage("--choose %s: name the numbers of ours, = and those of lines, as 4=9 or 3+5=7", g)
		}
		out = append(out, choice)
	}
	return out, nil
}

// open makes the command that lists what a reconciliation left open.
func (c *Program) open() *cobra.Command {
	return &cobra.Command{
		Use:     "open RESULT",
		Short:   "What a reconciliation left open, with the numbers by which it is chosen",
		Example: "  mantilla reconcile open R-14",
		Args:    talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := talk.Fetch[api.Reconciliation](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.GetReconciliation(cmd.Context(), given[0])
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(r)
			}
			fmt.Fprintf(c.Say(), "%s with %s, %s, until %s\n", r.Result, r.Statement, r.Name, r.Until)
			t := talk.Table{Headings: []string{"Side", "No.", "Became", "Match", "Day", "Reference", "Amount", "Text", "Since"},
				Right: []bool{false, true, false, true, false, false, true, false, false}}
			for side, items := range [][]api.OpenItem{r.Ours, r.Lines} {
				name := []string{"ours", "line"}[side]
				for _, it := range items {
					match := ""
					if it.Match != nil {
						match = strconv.Itoa(*it.Match)
					}
					t.Rows = append(t.Rows, []string{name, strconv.Itoa(it.Number), it.Became, match, talk.Deref(it.Day),
						talk.Deref(it.Reference), it.Amount, talk.Deref(it.Text), talk.Deref(it.Since)})
				}
			}
			if _, err := c.Draw(&t); err != nil {
				return err
			}
			if r.More > 0 {
				fmt.Fprintf(c.Say(), "%d more are open; read them with: mantilla show %s open\n", r.More, given[0])
			}
			return nil
		},
	}
}
