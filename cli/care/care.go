// Package care has the commands about who looks after reports and who asks for them.
package care

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command definition care: who looks after reports, and when they are looked at again.
func Command(c *Program) *cobra.Command {
	var owner, review string
	var every int
	var listed, reviewed, due bool
	cmd := &cobra.Command{
		Use:   "care [REPORT]",
		Short: "Who looks after reports and when they are reviewed; change it, or say that one was reviewed",
		Example: `  mantilla definition care --due
  mantilla definition care intake-lots --owner aron --review 2027-01-15 --every 12
  mantilla definition care intake-lots --reviewed
  mantilla definition care budget-position --listed`,
		Args: talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if len(given) == 0 {
				return c.cares(cmd, due)
			}
			report, flags := given[0], cmd.Flags()
			now, err := talk.Fetch[api.Care](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetCare(cmd.Context(), report) })
			if err != nil {
				return err
			}
			if reviewed {
				now, err = talk.Fetch[api.Care](c.Program,
					func(a *client.Client) (*http.Response, error) { return a.ReviewReport(cmd.Context(), report) })
				return c.told([]api.Care{now}, err)
			}
			change := api.CareChange{Owner: now.Owner, ReviewOn: now.ReviewOn, EveryMonths: now.EveryMonths, Listed: now.Listed}
			changed := false
			if flags.Changed("owner") {
				change.Owner, changed = &owner, true
			}
			if flags.Changed("every") {
				change.EveryMonths, changed = &every, true
			}
			if flags.Changed("listed") {
				change.Listed, changed = listed, true
			}
			if flags.Changed("review") {
				if change.ReviewOn, err = talk.Day("review", review); err != nil {
					return err
				}
				changed = true
			}
			if changed {
				now, err = talk.Fetch[api.Care](c.Program,
					func(a *client.Client) (*http.Response, error) { return a.PutCare(cmd.Context(), report, change) })
			}
			return c.told([]api.Care{now}, err)
		},
	}
	cmd.Flags().StringVar(&owner, "owner", "", "the account of who looks after it; empty for nobody")
	cmd.Flags().StringVar(&review, "review", "", "the day on which it is looked at again, as 2027-01-15, or none")
	cmd.Flags().IntVar(&every, "every", 0, "months from one review to the next; 0 for once")
	cmd.Flags().BoolVar(&listed, "listed", false, "people to whom it is not open see that there is one and may ask for it")
	cmd.Flags().BoolVar(&reviewed, "reviewed", false, "it was looked at; its next review is set")
	cmd.Flags().BoolVar(&due, "due", false, "of all reports, only those whose day of review has come")
	return cmd
}

func (c *Program) cares(cmd *cobra.Command, due bool) error {
	all, err := talk.Fetch[[]api.Care](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListCares(cmd.Context()) })
	if due {
		all = slices.DeleteFunc(all, func(c api.Care) bool { return !c.Due })
	}
	return c.told(all, err)
}

func (c *Program) told(all []api.Care, err error) error {
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(all)
	}
	t := talk.Table{Headings: []string{"Report", "Owner", "Review", "Every", "Listed"}}
	for _, one := range all {
		review, every, listed := "", "", ""
		if one.ReviewOn != nil {
			review = one.ReviewOn.Format("2 Jan 2006")
		}
		if one.Due {
			review += ", due"
		}
		if one.EveryMonths != nil {
			every = fmt.Sprintf("%d months", *one.EveryMonths)
		}
		if one.Listed {
			listed = "listed"
		}
		t.Rows = append(t.Rows, []string{one.Report, talk.Deref(one.Owner), review, every, listed})
	}
	_, err = c.Draw(&t)
	return err
}

// RequestsCommand makes the command requests: ask for a report that is not open to one; answer who asks.
func RequestsCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "requests",
		Short: "List who asks for reports; ask for one, grant or refuse it",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := talk.Fetch[[]api.Request](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListRequests(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{Headings: []string{"No.", "State", "Report", "Who", "When", "Why", "Answer"},
				Right: []bool{true, false, false, false, false, false, false}}
			for _, r := range list {
				t.Rows = append(t.Rows, []string{strconv.FormatInt(r.Number, 10), string(r.State), r.Report, r.Person, c.At(r.At),
					r.Says, r.Answer})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(&cobra.Command{
		Use:   "ask REPORT [WHY...]",
		Short: "Ask for a report that is listed and not open to you",
		Args:  talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			says := strings.Join(given[1:], " ")
			return c.Done("Those who may open it are told.", func(a *client.Client) (*http.Response, error) {
				return a.AskForReport(cmd.Context(), given[0], api.RequestText{Says: &says})
			})
		},
	}, c.answer("grant NUMBER [TEXT...]", "Open a report to who asked for it; they are told", true),
		c.answer("refuse NUMBER [WHY...]", "Refuse a report to who asked for it; they are told", false))
	return cmd
}

func (c *Program) answer(use, short string, grant bool) *cobra.Command {
	return &cobra.Command{
		Use:   use,
		Short: short,
		Args:  talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			n, err := strconv.ParseInt(given[0], 10, 64)
			if err != nil {
				return talk.Usage("%q is not the number of a request", given[0])
			}
			text := strings.Join(given[1:], " ")
			r, err := talk.Fetch[api.Request](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.AnswerRequest(cmd.Context(), n, api.RequestAnswer{Grant: grant, Answer: &text})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(r)
			}
			fmt.Fprintf(c.Out, "%s of %s is %s; %s is told.\n", r.Report, r.Person, r.State, r.Person)
			return nil
		},
	}
}

// HandOverCommand makes the command people hand-over: give what a person keeps to another.
func HandOverCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "hand-over PERSON TO",
		Short: "Give what a person keeps to another: criteria, views, controls, drafts, reports, addresses, tiles",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			moved, err := talk.Fetch[[]string](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.HandOver(cmd.Context(), given[0], api.HandOver{To: given[1]})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(moved)
			}
			if len(moved) == 0 {
				fmt.Fprintf(c.Out, "%s keeps nothing.\n", given[0])
				return nil
			}
			fmt.Fprintf(c.Out, "%s has them now: %s.\n", given[1], strings.Join(moved, ", "))
			return nil
		},
	}
}
