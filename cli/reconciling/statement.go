package reconciling

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strconv"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// StatementCommand makes the command statement: files that results are reconciled with.
func StatementCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "statement REPORT",
		Short: "The statements that are kept for a report; add, get and delete them",
		Example: `  mantilla statement payout-settlement
  mantilla statement add payout-settlement statements/2025-10.csv
  mantilla statement get S-1 --to -`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			s, err := talk.Fetch[api.Statements](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListStatements(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(s)
			}
			for _, d := range s.Declared {
				fmt.Fprintf(c.Say(), "%s declares the statement %s: %s\n", given[0], d.Id, d.Title)
			}
			if len(s.Declared) == 0 {
				fmt.Fprintf(c.Say(), "%s declares no statement.\n", given[0])
			}
			t := talk.Table{Headings: []string{"Id", "As", "From", "Until", "Lines", "Total", "File", "Brought", "Who"},
				Right: []bool{false, false, false, false, true, true, false, false, false}}
			for _, k := range s.Kept {
				t.Rows = append(t.Rows, []string{k.Id, k.As, k.First, k.Until, strconv.Itoa(k.Lines), k.Total, k.Name,
					c.At(k.ReadAt), k.ReadBy})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(c.addCommand(), c.get(), c.Removing("delete STATEMENT", "Delete a statement; results that were "+
		"reconciled with it have its lines", nil, func(cmd *cobra.Command, a *client.Client, id string) (*http.Response,
		error) {
		return a.DeleteStatement(cmd.Context(), id)
	}))
	return cmd
}

func (c *Program) addCommand() *cobra.Command {
	var as string
	cmd := &cobra.Command{
		Use:   "add REPORT FILE",
		Short: "Read a file, CSV, XLSX or camt.053, as a statement, and keep it",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			s, err := c.add(cmd.Context(), given[0], given[1], as)
			if err == nil && c.JSON() {
				err = c.PrintJSON(s)
			}
			return err
		},
	}
	cmd.Flags().StringVar(&as, "as", "", "which statement of the report it is, where it declares several")
	return cmd
}

// add has a file read as a statement of a report.
func (c *Program) add(ctx context.Context, report, file, as string) (s api.StatementFile, err error) {
	data, err := os.ReadFile(file)
	if err != nil {
		return s, talk.Usage("%v", err)
	}
	params := &api.AddStatementParams{Name: filepath.Base(file)}
	if as != "" {
		params.As = &as
	}
	s, err = talk.Fetch[api.StatementFile](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.AddStatementWithBody(ctx, report, params, "application/octet-stream", bytes.NewReader(data))
	})
	if err == nil && !c.JSON() {
		fmt.Fprintf(c.Say(), "%s is %s: %d lines from %s to %s, %s in all\n", file, s.Id, s.Lines, s.First, s.Until, s.Total)
	}
	return s, err
}

func (c *Program) get() *cobra.Command {
	var to string
	cmd := &cobra.Command{
		Use:   "get STATEMENT --to FILE",
		Short: "Fetch a statement as it was brought",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if to == "" {
				return talk.Usage("say where it goes: --to FILE, or --to - for standard output")
			}
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.FetchStatement(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			if to == "-" {
				_, err = io.Copy(c.Out, r.Body)
				return err
			}
			n, err := talk.WriteWhole(to, r.Body)
			if err == nil {
				fmt.Fprintf(c.Say(), "%s: %d bytes\n", to, n)
			}
			return err
		},
	}
	cmd.Flags().StringVar(&to, "to", "", "the file to write, - for standard output")
	return cmd
}
