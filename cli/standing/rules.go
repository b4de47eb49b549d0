package standing

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// rulesCommand makes the command rules: how long results are kept, and how much people may keep.
func rulesCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "rules",
		Short: "List how long results are kept, and how much people may keep",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			x, err := talk.Fetch[api.Rules](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListRules(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(x)
			}
			t := talk.Table{Headings: []string{"Of", "Rule"}}
			for _, r := range x.Keep {
				says := fmt.Sprintf("kept for %d days", r.Days)
				if r.Final {
					says += ", then gone for good, held or not"
				}
				t.Rows = append(t.Rows, []string{named(string(r.Kind), r.Id), says})
			}
			for _, q := range x.Quotas {
				t.Rows = append(t.Rows, []string{named(string(q.Kind), q.Id), fmt.Sprintf("may keep %d MB", q.Megabytes)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

func named(kind, id string) string {
	if kind == id {
		return id
	}
	return kind + ":" + id
}

// ofWhat reads report:ID, category:NAME or all.
func ofWhat(text string) (kind, id string) {
	kind, id, found := strings.Cut(text, ":")
	if !found {
		id = kind
	}
	return kind, id
}

// keepCommand makes the command keep: say how long results are kept.
func keepCommand(c *Program) *cobra.Command {
	var days int
	var final, try, none bool
	cmd := &cobra.Command{
		Use:   "keep OF",
		Short: "Say how long results are kept at most: of report:ID, category:NAME, or all others",
		Long: `Say how long results are kept at most: of report:ID, category:NAME, or all others.

The most particular rule is the one that counts. What goes by it lies in the trash for 30 days; with --final it
goes for good, and what is held goes too. What is signed off stays. --try tells what would go, and keeps no rule.`,
		Example: `  mantilla space keep category:Staff --days 90 --final --try
  mantilla space keep all --days 800`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			kind, id := ofWhat(given[0])
			if none {
				return c.Done("There is no rule for "+given[0]+" any more.", func(a *client.Client) (*http.Response, error) {
					return a.DeleteKeepRule(cmd.Context(), kind, id)
				})
			}
			e, err := talk.Fetch[api.RuleEffect](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.PutKeepRule(cmd.Context(), kind, id, &api.PutKeepRuleParams{Try: &try},
					api.PutKeepRuleJSONRequestBody{Days: days, Final: final})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(e)
			}
			return c.effect(e, try)
		},
	}
	cmd.Flags().IntVar(&days, "days", 0, "for how long")
	cmd.Flags().BoolVar(&final, "final", false, "what is held goes too, and for good")
	cmd.Flags().BoolVar(&try, "try", false, "tell what would go, and keep no rule")
	cmd.Flags().BoolVar(&none, "none", false, "take the rule away")
	return cmd
}

func (c *Program) effect(e api.RuleEffect, try bool) error {
	t := talk.Table{Headings: []string{"Result", "Report", "Kept at", "Rows"}, Right: []bool{3: true}}
	for _, r := range e.Sample {
		t.Rows = append(t.Rows, []string{r.Id, r.Title, c.At(r.KeptAt), fmt.Sprint(r.Rows)})
	}
	if len(t.Rows) > 0 {
		if _, err := c.Draw(&t); err != nil {
			return err
		}
	}
	goes := "go within the hour"
	if try {
		goes = "would go"
	}
	fmt.Fprintf(c.Say(), "%d results of %s %s.\n", e.Results, size(e.Bytes), goes)
	return nil
}

// quotaCommand makes the command quota: say how much somebody may keep.
func quotaCommand(c *Program) *cobra.Command {
	var megabytes int64
	var none bool
	cmd := &cobra.Command{
		Use:   "quota OF",
		Short: "Say how much the results of person:NAME, of each member of group:ID, or of everyone may take",
		Example: `  mantilla space quota everyone --mb 2000
  mantilla space quota person:runa --mb 10000`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			kind, id := ofWhat(given[0])
			if !none && megabytes <= 0 {
				return talk.Usage("--mb: say how many megabytes, or --none")
			}
			done := fmt.Sprintf("%s may keep %d MB.", given[0], megabytes)
			if none {
				megabytes, done = 0, given[0]+" has no quota any more."
			}
			return c.Done(done, func(a *client.Client) (*http.Response, error) {
				return a.PutQuota(cmd.Context(), kind, id,
					api.PutQuotaJSONRequestBody{Megabytes: megabytes})
			})
		},
	}
	cmd.Flags().Int64Var(&megabytes, "mb", 0, "megabytes")
	cmd.Flags().BoolVar(&none, "none", false, "take the quota away")
	return cmd
}
