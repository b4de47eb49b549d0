package cli

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

func resultsCommand(c *program) *cobra.Command {
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
			results, err := fetch[[]api.ResultLine](c,
				func(a *client.Client) (*http.Response, error) { return a.ListResults(cmd.Context(), params) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(results)
			}
			t := table{headings: []string{"Result", "Kept", "Rows", "Title", "Values"}, right: []bool{2: true, 4: false}}
			for _, r := range results {
				t.rows = append(t.rows, []string{r.Id, c.at(r.KeptAt), fmt.Sprint(r.Rows), r.Title, r.Sentence})
			}
			_, err = c.draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&report, "report", "", "only results of this report")
	limitFlag(cmd, &most, 30, "at most so many")
	must(cmd.RegisterFlagCompletionFunc("report", c.completeReport))
	return cmd
}

// writeWhole writes a file that appears under its name only when it is whole.
func writeWhole(path string, from io.Reader) (bytes int64, err error) {
	part, err := os.CreateTemp(filepath.Dir(path), "."+filepath.Base(path)+".*")
	if err != nil {
		return 0, err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.Remove(part.Name()))
		}
	}()
	bytes, err = io.Copy(part, from)
	if err = errors.Join(err, part.Chmod(0o644), part.Close()); err != nil {
		return bytes, err
	}
	return bytes, os.Rename(part.Name(), path)
}

func deleteCommand(c *program) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{
		Use:               "delete RESULT...",
		Short:             "Delete results with their rows",
		Args:              args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.completeResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			if err := c.confirmed(cmd, strings.Join(given, ", "), yes); err != nil {
				return err
			}
			for _, id := range given {
				r, err := c.send(func(a *client.Client) (*http.Response, error) { return a.DeleteResult(cmd.Context(), id) })
				if err != nil {
					return err
				}
				r.Body.Close()
				fmt.Fprintf(c.err, "%s is deleted.\n", id)
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&yes, "yes", false, "delete without asking")
	return cmd
}

func sealCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:               "seal RESULT",
		Short:             "Check that a result's rows are the ones that were sealed",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			seal, err := fetch[api.Seal](c,
				func(a *client.Client) (*http.Response, error) { return a.CheckSeal(cmd.Context(), given[0]) })
			switch {
			case err != nil:
				return err
			case c.json():
				err = c.printJSON(seal)
			case seal.Unchanged:
				_, err = fmt.Fprintf(c.out, "%s is unchanged; its seal is %s.\n", given[0], seal.Seal)
			}
			if err == nil && !seal.Unchanged {
				return &coded{exitOther, given[0] + " does not agree with its seal " + seal.Seal}
			}
			return err
		},
	}
}
