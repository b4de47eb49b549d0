package reading

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Looking makes a command that looks at a view of a result, as it was changed: RESULT and n-1 further words.
func (c *Program) Looking(use, short, example string, n int,
	run func(cmd *cobra.Command, result, view string, r Reading, given []string) error) *cobra.Command {
	var view string
	var r Reading
	cmd := &cobra.Command{Use: use, Short: short, Example: example, Args: talk.Args(cobra.ExactArgs(n)),
		ValidArgsFunction: c.CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			v := view
			if v == "" {
				v = "*"
			}
			return run(cmd, given[0], v, r, given[1:])
		}}
	cmd.Flags().StringVar(&view, "view", "", "view of the result; otherwise the first of its page")
	talk.Must(cmd.RegisterFlagCompletionFunc("view", c.completeView))
	r.Flags(cmd)
	c.completeReading(cmd)
	return cmd
}

// FigureCommand makes the command figure.
func FigureCommand(c *Program) *cobra.Command {
	var of, across, by, note string
	var rows int
	cmd := c.Looking("figure RESULT PATH", "Open a figure into the rows that made it, or by another column",
		`  mantilla figure R-000001 Hollin --group district --of net_kg
  mantilla figure R-000001 North/Hollin --of value --by 'month(received)'
  mantilla figure R-000001 '' --of value
  mantilla figure R-000001 '' --view by_flower --filter origin=Lime --of net_kg`, 2,
		func(cmd *cobra.Command, result, view string, r Reading, given []string) error {
			p := &api.OpenFigureParams{Path: &given[0], AcrossPath: &across, Of: &of}
			o, err := talk.Fetch[api.OpenedFigure](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.OpenFigure(cmd.Context(), result, view, p, r.query)
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(o)
			}
			verdict := "they agree"
			if !o.Agree {
				verdict = "they DO NOT AGREE"
			}
			fmt.Fprintf(c.Say(), "%s: %s\n", o.Says, o.Before)
			if o.Alone {
				fmt.Fprintf(c.Say(), "%d rows are behind it; they do not add up to it\n", o.Rows)
			} else {
				fmt.Fprintf(c.Say(), "%d rows come to %s: %s\n", o.Rows, o.After, verdict)
			}
			for _, f := range o.Filters {
				fmt.Fprintf(c.Say(), "  --filter '%s'\n", strings.ReplaceAll(f, "'", `'\''`))
			}
			if note != "" {
				if err := c.writeOn(cmd, result, o, note); err != nil {
					return err
				}
			}
			if len(o.By) > 0 && by == "" {
				var names []string
				for _, b := range o.By {
					names = append(names, b.Text)
				}
				fmt.Fprintf(c.Say(), "· also --by %s\n", strings.Join(names, ", "))
			}
			opened := Reading{}
			opened.Flags(&cobra.Command{})
			*opened.lists["filter"] = o.Filters
			*opened.lists["add"] = o.Add
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
	cmd.Flags().StringVar(&note, "note", "", "write this note on the rows behind the figure")
	cmd.Flags().StringVar(&across, "across-path", "", "path of the crosstab column")
	cmd.Flags().StringVar(&by, "by", "", "group the rows by this column")
	talk.LimitFlag(cmd, &rows, 20, "how many lines to show")
	return cmd
}

// writeOn writes a note on the rows behind a figure.
func (c *Program) writeOn(cmd *cobra.Command, result string, o api.OpenedFigure, words string) error {
	n, err := talk.Fetch[api.Note](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.WriteNote(cmd.Context(), result, api.NoteText{Says: words,
			About: &api.NoteAbout{View: o.View, Filters: &o.Filters, Says: &o.Says}})
	})
	if err != nil {
		return err
	}
	fmt.Fprintf(c.Err, "· note %d is written on %s\n", n.Number, o.Says)
	return nil
}

// ValuesCommand makes the command values.
func ValuesCommand(c *Program) *cobra.Command {
	var search string
	var most int
	cmd := c.Looking("values RESULT COLUMN", "What a column holds, with counts of rows",
		"  mantilla values R-000001 district\n  mantilla values R-000001 'month(received)' --filter district=Hollin", 2,
		func(cmd *cobra.Command, result, view string, r Reading, given []string) error {
			p := &api.ListColumnValuesParams{Of: given[0], Search: &search, Limit: &most}
			v, err := talk.Fetch[api.ColumnValues](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListColumnValues(cmd.Context(), result, view, p, r.query)
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(v)
			}
			t := talk.Table{Headings: []string{"Value", "Rows"}, Right: []bool{false, true}}
			for _, item := range v.Items {
				t.Rows = append(t.Rows, []string{item.Text, fmt.Sprint(item.Rows)})
			}
			if v.Empty > 0 {
				t.Rows = append(t.Rows, []string{"(none)", fmt.Sprint(v.Empty)})
			}
			if _, err := c.Draw(&t); err != nil {
				return err
			}
			if len(v.Items) < v.Of {
				fmt.Fprintf(c.Say(), "· %d of %d values; more with --limit, or search with --search\n", len(v.Items), v.Of)
			}
			if v.Bands != nil {
				fmt.Fprintf(c.Say(), "· in bands: --group '%s'\n", *v.Bands)
			}
			return nil
		})
	cmd.Flags().StringVar(&search, "search", "", "only values that hold this")
	talk.LimitFlag(cmd, &most, 50, "how many values to show")
	return cmd
}

// foundLine is a line that holds a text, as one of so many.
type foundLine struct {
	Line  int      `json:"line"`
	Of    int      `json:"of"`
	Cells []string `json:"cells"`
}

// FindCommand makes the command find.
func FindCommand(c *Program) *cobra.Command {
	var rows int
	cmd := c.Looking("find RESULT TEXT", "Find a text in a result as it is shown", "  mantilla find R-000001 brell", 2,
		func(cmd *cobra.Command, result, view string, r Reading, given []string) error {
			from, shown := 0, 0
			found := []foundLine{}
			for {
				p := &api.FindTextParams{Text: given[0], From: &from}
				f, err := talk.Fetch[api.Found](c.Program, func(a *client.Client) (*http.Response, error) {
					return a.FindText(cmd.Context(), result, view, p, r.query)
				})
				if err != nil {
					return err
				}
				if f.Of == 0 && c.JSON() {
					return c.PrintJSON(found)
				}
				if f.Of == 0 {
					return &talk.Coded{Code: talk.ExitInput, Text: fmt.Sprintf("%q is not in the view", given[0])}
				}
				s, err := c.sheet(cmd.Context(), result, view, f.Line+1, 1, false, r)
				if err != nil {
					return err
				}
				row := sheetTable(s).Rows[0]
				found = append(found, foundLine{Line: f.Line + 1, Of: f.Of, Cells: row})
				if !c.JSON() {
					fmt.Fprintf(c.Out, "line %d: %s\n", f.Line+1, talk.Clean(strings.Join(row, "  ")))
				}
				if shown++; f.At == f.Of || shown == rows {
					if c.JSON() {
						return c.PrintJSON(found)
					}
					fmt.Fprintf(c.Say(), "· %d of %d lines\n", shown, f.Of)
					return nil
				}
				from = f.Line + 1
			}
		})
	talk.LimitFlag(cmd, &rows, 10, "how many lines to show")
	return cmd
}

// CompletenessCommand makes the command functions: the functions of formulas, each with an example.
func CompletenessCommand(c *Program) *cobra.Command {
	return c.Looking("completeness RESULT", "How many rows have no value, by column",
		"  mantilla completeness R-000001", 1,
		func(cmd *cobra.Command, result, view string, r Reading, _ []string) error {
			all, err := talk.Fetch[[]api.Filled](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ReadCompleteness(cmd.Context(), result, view, &api.ReadCompletenessParams{}, r.query)
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Column", "Empty", "Of", "Filled"}, Right: []bool{false, true, true, true}}
			for _, f := range all {
				filled := "–"
				if f.Rows > 0 {
					filled = fmt.Sprintf("%.1f %%", 100*float64(f.Rows-f.Empty)/float64(f.Rows))
				}
				t.Rows = append(t.Rows, []string{f.Heading, fmt.Sprint(f.Empty), fmt.Sprint(f.Rows), filled})
			}
			_, err = c.Draw(&t)
			return err
		})
}

// FunctionsCommand makes the command functions: the functions of formulas, each with an example.
func FunctionsCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use: "functions [WORD]", Short: "The functions of formulas, each with an example",
		Args: talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			all, err := talk.Fetch[[]api.Function](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListFunctions(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Function", "What it gives", "Example"}}
			for _, f := range all {
				if len(given) == 0 || strings.Contains(f.Name+f.Says, given[0]) {
					t.Rows = append(t.Rows, []string{f.Usage, f.Says, f.Example})
				}
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}
