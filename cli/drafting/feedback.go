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

// FeedbackCommand makes the command feedback: what readers write to those who keep a report.
func FeedbackCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "feedback",
		Short: "Write to those who keep a report; list and answer what was written",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := talk.Fetch[[]api.Feedback](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListFeedback(cmd.Context()) })
			if err != nil || c.JSON() {
				return printed(c, list, err)
			}
			t := talk.Table{Headings: []string{"No.", "State", "Report", "Result", "Who", "When", "What", "Answer"},
				Right: []bool{true, false, false, false, false, false, false, false}}
			for _, f := range list {
				t.Rows = append(t.Rows, []string{strconv.FormatInt(f.Number, 10), string(f.State), f.Report,
					talk.Deref(f.Result), f.Person, c.At(f.At), f.Says, f.Answer})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(c.writeFeedback(), c.answerFeedback())
	return cmd
}

func (c *Program) writeFeedback() *cobra.Command {
	var result string
	cmd := &cobra.Command{
		Use:   "write REPORT TEXT...",
		Short: "Write to those who keep a report",
		Args:  talk.Args(cobra.MinimumNArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			body := api.FeedbackText{Says: strings.Join(given[1:], " "), Result: text(result)}
			return c.Done("It is sent.", func(a *client.Client) (*http.Response, error) {
				return a.WriteFeedback(cmd.Context(), given[0], body)
			})
		},
	}
	cmd.Flags().StringVar(&result, "result", "", "the result that it is about, such as R-000012")
	return cmd
}

func (c *Program) answerFeedback() *cobra.Command {
	var done bool
	cmd := &cobra.Command{
		Use:   "answer NUMBER [TEXT...]",
		Short: "Answer what a reader wrote; the reader is told",
		Args:  talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			n, err := strconv.ParseInt(given[0], 10, 64)
			if err != nil {
				return talk.Usage("%q is not the number of a feedback", given[0])
			}
			body := api.FeedbackAnswer{State: "answered", Answer: strings.Join(given[1:], " ")}
			if done {
				body.State = "done"
			}
			f, err := talk.Fetch[api.Feedback](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.AnswerFeedback(cmd.Context(), n, body) })
			if err != nil || c.JSON() {
				return printed(c, f, err)
			}
			fmt.Fprintf(c.Out, "%s is told.\n", f.Person)
			return nil
		},
	}
	cmd.Flags().BoolVar(&done, "done", false, "nothing more is to be done about it")
	return cmd
}

// retire takes a report out of the catalog, or brings it back.
func (c *Program) retire() *cobra.Command {
	var successor string
	var back bool
	cmd := &cobra.Command{
		Use:   "retire REPORT",
		Short: "Retire a report; its results stay, and those who depend on it are told",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if back {
				return c.Done(given[0]+" is back in the catalog.", func(a *client.Client) (*http.Response, error) {
					return a.ReinstateReport(cmd.Context(), given[0])
				})
			}
			body := api.RetireReportJSONRequestBody{Successor: text(successor)}
			return c.Done(given[0]+" is retired.", func(a *client.Client) (*http.Response, error) {
				return a.RetireReport(cmd.Context(), given[0], body)
			})
		},
	}
	cmd.Flags().StringVar(&successor, "successor", "", "the report that takes its place")
	cmd.Flags().BoolVar(&back, "back", false, "bring it back")
	return cmd
}

// RenameCommand makes the command definition rename: give a report another id.
func RenameCommand(c *Program) *cobra.Command {
	var note string
	cmd := &cobra.Command{
		Use:   "rename REPORT ID",
		Short: "Give a report another id; what is kept of it goes on, and links to it lead there",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := talk.Fetch[api.Report](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.RenameReport(cmd.Context(), given[0], api.Renaming{To: given[1], Note: text(note)})
			})
			if err != nil || c.JSON() {
				return printed(c, r, err)
			}
			fmt.Fprintf(c.Out, "%s is %s now.\n", given[0], r.Id)
			return nil
		},
	}
	cmd.Flags().StringVar(&note, "note", "", "why; it stands beside the versions")
	return cmd
}
