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
	var report string
	var most int
	cmd := &cobra.Command{
		Use:   "results [WORD...]",
		Short: "List kept results, the newest first, or search them",
		RunE: func(cmd *cobra.Command, words []string) error {
			search := strings.Join(words, " ")
			params := &api.ListResultsParams{Limit: &most, Search: &search}
			if report != "" {
				params.Report = &report
			}
			results, err := talk.Fetch[[]api.ResultLine](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListResults(cmd.Context(), params) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(results)
			}
			t := talk.Table{Headings: []string{"Result", "Kept", "Rows", "Title", "Values"}, Right: []bool{2: true, 4: false}}
			for _, r := range results {
				t.Rows = append(t.Rows, []string{r.Id, c.At(r.KeptAt), fmt.Sprint(r.Rows), r.Title, r.Sentence})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&report, "report", "", "only results of this report")
	talk.LimitFlag(cmd, &most, 30, "at most so many")
	talk.Must(cmd.RegisterFlagCompletionFunc("report", catalog.Of(c.Program).CompleteReport))
	return cmd
}

// DeleteCommand makes the command delete: delete results with their rows.
func DeleteCommand(c *Program) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{
		Use:               "delete RESULT...",
		Short:             "Delete results with their rows",
		Args:              talk.Args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			if err := c.Confirmed(cmd, strings.Join(given, ", "), yes); err != nil {
				return err
			}
			for _, id := range given {
				r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.DeleteResult(cmd.Context(), id) })
				if err != nil {
					return err
				}
				r.Body.Close()
				fmt.Fprintf(c.Err, "%s is deleted.\n", id)
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
		Short:             "Check that a result's rows are the ones that were sealed",
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
