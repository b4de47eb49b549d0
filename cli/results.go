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

// reading is what the options say about how a view is laid out.
type reading struct {
	columns, sort, filters []string
}

func (r *reading) flags(cmd *cobra.Command) {
	cmd.Flags().StringSliceVar(&r.columns, "columns", nil, "columns to show, in order, commas between")
	cmd.Flags().StringSliceVar(&r.sort, "sort", nil, "columns to sort by; a minus sign before one for descending order")
	cmd.Flags().StringArrayVar(&r.filters, "filter", nil, "test such as 'net_kg>=100', 'district=Hollin;Marr', 'keeper~brell', 'received=2026-09'; may be repeated")
}

func (r *reading) params() (columns, sort, filters *[]string) {
	or := func(list []string) *[]string {
		if len(list) == 0 {
			return nil
		}
		return &list
	}
	return or(r.columns), or(r.sort), or(r.filters)
}

func showCommand(c *client) *cobra.Command {
	var view string
	var first, rows int
	var r reading
	cmd := &cobra.Command{
		Use:   "show RESULT",
		Short: "Show a result as a table that fits the terminal",
		Example: `  mantilla show R-000001
  mantilla show R-000001 --view lots --sort=-value --filter 'district=Hollin' --rows 50`,
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			result, err := c.result(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			views := result.Page
			if view != "" {
				views = []api.PageView{{Id: view}}
			}
			if c.json() {
				return c.showJSON(cmd.Context(), result, views, first, rows, r)
			}
			var sheets []api.Sheet
			for _, v := range views {
				s, err := c.sheet(cmd.Context(), result.Id, v.Id, first, rows, false, r)
				if err != nil {
					return err
				}
				sheets = append(sheets, s)
			}
			fmt.Fprintf(c.out, "%s  %s\n%s\n", result.Id, result.Title, result.Sentence)
			for _, s := range sheets {
				if err := c.showSheet(s); err != nil {
					return err
				}
			}
			return nil
		},
	}
	cmd.Flags().StringVar(&view, "view", "", "view to show; otherwise the result's page")
	cmd.Flags().IntVar(&first, "first", 1, "first row to show")
	cmd.Flags().IntVar(&rows, "rows", 20, "how many rows of each view, 5000 at most")
	r.flags(cmd)
	return cmd
}

func (c *client) result(ctx context.Context, id string) (api.Result, error) {
	return fetch[api.Result](c, func(a *api.Client) (*http.Response, error) { return a.GetResult(ctx, id) })
}

func (c *client) sheet(ctx context.Context, result, view string, first, rows int, plain bool, r reading) (api.Sheet, error) {
	if first < 1 || rows < 0 {
		return api.Sheet{}, usage("--first counts from 1 and --rows from 0")
	}
	first--
	p := &api.ReadViewParams{First: &first, Count: &rows, Plain: &plain}
	p.Column, p.Sort, p.Filter = r.params()
	return fetch[api.Sheet](c, func(a *api.Client) (*http.Response, error) { return a.ReadView(ctx, result, view, p) })
}

// showJSON prints the manifest and the sheets with cells for programs.
func (c *client) showJSON(ctx context.Context, result api.Result, views []api.PageView, first, rows int, r reading) error {
	shown := struct {
		Result api.Result  `json:"result"`
		Sheets []api.Sheet `json:"sheets"`
	}{Result: result}
	for _, v := range views {
		s, err := c.sheet(ctx, result.Id, v.Id, first, rows, true, r)
		if err != nil {
			return err
		}
		shown.Sheets = append(shown.Sheets, s)
	}
	return c.printJSON(shown)
}

func (c *client) showSheet(s api.Sheet) error {
	fmt.Fprintf(c.out, "\n%s\n", s.Title)
	if s.Rows == 0 {
		if s.Of == 0 {
			fmt.Fprintln(c.out, "No rows.")
		} else {
			fmt.Fprintf(c.out, "None of the %d rows meets the filters.\n", s.Of)
		}
		return nil
	}
	left, err := sheetTable(s).draw(c.out, widthOf(c.out))
	if err != nil {
		return err
	}
	c.tellRest(s, left)
	return nil
}

func sheetTable(s api.Sheet) *table {
	t := &table{}
	for _, col := range s.Columns {
		t.headings = append(t.headings, col.Heading)
		t.right = append(t.right, col.Right)
	}
	for _, cells := range s.Cells {
		row := make([]string, len(cells))
		for i, cell := range cells {
			if cell != nil {
				row[i] = *cell
			}
		}
		t.rows = append(t.rows, row)
	}
	totals, some := make([]string, len(s.Totals)), false
	for i, total := range s.Totals {
		if total.Text == nil {
			continue
		}
		totals[i], some = *total.Text, true
		if total.Op != "sum" && total.Op != "ratio" {
			totals[i] = total.Op + " " + totals[i]
		}
	}
	if some {
		t.totals = totals
	}
	return t
}

// tellRest says what of the sheet is not in the table.
func (c *client) tellRest(s api.Sheet, left []string) {
	var said []string
	if len(s.Cells) < s.Rows {
		said = append(said, fmt.Sprintf("rows %d to %d of %d; more with --first and --rows", s.First+1, s.First+len(s.Cells), s.Rows))
	}
	if s.Rows < s.Of {
		said = append(said, fmt.Sprintf("the filters leave out %d", s.Of-s.Rows))
	}
	if len(left) > 0 {
		said = append(said, fmt.Sprintf("too narrow for %s; choose with --columns", strings.Join(left, ", ")))
	}
	for _, line := range said {
		fmt.Fprintln(c.out, "·", line)
	}
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
	p.Column, p.Sort, p.Filter = r.params()
	answer, err := c.send(func(a *api.Client) (*http.Response, error) { return a.ExportView(ctx, result, view, p) })
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
