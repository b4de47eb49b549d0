package reading

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// ResultsCommand makes the command results: list kept results, the newest first, or search them.
func ResultsCommand(c *Program) *cobra.Command {
	var report, by, control, since, until string
	var signed, held, noted, trash bool
	var most int
	cmd := &cobra.Command{
		Use:   "results [WORD...]",
		Short: "List kept results, the newest first, or search them",
		RunE: func(cmd *cobra.Command, words []string) error {
			search := strings.Join(words, " ")
			params := &api.ListResultsParams{Limit: &most, Search: &search}
			params.Report, params.By, params.Control = given(report), given(by), given(control)
			var err error
			if params.Since, err = talk.Day("since", since); err != nil {
				return err
			}
			if params.Until, err = talk.Day("until", until); err != nil {
				return err
			}
			for kept, wanted := range map[api.ListResultsParamsKept]bool{"signed": signed, "held": held, "noted": noted,
				"trashed": trash} {
				if wanted {
					params.Kept = &kept
				}
			}
			results, err := talk.Fetch[[]api.ResultLine](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListResults(cmd.Context(), params) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(results)
			}
			t := talk.Table{Headings: []string{"Result", "Kept", "Rows", "State", "Title", "Values"},
				Right: []bool{2: true, 5: false}}
			for _, r := range results {
				t.Rows = append(t.Rows, []string{r.Id, c.At(r.KeptAt), fmt.Sprint(r.Rows), stateOf(r), r.Title, r.Sentence})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	f := cmd.Flags()
	f.StringVar(&report, "report", "", "only results of this report")
	f.StringVar(&by, "by", "", "only what this person asked for")
	f.StringVar(&control, "control", "", "only what this run control made")
	f.StringVar(&since, "since", "", "kept on this day or later: 2026-10-01")
	f.StringVar(&until, "until", "", "kept on this day or earlier")
	f.BoolVar(&signed, "signed", false, "only what is signed off")
	f.BoolVar(&held, "held", false, "only what is held or signed off")
	f.BoolVar(&noted, "noted", false, "only what has a note that is open")
	f.BoolVar(&trash, "trash", false,
		"only what is in the trash; mantilla return brings it back, mantilla trash lists all that is there")
	cmd.MarkFlagsMutuallyExclusive("signed", "held", "noted", "trash")
	talk.LimitFlag(cmd, &most, 30, "at most so many")
	talk.Must(cmd.RegisterFlagCompletionFunc("report", catalog.Of(c.Program).CompleteReport))
	return cmd
}

func given(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}

// stateOf says what is done about keeping a result.
func stateOf(r api.ResultLine) string {
	switch {
	case talk.Deref(r.Signed):
		return "signed"
	case talk.Deref(r.Held):
		return "held"
	}
	return ""
}

// DeleteCommand makes the command delete: put results into the trash.
func DeleteCommand(c *Program) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{
		Use:               "delete RESULT...",
		Short:             "Put results into the trash, from where they can be brought back for 30 days",
		Args:              talk.Args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			if err := c.Confirmed(cmd, strings.Join(given, ", "), "would be in the trash for 30 days", yes); err != nil {
				return err
			}
			for _, id := range given {
				r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.DeleteResult(cmd.Context(), id) })
				if err != nil {
					return err
				}
				r.Body.Close()
				fmt.Fprintf(c.Err, "%s is in the trash until it is deleted in 30 days; bring it back with: mantilla return %s\n",
					id, id)
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&yes, "yes", false, "delete without asking")
	return cmd
}

// SealCommand makes the command seal: check that a result's rows are the ones that were sealed.
func SealCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "seal RESULT",
		Short:             "Check that a result's rows are the ones that were sealed; take the proof away, check one",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			seal, err := talk.Fetch[api.Seal](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.CheckSeal(cmd.Context(), given[0]) })
			switch {
			case err != nil:
				return err
			case c.JSON():
				err = c.PrintJSON(seal)
			case seal.Unchanged:
				_, err = fmt.Fprintf(c.Out, "%s is unchanged; its seal is %s.\n", given[0], seal.Seal)
			}
			if err == nil && !seal.Unchanged {
				return &talk.Coded{Code: talk.ExitOther, Text: given[0] + " does not agree with its seal " + seal.Seal}
			}
			return err
		},
	}
}
