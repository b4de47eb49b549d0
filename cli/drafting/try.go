package drafting

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"os"
	"regexp"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
	"mantilla/core/definition"
)

var aDraft = regexp.MustCompile(`^D-\d+$`)

// TryCommand makes the command definition try: compare figures with what a definition expects of them.
func TryCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "try FILE|REPORT|DRAFT",
		Short: "Compare figures with what a definition expects of them, on real rows that are kept nowhere",
		Long: `Read the rows of every expectation of a definition (its key expected) and compare the figures.
Ends with 0 when all are as they were expected, and otherwise with 1.

  mantilla definition try lots.yaml
  mantilla definition try intake-lots
  mantilla definition try D-3`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := c.textOf(cmd, given[0])
			if err != nil {
				return err
			}
			cases, err := talk.Fetch[[]api.Tried](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.TryDefinitionWithBody(cmd.Context(), talk.YAMLType, bytes.NewReader(text))
			})
			if err != nil {
				return err
			}
			broken := 0
			for _, t := range cases {
				if !t.Held {
					broken++
				}
			}
			if c.JSON() {
				err = c.PrintJSON(cases)
			} else {
				err = c.printTried(cases)
			}
			if err == nil && broken > 0 {
				err = &talk.Coded{
					Code: talk.ExitOther,
					Text: fmt.Sprintf("%d of %d are not as they were expected", broken, len(cases)),
				}
			}
			return err
		},
	}
}

// textOf is the text of a definition: of a file, a draft, or a report of the catalog.
func (c *Program) textOf(cmd *cobra.Command, name string) ([]byte, error) {
	if _, err := os.Stat(name); err == nil || name == "-" {
		return talk.ReadText(name)
	}
	if aDraft.MatchString(name) {
		d, err := c.draft(cmd.Context(), name)
		return []byte(d.Text), err
	}
	r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.GetDefinition(cmd.Context(), name) })
	if err != nil {
		return nil, err
	}
	defer r.Body.Close()
	return io.ReadAll(r.Body)
}

func (c *Program) printTried(cases []api.Tried) error {
	if len(cases) == 0 {
		fmt.Fprintln(c.Out, "The definition expects nothing; write figures that you know under expected:")
		return nil
	}
	t := talk.Table{Headings: []string{"", "Expectation", "Figure", "Expected", "Is", "Rows"},
		Right: []bool{false, false, false, true, true, true}}
	for _, one := range cases {
		rows := fmt.Sprint(one.Rows)
		if one.Failed != nil {
			t.Rows = append(t.Rows, []string{"!", one.Name, *one.Failed, "", "", ""})
		}
		for _, f := range one.Figures {
			mark := "="
			if !f.Same {
				mark = "!"
			}
			t.Rows = append(t.Rows, []string{mark, one.Name, f.Is, f.Expected, or(f.Got, talk.Deref(f.Why)), rows})
		}
		for _, o := range one.Checks {
			mark := map[api.CheckOutcomeState]string{"held": "=", "broken": "!", "untold": "?"}[o.State]
			t.Rows = append(t.Rows, []string{mark, one.Name, "check " + o.Id, string(o.Else), o.Says, rows})
		}
	}
	_, err := c.Draw(&t)
	return err
}

// FormatCommand makes the command definition format: write the text of a definition evenly.
func FormatCommand(c *Program) *cobra.Command {
	var write bool
	cmd := &cobra.Command{
		Use:   "format FILE",
		Short: "Print the text of a definition written evenly, or write it to the file",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(_ *cobra.Command, given []string) error {
			text, err := talk.ReadText(given[0])
			if err != nil {
				return err
			}
			even, faults := definition.Format(text)
			if faults != nil {
				return &talk.Coded{Code: talk.ExitInput, Text: faults.Error()}
			}
			if write && given[0] != "-" {
				_, err = talk.WriteWhole(given[0], strings.NewReader(even))
				return err
			}
			_, err = io.WriteString(c.Out, even)
			return err
		},
	}
	cmd.Flags().BoolVarP(&write, "write", "w", false, "write it to the file")
	return cmd
}
