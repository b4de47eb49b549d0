// Package entering has the commands about what people type in beside the rows of results.
package entering

import (
	"bytes"
	"fmt"
	"net/http"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command entries: what people typed in beside the rows of a result.
func Command(c *Program) *cobra.Command {
	var dataset, says, key, file string
	cmd := &cobra.Command{
		Use:   "entries RESULT [COLUMN=VALUE...]",
		Short: "What people typed in beside the rows of a result; type in, undo, look back",
		Long: `List what people typed in beside the rows of a result, or type in yourself: into the
row that --key names, or from a CSV file whose headings are the columns of the
key and columns that people fill in. COLUMN= takes away what stands there.

Entries belong to the key of a row, and stay when the report is run again.

` + talk.ExitHelp,
		Example: `  mantilla entries R-12
  mantilla entries R-12 --key J-03,labour method="percent done" figure=60 --says "walked the site"
  mantilla entries R-12 --file estimates.csv --says "meeting of the 14th"
  mantilla entries undo R-12
  mantilla entries cell R-12 figure 4
  mantilla show R-12 --entries 2026-09-30`,
		Args: talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			switch {
			case file != "":
				return c.putFile(cmd, given[0], dataset, says, file)
			case len(given) > 1:
				return c.put(cmd, given[0], dataset, says, key, given[1:])
			}
			return c.list(cmd, given[0], dataset)
		},
	}
	cmd.PersistentFlags().StringVar(&dataset, "of", "", "dataset; otherwise the first that people fill in")
	cmd.Flags().StringVar(&key, "key", "", "the key of the row, its parts with commas between")
	cmd.Flags().StringVar(&says, "says", "", "why, in your words; kept beside the entry")
	cmd.Flags().StringVar(&file, "file", "", "a CSV file to type in")
	cmd.AddCommand(c.undo(&dataset), c.cell(&dataset))
	return cmd
}

func (c *Program) list(cmd *cobra.Command, result, dataset string) error {
	s, err := talk.Fetch[api.Entries](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.ListEntries(cmd.Context(), result, &api.ListEntriesParams{Dataset: &dataset})
	})
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(s)
	}
	for _, col := range s.Columns {
		about := col.Type
		if len(col.Options) > 0 {
			about = strings.Join(col.Options, " | ")
		}
		if col.Closed != nil {
			about += "; closed: " + *col.Closed
		}
		fmt.Fprintf(c.Say(), "%s, %s: %s\n", col.Id, col.Label, about)
	}
	return c.draw(s.Entries, s.Key)
}

// draw prints entries as a table.
func (c *Program) draw(list []api.EntryOf, key []string) error {
	t := talk.Table{Headings: []string{"Entry", "Row", strings.Join(key, ", "), "Column", "Value", "Who", "When", "Why"},
		Right: []bool{true, true, false, false, false, false, false, false}}
	for _, e := range list {
		if e.Value == "" && len(key) > 1 {
			continue // it was taken away
		}
		row := "none"
		if e.Row != nil {
			row = strconv.Itoa(*e.Row)
		}
		t.Rows = append(t.Rows, []string{strconv.FormatInt(e.Number, 10), row, strings.Join(e.Key, ", "), e.Column, e.Value,
			e.Person, c.At(e.At), talk.Deref(e.Says)})
	}
	_, err := c.Draw(&t)
	return err
}

// told says what was kept.
func (c *Program) told(kept []api.EntryOf) error {
	if c.JSON() {
		return c.PrintJSON(kept)
	}
	if len(kept) == 0 {
		fmt.Fprintln(c.Say(), "Nothing changed: this stands there already.")
		return nil
	}
	for _, e := range kept {
		value := e.Value
		if value == "" {
			value = "taken away"
		}
		fmt.Fprintf(c.Say(), "%s, %s: %s\n", strings.Join(e.Key, ", "), e.Column, value)
	}
	return nil
}

func (c *Program) put(cmd *cobra.Command, result, dataset, says, key string, pairs []string) error {
	if key == "" {
		return talk.Usage("say into which row: --key, with the parts of its key")
	}
	parts := strings.Split(key, ",")
	for i := range parts {
		parts[i] = strings.TrimSpace(parts[i])
	}
	body := api.EntryChange{Says: &says, Cells: []api.EntryCell{}}
	for _, pair := range pairs {
		column, value, found := strings.Cut(pair, "=")
		if !found {
			return talk.Usage("%q is no COLUMN=VALUE", pair)
		}
		body.Cells = append(body.Cells, api.EntryCell{Column: column, Key: &parts, Value: value})
	}
	kept, err := talk.Fetch[[]api.EntryOf](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.PutEntries(cmd.Context(), result, &api.PutEntriesParams{Dataset: &dataset}, body)
	})
	if err != nil {
		return err
	}
	return c.told(kept)
}

func (c *Program) putFile(cmd *cobra.Command, result, dataset, says, file string) error {
	data, err := os.ReadFile(file)
	if err != nil {
		return talk.Usage("%v", err)
	}
	kept, err := talk.Fetch[[]api.EntryOf](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.PutEntriesFileWithBody(cmd.Context(), result,
			&api.PutEntriesFileParams{Dataset: &dataset, Says: &says}, "application/octet-stream", bytes.NewReader(data))
	})
	if err != nil {
		return err
	}
	return c.told(kept)
}

func (c *Program) undo(dataset *string) *cobra.Command {
	return &cobra.Command{
		Use:   "undo RESULT",
		Short: "Bring back what stood in the cells that you changed last",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			kept, err := talk.Fetch[[]api.EntryOf](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.UndoEntries(cmd.Context(), given[0], &api.UndoEntriesParams{Dataset: dataset})
			})
			if err != nil {
				return err
			}
			return c.told(kept)
		},
	}
}

func (c *Program) cell(dataset *string) *cobra.Command {
	return &cobra.Command{
		Use:     "cell RESULT COLUMN ROW",
		Short:   "Everything that was ever typed into a cell, the newest first",
		Example: "  mantilla entries cell R-12 figure 4",
		Args:    talk.Args(cobra.ExactArgs(3)),
		RunE: func(cmd *cobra.Command, given []string) error {
			row, err := strconv.Atoi(given[2])
			if err != nil || row < 0 {
				return talk.Usage("%q is no number of a row", given[2])
			}
			list, err := talk.Fetch[[]api.EntryOf](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListCellEntries(cmd.Context(), given[0],
					&api.ListCellEntriesParams{Dataset: dataset, Column: given[1], Row: row})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			for i := range list {
				list[i].Row = &row
			}
			return c.draw(list, []string{"Key"})
		},
	}
}
