package reading

import (
	"context"
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// ShowCommand makes the command show: show a result as tables, crosstabs and charts that fit the terminal.
func ShowCommand(c *Program) *cobra.Command {
	var view string
	var first, rows int
	var r Reading
	cmd := &cobra.Command{
		Use:   "show RESULT",
		Short: "Show a result as tables, crosstabs and charts that fit the terminal",
		Example: `  mantilla show R-000001
  mantilla show R-000001 --view lots --sort=-value --filter 'district=Hollin' --limit 50
  mantilla show R-000001 --group 'district, month(received)' --columns net_kg,value --open 1
  mantilla show R-000001 --show crosstab --down district --across 'month(received)' --cells net_kg
  mantilla show R-000001 --add 'Per lot = sum(net_kg) / count(*)' --group grade`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			result, err := c.result(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			views := result.Page
			if view != "" {
				views = []api.PageView{{Id: view}}
			} else if len(r.Values()) > 0 && len(views) > 1 {
				views = views[:1] // changes are about one view
			}
			sheets, err := c.sheets(cmd.Context(), result.Id, views, first, rows, r)
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(struct {
					Result api.Result  `json:"result"`
					Sheets []api.Sheet `json:"sheets"`
				}{result, sheets})
			}
			fmt.Fprintf(c.Say(), "%s  %s\n%s\n", result.Id, result.Title, result.Sentence)
			for _, note := range result.Notes {
				fmt.Fprintln(c.Say(), "! "+note)
			}
			for _, s := range sheets {
				if err := c.showSheet(s); err != nil {
					return err
				}
			}
			return nil
		},
	}
	cmd.Flags().StringVar(&view, "view", "", "view to show: one of the report, a kept one (V-12), or DATASET.rows; "+
		"otherwise the result's page")
	cmd.Flags().IntVar(&first, "first", 1, "first line to show")
	talk.LimitFlag(cmd, &rows, 20, "how many lines of each view, 5000 at most")
	talk.Must(cmd.RegisterFlagCompletionFunc("view", c.completeView))
	r.Flags(cmd)
	c.completeReading(cmd)
	return cmd
}

func (c *Program) result(ctx context.Context, id string) (api.Result, error) {
	return talk.Fetch[api.Result](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetResult(ctx, id) })
}

func (c *Program) sheet(ctx context.Context, result, view string, first, rows int, plain bool, r Reading) (api.Sheet,
	error) {
	if first < 1 || rows < 0 {
		return api.Sheet{}, talk.Usage("--first counts from 1 and --limit from 0")
	}
	first--
	p := &api.ReadViewParams{First: &first, Count: &rows, Plain: &plain}
	return talk.Fetch[api.Sheet](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ReadView(ctx, result, view, p, r.query) })
}

// sheets are those of views, for people or with cells for programs. All are there before any is
// written, so that a fault in what was asked stands alone.
func (c *Program) sheets(ctx context.Context, result string, views []api.PageView, first, rows int,
	r Reading) (all []api.Sheet, err error) {
	for _, v := range views {
		s, err := c.sheet(ctx, result, v.Id, first, rows, c.JSON(), r)
		if err != nil {
			return nil, err
		}
		all = append(all, s)
	}
	return all, nil
}

func (c *Program) showSheet(s api.Sheet) error {
	left, err := c.DrawSheet(s)
	if err == nil && (s.Rows > 0 || len(s.Blanks) > 0) && s.Chart == nil && s.Timeline == nil &&
		s.Show != api.SheetShowForm {
		c.tellRest(s, left)
	}
	return err
}

// DrawSheet draws a sheet as it is laid out, with what was done to it. It returns the headings of
// columns for which the terminal is too narrow.
func (c *Program) DrawSheet(s api.Sheet) (left []string, err error) {
	fmt.Fprintf(c.Say(), "\n%s\n", s.Title)
	for _, text := range []string{s.Says, s.Told} {
		if text != "" {
			fmt.Fprintln(c.Say(), text)
		}
	}
	for _, d := range s.Dropped {
		fmt.Fprintf(c.Say(), "! %s is left out: the result has no such column\n", d)
	}
	if s.Rows == 0 && len(s.Blanks) == 0 {
		if s.Of == 0 {
			fmt.Fprintln(c.Say(), "No rows.")
		} else {
			fmt.Fprintf(c.Say(), "None of the %d rows meets the filters.\n", s.Of)
		}
		return nil, nil
	}
	switch {
	case s.Chart != nil:
		return nil, drawChart(c.Out, s.Chart, talk.WidthOf(c.Out))
	case s.Timeline != nil:
		return nil, drawTimeline(c.Out, s, talk.WidthOf(c.Out))
	case s.Show == api.SheetShowForm:
		return nil, drawForm(c.Out, s)
	}
	return c.Draw(sheetTable(s))
}

func sheetTable(s api.Sheet) *talk.Table {
	t := &talk.Table{}
	grouped := len(s.Levels) > 0 || s.Show == api.SheetShowCrosstab
	if grouped {
		var labels []string
		for _, l := range s.Levels {
			labels = append(labels, l.Label)
		}
		t.Headings, t.Right = append(t.Headings, strings.Join(labels, ", ")), append(t.Right, false)
	}
	for _, col := range s.Columns {
		t.Headings, t.Right = append(t.Headings, headingOf(s, col)), append(t.Right, col.Right)
	}
	for _, blank := range s.Blanks {
		t.Headings, t.Right = append(t.Headings, blank), append(t.Right, false)
	}
	for i, cells := range s.Cells {
		row := []string{}
		if grouped {
			row = append(row, nameOf(s, s.Marks[i]))
		}
		for _, cell := range cells {
			text := ""
			if cell != nil {
				text = *cell
			}
			row = append(row, text)
		}
		for range s.Blanks {
			row = append(row, "____________")
		}
		t.Rows = append(t.Rows, row)
	}
	t.Totals = totalsOf(s, grouped)
	return t
}

// headingOf is a column's heading in one line: in a crosstab with the groups
// that it is of.
func headingOf(s api.Sheet, col api.Column) string {
	if s.Show != api.SheetShowCrosstab {
		return col.Heading
	}
	parts := col.Heads
	if len(parts) == 0 && len(s.Across) > 0 {
		parts = []string{"Total"}
	}
	if len(s.Measures) > 1 && (s.Stacked == nil || !*s.Stacked) || len(parts) == 0 {
		parts = append(parts, col.Heading)
	}
	return strings.Join(parts, " ")
}

// nameOf is what stands before the cells of a group.
func nameOf(s api.Sheet, m api.LineMark) string {
	if m.Name == nil {
		return strings.Repeat("  ", len(s.Levels)) + "·"
	}
	name := strings.Repeat("  ", max(*m.Level-1, 0)) + *m.Name
	if m.Measure != nil {
		name += " · " + headingOfID(s, s.Measures[*m.Measure])
	}
	if m.Kind == api.LineMarkKindRest || s.Show == api.SheetShowTable {
		name += fmt.Sprintf(" (%d)", *m.Size)
	}
	return name
}

func headingOfID(s api.Sheet, id string) string {
	for _, c := range s.Available {
		if c.Id == id {
			return c.Heading
		}
	}
	return id
}

func totalsOf(s api.Sheet, grouped bool) []string {
	totals, some := make([]string, len(s.Totals)+len(s.Blanks)), false
	for i, total := range s.Totals {
		if total.Text == nil {
			continue
		}
		totals[i], some = *total.Text, true
		if s.Show != api.SheetShowCrosstab && total.Op != "sum" && total.Op != "ratio" {
			totals[i] = total.Op + " " + totals[i]
		}
	}
	if !some {
		return nil
	}
	if grouped {
		totals = append([]string{"Total"}, totals...)
	}
	return totals
}

// tellRest says what of the sheet is not in the table.
func (c *Program) tellRest(s api.Sheet, left []string) {
	var said []string
	if what := "rows"; len(s.Cells) < s.Lines {
		if len(s.Levels) > 0 {
			what = "lines"
		}
		said = append(said,
			fmt.Sprintf("%s %d to %d of %d; more with --first and --limit", what, s.First+1, s.First+len(s.Cells), s.Lines))
	}
	if len(s.Columns) < s.ColumnsOf {
		said = append(said, fmt.Sprintf("the first %d of %d columns", len(s.Columns), s.ColumnsOf))
	}
	if s.Rows < s.Of {
		said = append(said, fmt.Sprintf("the filters leave out %d", s.Of-s.Rows))
	}
	if len(left) > 0 {
		said = append(said, fmt.Sprintf("too narrow for %s; choose with --columns", strings.Join(left, ", ")))
	}
	for _, line := range said {
		fmt.Fprintln(c.Out, "·", line)
	}
}

// OneRow finds the only row that a reading of a view leaves: the view of all rows of its
// dataset, and the row's number there.
func (c *Program) OneRow(ctx context.Context, result, view string, r Reading) (in string, row int, err error) {
	s, err := c.sheet(ctx, result, view, 1, 0, true, r)
	if err != nil {
		return "", 0, err
	}
	if s, err = c.sheet(ctx, result, s.Dataset+".rows", 1, 1, true, r); err != nil {
		return "", 0, err
	}
	if s.Rows != 1 || len(s.Marks) == 0 || s.Marks[0].Row == nil {
		return "", 0, talk.Usage("%d rows of %s meet the filters; name one with --filter COLUMN=VALUE", s.Rows, s.Title)
	}
	return s.Dataset + ".rows", *s.Marks[0].Row, nil
}
