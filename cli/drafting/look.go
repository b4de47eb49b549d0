package drafting

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// LookCommand makes the command source look: the tables of a source, or one of them with its first rows.
func LookCommand(c *Program) *cobra.Command {
	var search string
	rows := 0
	cmd := &cobra.Command{
		Use:   "look SOURCE [TABLE]",
		Short: "Look at the tables of a source, or at the columns and first rows of one",
		Args:  talk.Args(cobra.RangeArgs(1, 2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			params := &api.ListTablesParams{}
			if search != "" {
				params.Search = &search
			}
			tables, err := talk.Fetch[[]api.SourceTable](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListTables(cmd.Context(), given[0], params)
			})
			if err != nil {
				return err
			}
			if len(given) == 2 {
				return c.lookAt(cmd, given[0], given[1], tables, rows)
			}
			if c.JSON() {
				return c.PrintJSON(tables)
			}
			t := talk.Table{Headings: []string{"Table", "Rows", "Columns", "Read by"}, Right: []bool{false, true, false, false}}
			for _, table := range tables {
				var names []string
				for _, column := range table.Columns {
					names = append(names, column.Name)
				}
				t.Rows = append(t.Rows, []string{table.Name, rowsOf(table), strings.Join(names, ", "), usedBy(table)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&search, "search", "", "only tables with this in their name or a column's")
	cmd.Flags().IntVar(&rows, "rows", 5, "how many rows of the table to show")
	return cmd
}

func rowsOf(t api.SourceTable) string {
	switch {
	case t.View:
		return "view"
	case t.Rows == nil:
		return "?"
	}
	return strconv.FormatInt(*t.Rows, 10)
}

func usedBy(t api.SourceTable) string {
	switch n := len(t.UsedBy); n {
	case 0:
		return "no report"
	case 1:
		return t.UsedBy[0]
	default:
		return fmt.Sprintf("%d reports", n)
	}
}

func (c *Program) lookAt(cmd *cobra.Command, source, table string, tables []api.SourceTable, rows int) error {
	sample, err := talk.Fetch[api.SourceRows](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.SampleTable(cmd.Context(), source, table, &api.SampleTableParams{Limit: &rows})
	})
	if err != nil {
		return err
	}
	for _, t := range tables {
		if t.Name != table {
			continue
		}
		if c.JSON() {
			return c.PrintJSON(map[string]any{"table": t, "rows": sample})
		}
		if c.CSV() { // the first rows are what is taken away
			break
		}
		fmt.Fprintf(c.Out, "%s of %s, %s; read by %s\n\n", t.Name, source, counted(t),
			or(strings.Join(t.UsedBy, ", "), "no report"))
		columns := talk.Table{Headings: []string{"Column", "Type", "What is known of it"}}
		for _, column := range t.Columns {
			columns.Rows = append(columns.Rows, []string{column.Name, strings.ToLower(column.Type), known(column)})
		}
		if _, err := c.Draw(&columns); err != nil {
			return err
		}
	}
	if !c.CSV() {
		fmt.Fprintln(c.Out)
	}
	first := talk.Table{Headings: sample.Columns}
	for _, row := range sample.Rows {
		cells := make([]string, len(row))
		for i, cell := range row {
			cells[i] = talk.Deref(cell)
		}
		first.Rows = append(first.Rows, cells)
	}
	_, err = c.Draw(&first)
	return err
}

func counted(t api.SourceTable) string {
	if t.View || t.Rows == nil {
		return or(map[bool]string{true: "a view"}[t.View], "rows not counted")
	}
	return fmt.Sprintf("%d rows", *t.Rows)
}

func or(text, otherwise string) string {
	if text == "" {
		return otherwise
	}
	return text
}

func known(column api.SourceColumn) string {
	var said []string
	if column.Key {
		said = append(said, "key")
	} else if column.Required {
		said = append(said, "never empty")
	}
	if column.References != nil {
		said = append(said, "key of "+*column.References)
	}
	if column.List != nil {
		said = append(said, "codes of the list "+*column.List)
	}
	if n := len(talk.Deref(column.ReadBy)); n > 0 {
		said = append(said, fmt.Sprintf("read by %d of the reports", n))
	}
	return strings.Join(said, ", ")
}
