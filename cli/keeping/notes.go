package keeping

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/reading"
	"mantilla/cli/talk"
)

// NotesCommand makes the command notes: what people wrote on a result.
func NotesCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "notes RESULT",
		Short: "What people wrote on a result; write, answer and settle notes",
		Long: `List the notes on a result. A note is on the whole result, on a row, or on the rows
behind a figure (mantilla figure ... --note). Names with @ before them are told:
@lila.`,
		Example: `  mantilla notes R-000012
  mantilla notes write R-12 why is Hollin so low, @lila?
  mantilla notes write R-12 --view lots --row 14 weighed twice
  mantilla notes write R-12 --answer 3 the scale was out on the 4th
  mantilla notes settle 3`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: reading.Of(c.Program).CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := c.keeping(cmd, given[0])
			if err != nil || c.JSON() {
				if err == nil {
					err = c.PrintJSON(k.Notes)
				}
				return err
			}
			for _, n := range k.Notes {
				c.tellNote(n)
			}
			if len(k.Notes) == 0 {
				fmt.Fprintln(c.Err, "· nobody wrote a note")
			}
			return nil
		},
	}
	cmd.AddCommand(writeCommand(c))
	for word, settled := range map[string]bool{"settle": true, "reopen": false} {
		short := "Say that a note with its answers is settled"
		if !settled {
			short = "Open a settled note again"
		}
		cmd.AddCommand(&cobra.Command{
			Use:   word + " NOTE",
			Short: short,
			Args:  talk.Args(cobra.ExactArgs(1)),
			RunE: func(cmd *cobra.Command, given []string) error {
				number, err := strconv.ParseInt(given[0], 10, 64)
				if err != nil {
					return talk.Usage("%q is not the number of a note", given[0])
				}
				n, err := talk.Fetch[api.Note](c.Program, func(a *client.Client) (*http.Response, error) {
					return a.SettleNote(cmd.Context(), number, api.SettleNoteJSONRequestBody{Settled: settled})
				})
				if err != nil {
					return err
				}
				return c.printNote(n)
			},
		})
	}
	return cmd
}

func writeCommand(c *Program) *cobra.Command {
	var view string
	var row int
	var answers int64
	cmd := &cobra.Command{
		Use:   "write RESULT WORDS...",
		Short: "Write a note on a result or a row of it, or answer one",
		Args:  talk.Args(cobra.MinimumNArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			body := api.NoteText{Says: strings.Join(given[1:], " ")}
			if answers > 0 {
				body.Answers = &answers
			}
			if cmd.Flags().Changed("row") {
				at := row - 1
				body.Row, body.About = &at, &api.NoteAbout{View: view}
			}
			n, err := talk.Fetch[api.Note](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.WriteNote(cmd.Context(), given[0], body) })
			if err != nil {
				return err
			}
			return c.printNote(n)
		},
	}
	cmd.Flags().StringVar(&view, "view", "*", "view whose dataset the row is of")
	cmd.Flags().IntVar(&row, "row", 0, "a row as kept, counted from 1, that it is about")
	cmd.Flags().Int64Var(&answers, "answer", 0, "the note that it answers")
	return cmd
}

func (c *Program) printNote(n api.Note) error {
	if c.JSON() {
		return c.PrintJSON(n)
	}
	c.tellNote(n)
	return nil
}

func (c *Program) tellNote(n api.Note) {
	indent, of := "", ""
	if n.Answers != nil {
		indent = "    "
	}
	if n.About != nil && n.About.Says != nil {
		of = " on " + *n.About.Says
	}
	if n.SettledBy != nil {
		of += ", settled by " + *n.SettledBy
	}
	fmt.Fprintf(c.Out, "%s%d  %s, %s%s: %s\n", indent, n.Number, n.Person, c.At(n.At), of, talk.Clean(n.Says))
}
