package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
)

func resultsCommand(c *client) *cobra.Command {
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
			results, err := fetch[[]api.ResultLine](c, func(a *api.Client) (*http.Response, error) { return a.ListResults(cmd.Context(), params) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(results)
			}
			t := table{headings: []string{"Result", "Kept", "Rows", "Title", "Values"}, right: []bool{2: true, 4: false}}
			for _, r := range results {
				t.rows = append(t.rows, []string{r.Id, r.KeptAt.Local().Format("2 Jan 2006 15:04"), fmt.Sprint(r.Rows), r.Title, r.Sentence})
			}
			_, err = t.draw(c.out, widthOf(c.out))
			return err
		},
	}
	cmd.Flags().StringVar(&report, "report", "", "only results of this report")
	cmd.Flags().IntVar(&most, "most", 30, "at most so many")
	must(cmd.RegisterFlagCompletionFunc("report", c.completeReport))
	return cmd
}

func exportCommand(c *client) *cobra.Command {
	var view, format, to string
	var r reading
	cmd := &cobra.Command{
		Use:   "export RESULT",
		Short: "Take a result away as a file",
		Example: `  mantilla export R-000001 --to lots.xlsx
  mantilla export R-000001 --format csv > lots.csv`,
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.export(cmd.Context(), given[0], view, format, to, r)
		},
	}
	cmd.Flags().StringVar(&view, "view", "", "view to take; otherwise the first of the result's page")
	cmd.Flags().StringVar(&format, "format", "", "csv or xlsx; otherwise by the file's ending, csv on standard output")
	cmd.Flags().StringVar(&to, "to", "-", "file to write, - for standard output")
	must(cmd.RegisterFlagCompletionFunc("format", fixed("csv", "xlsx")))
	r.flags(cmd)
	return cmd
}

// formatOf settles the format of a file to be written.
func formatOf(to, format string) (api.Format, error) {
	if format == "" {
		format = strings.TrimPrefix(strings.ToLower(filepath.Ext(to)), ".")
		if to == "-" || to == "" {
			format = "csv"
		}
	}
	switch f := api.Format(format); f {
	case api.FormatCsv, api.FormatXlsx:
		return f, nil
	}
	return "", usage("%q is not a format; use csv or xlsx as --format or as the file's ending", format)
}

func (c *client) export(ctx context.Context, result, view, format, to string, r reading) error {
	f, err := formatOf(to, format)
	if err != nil {
		return err
	}
	if view == "" {
		x, err := c.result(ctx, result)
		if err != nil {
			return err
		}
		if len(x.Page) == 0 {
			return &coded{exitInput, "no view of the result has rows"}
		}
		view = x.Page[0].Id
	}
	p := &api.ExportViewParams{Format: f}
	answer, err := c.send(func(a *api.Client) (*http.Response, error) { return a.ExportView(ctx, result, view, p, r.query) })
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if to == "-" {
		_, err = io.Copy(c.out, answer.Body)
		return err
	}
	bytes, err := writeWhole(to, answer.Body)
	if err != nil {
		return fmt.Errorf("writing %s: %w", to, err)
	}
	fmt.Fprintf(c.err, "%s: %d bytes\n", to, bytes)
	return nil
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

func deleteCommand(c *client) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{
		Use:               "delete RESULT...",
		Short:             "Delete results with their rows",
		Args:              args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: c.completeResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			if !yes {
				return usage("a deleted result cannot be brought back; repeat with --yes to delete %s", strings.Join(given, ", "))
			}
			for _, id := range given {
				r, err := c.send(func(a *api.Client) (*http.Response, error) { return a.DeleteResult(cmd.Context(), id) })
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

func sealCommand(c *client) *cobra.Command {
	return &cobra.Command{
		Use:               "seal RESULT",
		Short:             "Check that a result's rows are the ones that were sealed",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			seal, err := fetch[api.Seal](c, func(a *api.Client) (*http.Response, error) { return a.CheckSeal(cmd.Context(), given[0]) })
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
