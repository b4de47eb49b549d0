package cli

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

// looking is a command about one view of a result with the options of show.
func (c *program) looking(use, short, example string, n int,
	run func(cmd *cobra.Command, result, view string, r reading, given []string) error) *cobra.Command {
	var view string
	var r reading
	cmd := &cobra.Command{Use: use, Short: short, Example: example, Args: args(cobra.ExactArgs(n)),
		ValidArgsFunction: c.completeResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			v := view
			if v == "" {
				v = "*"
			}
			return run(cmd, given[0], v, r, given[1:])
		}}
	cmd.Flags().StringVar(&view, "view", "", "view of the result; otherwise the first of its page")
	must(cmd.RegisterFlagCompletionFunc("view", c.completeView))
	r.flags(cmd)
	c.completeReading(cmd)
	return cmd
}

func figureCommand(c *program) *cobra.Command {
	var of, across, by string
	var rows int
	cmd := c.looking("figure RESULT PATH", "Open a figure into the rows that made it, or by another column",
		`  mantilla figure R-000001 Hollin --group district --of net_kg
  mantilla figure R-000001 North/Hollin --of value --by 'month(received)'
  mantilla figure R-000001 '' --of value`, 2,
		func(cmd *cobra.Command, result, view string, r reading, given []string) error {
			p := &api.OpenFigureParams{Path: &given[0], AcrossPath: &across, Of: &of}
			o, err := fetch[api.OpenedFigure](c, func(a *client.Client) (*http.Response, error) {
				return a.OpenFigure(cmd.Context(), result, view, p, r.query)
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(o)
			}
			verdict := "they agree"
			if !o.Agree {
				verdict = "they DO NOT AGREE"
			}
			fmt.Fprintf(c.say(), "%s: %s\n%d rows come to %s: %s\n", o.Says, o.Before, o.Rows, o.After, verdict)
			for _, f := range o.Filters {
				fmt.Fprintf(c.say(), "  --filter '%s'\n", strings.ReplaceAll(f, "'", `'\''`))
			}
			if len(o.By) > 0 && by == "" {
				var names []string
				for _, b := range o.By {
					names = append(names, b.Text)
				}
				fmt.Fprintf(c.say(), "· also --by %s\n", strings.Join(names, ", "))
			}
			opened := reading{}
			opened.flags(&cobra.Command{})
			*opened.lists["filter"] = append(*r.lists["filter"], o.Filters...)
			*opened.lists["add"] = *r.lists["add"]
			if by != "" {
				*opened.lists["group"] = []string{by}
			}
			s, err := c.sheet(cmd.Context(), result, o.View, 1, rows, false, opened)
			if err != nil {
				return err
			}
			return c.showSheet(s)
		})
	cmd.Flags().StringVar(&of, "of", "", "column whose figure it is; without one the rows are meant")
	cmd.Flags().StringVar(&across, "across-path", "", "path of the crosstab column")
	cmd.Flags().StringVar(&by, "by", "", "group the rows by this column")
	limitFlag(cmd, &rows, 20, "how many lines to show")
	return cmd
}

func valuesCommand(c *program) *cobra.Command {
	var search string
	var most int
	cmd := c.looking("values RESULT COLUMN", "What a column holds, with counts of rows",
		"  mantilla values R-000001 district\n  mantilla values R-000001 'month(received)' --filter district=Hollin", 2,
		func(cmd *cobra.Command, result, view string, r reading, given []string) error {
			p := &api.ListColumnValuesParams{Of: given[0], Search: &search, Limit: &most}
			v, err := fetch[api.ColumnValues](c, func(a *client.Client) (*http.Response, error) {
				return a.ListColumnValues(cmd.Context(), result, view, p, r.query)
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(v)
			}
			t := table{headings: []string{"Value", "Rows"}, right: []bool{false, true}}
			for _, item := range v.Items {
				t.rows = append(t.rows, []string{item.Text, fmt.Sprint(item.Rows)})
			}
			if v.Empty > 0 {
				t.rows = append(t.rows, []string{"(none)", fmt.Sprint(v.Empty)})
			}
			if _, err := c.draw(&t); err != nil {
				return err
			}
			if len(v.Items) < v.Of {
				fmt.Fprintf(c.say(), "· %d of %d values; more with --limit, or search with --search\n", len(v.Items), v.Of)
			}
			return nil
		})
	cmd.Flags().StringVar(&search, "search", "", "only values that hold this")
	limitFlag(cmd, &most, 50, "how many values to show")
	return cmd
}

// foundLine is a line that holds a text, as one of so many.
type foundLine struct {
	Line  int      `json:"line"`
	Of    int      `json:"of"`
	Cells []string `json:"cells"`
}

func findCommand(c *program) *cobra.Command {
	var rows int
	cmd := c.looking("find RESULT TEXT", "Find a text in a result as it is shown", "  mantilla find R-000001 brell", 2,
		func(cmd *cobra.Command, result, view string, r reading, given []string) error {
			from, shown := 0, 0
			found := []foundLine{}
			for {
				p := &api.FindTextParams{Text: given[0], From: &from}
				f, err := fetch[api.Found](c, func(a *client.Client) (*http.Response, error) {
					return a.FindText(cmd.Context(), result, view, p, r.query)
				})
				if err != nil {
					return err
				}
				if f.Of == 0 && c.json() {
					return c.printJSON(found)
				}
				if f.Of == 0 {
					return &coded{exitInput, fmt.Sprintf("%q is not in the view", given[0])}
				}
				s, err := c.sheet(cmd.Context(), result, view, f.Line+1, 1, false, r)
				if err != nil {
					return err
				}
				row := sheetTable(s).rows[0]
				found = append(found, foundLine{Line: f.Line + 1, Of: f.Of, Cells: row})
				if !c.json() {
					fmt.Fprintf(c.out, "line %d: %s\n", f.Line+1, clean(strings.Join(row, "  ")))
				}
				if shown++; f.At == f.Of || shown == rows {
					if c.json() {
						return c.printJSON(found)
					}
					fmt.Fprintf(c.say(), "· %d of %d lines\n", shown, f.Of)
					return nil
				}
				from = f.Line + 1
			}
		})
	limitFlag(cmd, &rows, 10, "how many lines to show")
	return cmd
}

func completenessCommand(c *program) *cobra.Command {
	return c.looking("completeness RESULT", "How many rows have no value, by column",
		"  mantilla completeness R-000001", 1,
		func(cmd *cobra.Command, result, view string, r reading, _ []string) error {
			all, err := fetch[[]api.Filled](c, func(a *client.Client) (*http.Response, error) {
				return a.ReadCompleteness(cmd.Context(), result, view, &api.ReadCompletenessParams{}, r.query)
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(all)
			}
			t := table{headings: []string{"Column", "Empty", "Of", "Filled"}, right: []bool{false, true, true, true}}
			for _, f := range all {
				filled := "–"
				if f.Rows > 0 {
					filled = fmt.Sprintf("%.1f %%", 100*float64(f.Rows-f.Empty)/float64(f.Rows))
				}
				t.rows = append(t.rows, []string{f.Heading, fmt.Sprint(f.Empty), fmt.Sprint(f.Rows), filled})
			}
			_, err = c.draw(&t)
			return err
		})
}

func functionsCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use: "functions [WORD]", Short: "The functions of formulas, each with an example", Args: args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			all, err := fetch[[]api.Function](c,
				func(a *client.Client) (*http.Response, error) { return a.ListFunctions(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(all)
			}
			t := table{headings: []string{"Function", "What it gives", "Example"}}
			for _, f := range all {
				if len(given) == 0 || strings.Contains(f.Name+f.Says, given[0]) {
					t.rows = append(t.rows, []string{f.Usage, f.Says, f.Example})
				}
			}
			_, err = c.draw(&t)
			return err
		},
	}
}
