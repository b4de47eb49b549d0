// Package meaning has the commands that tell what columns mean and where figures come
// from: the glossary, and columns.
package meaning

import (
	"fmt"
	"net/http"
	"regexp"
	"slices"
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

// GlossaryCommand makes the command glossary: what the organisation's words mean.
func GlossaryCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "glossary [WORD...]",
		Short: "What the organisation's words mean, and which columns they are; put and delete",
		Example: `  mantilla glossary net
  mantilla glossary put net-weight --name "Net weight" --also "net; net kg" \
    --meaning "What is in the tubs without the tubs."`,
		RunE: func(cmd *cobra.Command, words []string) error {
			list, err := c.terms(cmd, strings.Join(words, " "))
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{Headings: []string{"Id", "Term", "Also", "Columns", "Meaning"},
				Right: []bool{false, false, false, true, false}}
			for _, term := range list {
				t.Rows = append(t.Rows, []string{term.Id, term.Name, strings.Join(term.Also, "; "),
					strconv.Itoa(len(term.Columns)), term.Meaning})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(c.putTerm(), c.Removing("delete TERM", "Forget a term that no column points to", nil,
		func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
			return a.DeleteTerm(cmd.Context(), id)
		}))
	return cmd
}

func (c *Program) terms(cmd *cobra.Command, search string) ([]api.Term, error) {
	return talk.Fetch[[]api.Term](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.ListTerms(cmd.Context(), &api.ListTermsParams{Search: &search})
	})
}

func (c *Program) putTerm() *cobra.Command {
	var name, also, meaning, owner string
	cmd := &cobra.Command{
		Use:   "put TERM",
		Short: "Say what a word means, or change that; what is left out stays",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			list, err := c.terms(cmd, "")
			if err != nil {
				return err
			}
			change, params := api.TermChange{}, &api.PutTermParams{}
			if at := slices.IndexFunc(list, func(t api.Term) bool { return t.Id == given[0] }); at >= 0 {
				t, revision := list[at], fmt.Sprint(list[at].Revision)
				change = api.TermChange{Name: t.Name, Also: &t.Also, Meaning: t.Meaning, Owner: t.Owner}
				params.IfMatch = &revision
			}
			flags := cmd.Flags()
			if flags.Changed("name") {
				change.Name = name
			}
			if flags.Changed("also") {
				words := strings.Split(also, ";")
				change.Also = &words
			}
			if flags.Changed("meaning") {
				change.Meaning = meaning
			}
			if flags.Changed("owner") {
				change.Owner = &owner
			}
			return c.Done(given[0]+" is kept.", func(a *client.Client) (*http.Response, error) {
				return a.PutTerm(cmd.Context(), given[0], params, change)
			})
		},
	}
	cmd.Flags().StringVar(&name, "name", "", "the word")
	cmd.Flags().StringVar(&also, "also", "", "other words for the same, with semicolons between")
	cmd.Flags().StringVar(&meaning, "meaning", "", "what it means")
	cmd.Flags().StringVar(&owner, "owner", "", "the account of who answers for the meaning")
	return cmd
}

var aResult = regexp.MustCompile(`^R-\d+$`)

// ColumnsCommand makes the command columns: what columns mean and where they come from.
func ColumnsCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "columns RESULT|REPORT [COLUMN]",
		Short: "What columns mean and where their figures come from: formula, SQL, tables",
		Args:  talk.Args(cobra.RangeArgs(1, 2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			o, err := talk.Fetch[api.Origin](c.Program, func(a *client.Client) (*http.Response, error) {
				if aResult.MatchString(given[0]) {
					return a.ExplainResult(cmd.Context(), given[0])
				}
				return a.ExplainReport(cmd.Context(), given[0])
			})
			if err != nil {
				return err
			}
			if len(given) == 2 {
				return c.column(o, given[1])
			}
			if c.JSON() {
				return c.PrintJSON(o)
			}
			t := talk.Table{Headings: []string{"Dataset", "Column", "Heading", "Comes from", "Means"}}
			for _, column := range o.Columns {
				t.Rows = append(t.Rows, []string{column.Dataset, column.Id, column.Heading, from(column), says(column)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

func from(column api.ColumnOrigin) string {
	if column.Formula != nil {
		return "= " + *column.Formula
	}
	return strings.Join(column.Tables, ", ")
}

func says(column api.ColumnOrigin) string {
	if column.Term == nil {
		return column.About
	}
	return strings.TrimSpace(column.About + " " + column.Term.Name + ": " + column.Term.Meaning)
}

// column tells all of one column, in each dataset that has it.
func (c *Program) column(o api.Origin, id string) error {
	var found []api.ColumnOrigin
	var known []string
	for _, column := range o.Columns {
		known = append(known, column.Id)
		if column.Id == id {
			found = append(found, column)
		}
	}
	if len(found) == 0 {
		return talk.Usage("there is no column %q; use %s", id, talk.Meant(id, known))
	}
	if c.JSON() {
		return c.PrintJSON(found)
	}
	for _, column := range found {
		fmt.Fprintf(c.Out, "%s (%s) of %s\n", column.Heading, column.Kind, column.Dataset)
		for _, line := range [][2]string{{"Means", says(column)}, {"Formula", talk.Deref(column.Formula)},
			{"Made of", strings.Join(column.MadeOf, ", ")}, {"SQL", talk.Deref(column.Sql)},
			{"Tables", strings.Join(column.Tables, ", ")}, {"Personal", talk.Deref(column.Personal)}} {
			if line[1] != "" {
				fmt.Fprintf(c.Out, "  %-8s %s\n", line[0], line[1])
			}
		}
		for _, st := range o.Statements {
			if st.Dataset == column.Dataset {
				fmt.Fprintf(c.Out, "  Read by\n%s\n", indented(st.Text))
				for i, v := range st.Values {
					fmt.Fprintf(c.Out, "    ?%d = %s\n", i+1, v)
				}
			}
		}
	}
	if o.Unknown != nil {
		fmt.Fprintln(c.Out, *o.Unknown)
	}
	return nil
}

func indented(text string) string {
	return "    " + strings.ReplaceAll(strings.TrimSpace(text), "\n", "\n    ")
}
