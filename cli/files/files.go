// Package files has the commands of the files that people bring for tables of sources.
package files

import (
	"bytes"
	"cmp"
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

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command file: bring files for tables of sources, and look after them.
func Command(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "file SOURCE",
		Short: "List the files of a source; bring one, use an earlier one again, or look what a file holds",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			tables, err := talk.Fetch[[]api.FileTable](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListFiles(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(tables)
			}
			t := talk.Table{Headings: []string{"Table", "File", "", "Rows", "Left out", "Brought", "By", "Name"},
				Right: []bool{1: true, 3: true, 4: true, 7: false}}
			for _, table := range tables {
				if len(table.Versions) == 0 {
					t.Rows = append(t.Rows, []string{table.Table, "", "", "0", "", "", "", "no file yet"})
				}
				for _, v := range table.Versions {
					use := ""
					if v.InUse {
						use = "in use"
					}
					t.Rows = append(t.Rows, []string{table.Table, fmt.Sprint(v.Number), use, fmt.Sprint(v.Rows),
						fmt.Sprint(v.LeftOut), c.At(v.At), cmp.Or(v.Person, "itself"), v.Name})
				}
			}
			if _, err := c.Draw(&t); err != nil {
				return err
			}
			for _, table := range tables {
				c.from(table)
			}
			return nil
		},
	}
	cmd.AddCommand(c.put(), c.use(), c.get(), c.look(), c.fetch())
	return cmd
}

// from says where the files of a table come from by themselves, and what became of the last look.
func (c *Program) from(table api.FileTable) {
	if table.From == nil {
		return
	}
	fmt.Fprintf(c.Out, "%s comes from %s", table.Table, *table.From)
	if l := table.Looked; l != nil {
		fmt.Fprintf(c.Out, "; looked at %s", c.At(l.At))
		if l.Fault != nil {
			fmt.Fprintf(c.Out, ": %s", *l.Fault)
		}
	}
	fmt.Fprintln(c.Out)
}

func (c *Program) fetch() *cobra.Command {
	return &cobra.Command{
		Use:   "fetch SOURCE TABLE",
		Short: "Look now for the file that comes by itself for a table",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			l, err := talk.Fetch[api.FileLook](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.LookForFile(cmd.Context(), given[0], given[1])
			})
			switch {
			case err != nil:
				return err
			case c.JSON():
				return c.PrintJSON(l)
			case l.Fault != nil:
				return &talk.Coded{Code: talk.ExitInput, Text: *l.Fault}
			}
			fmt.Fprintf(c.Out, "%s has the newest file; mantilla file %s lists them.\n", given[1], given[0])
			return nil
		},
	}
}

const octets = "application/octet-stream"

func (c *Program) put() *cobra.Command {
	return &cobra.Command{
		Use:     "put SOURCE TABLE FILE",
		Short:   "Bring a file for a table of a source",
		Example: "  mantilla file put budgets budget budget-2027.xlsx",
		Args:    talk.Args(cobra.ExactArgs(3)),
		RunE: func(cmd *cobra.Command, given []string) error {
			data, err := os.ReadFile(given[2])
			if err != nil {
				return talk.Usage("%v", err)
			}
			taken, err := talk.Fetch[api.TakenFile](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.TakeFileWithBody(cmd.Context(), given[0], given[1],
					&api.TakeFileParams{Name: filepath.Base(given[2])}, octets, bytes.NewReader(data))
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(taken)
			}
			return c.tell(given[1], taken)
		},
	}
}

// tell says how a file was read.
func (c *Program) tell(table string, taken api.TakenFile) error {
	for _, f := range taken.Faults {
		fmt.Fprintf(c.Err, "  %s, %s: %s\n", f.Place, f.Column, f.Says)
	}
	if taken.More > 0 {
		fmt.Fprintf(c.Err, "  and %d more like these\n", taken.More)
	}
	if taken.Refused {
		return &talk.Coded{Code: talk.ExitInput, Text: fmt.Sprintf("lines that do not fit: %d, and nothing was taken; mend "+
			"them, or let the declaration of %s say faults: skip", taken.LeftOut, table)}
	}
	fmt.Fprintf(c.Out, "Rows in %s: %d", table, taken.Rows)
	if taken.LeftOut > 0 {
		fmt.Fprintf(c.Out, "; left out for what does not fit: %d lines", taken.LeftOut)
	}
	fmt.Fprintln(c.Out, ".")
	return nil
}

func numbered(text string) (int64, error) {
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return 0, talk.Usage("%q is no number of a file; mantilla file SOURCE lists them", text)
	}
	return n, nil
}

func (c *Program) use() *cobra.Command {
	return &cobra.Command{
		Use:   "use SOURCE TABLE NUMBER",
		Short: "Make an earlier file that of its table again",
		Args:  talk.Args(cobra.ExactArgs(3)),
		RunE: func(cmd *cobra.Command, given []string) error {
			n, err := numbered(given[2])
			if err != nil {
				return err
			}
			return c.Done("File "+given[2]+" is in use.", func(a *client.Client) (*http.Response, error) {
				return a.UseFile(cmd.Context(), given[0], given[1], n)
			})
		},
	}
}

func (c *Program) get() *cobra.Command {
	return &cobra.Command{
		Use:   "get SOURCE TABLE NUMBER",
		Short: "Print a file as it was brought",
		Args:  talk.Args(cobra.ExactArgs(3)),
		RunE: func(cmd *cobra.Command, given []string) error {
			n, err := numbered(given[2])
			if err != nil {
				return err
			}
			r, err := c.Send(func(a *client.Client) (*http.Response, error) {
				return a.FetchFile(cmd.Context(), given[0], given[1], n)
			})
			if err != nil {
				return err
			}
			defer r.Body.Close()
			_, err = io.Copy(c.Out, r.Body)
			return err
		},
	}
}

func (c *Program) look() *cobra.Command {
	return &cobra.Command{
		Use:   "look FILE",
		Short: "Print the declaration of a source for a file, as it seems",
		Example: `  mantilla file look budget-2027.xlsx > budget.yaml
  mantilla source put budget.yaml`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			data, err := os.ReadFile(given[0])
			if err != nil {
				return talk.Usage("%v", err)
			}
			looked, err := talk.Fetch[api.LookedFile](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.LookAtFileWithBody(cmd.Context(), &api.LookAtFileParams{Name: filepath.Base(given[0])}, octets,
					bytes.NewReader(data))
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(looked)
			}
			fmt.Fprint(c.Out, looked.Text)
			return nil
		},
	}
}
