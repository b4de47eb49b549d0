package drafting

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"regexp"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/reading"
	"mantilla/cli/talk"
)

// DraftCommand makes the command draft: definitions on their way into the catalog.
func DraftCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "draft",
		Short: "List drafts; begin, change, try, hand in and take them",
		Long: `List the definitions that are on their way into the catalog.

  mantilla draft begin "Keepers gone silent" --source coop --table keeper --columns no,name,site_id,left_on
  mantilla draft get D-1 > silent.yaml
  mantilla draft put D-1 silent.yaml --try rhea
  mantilla draft preview D-1
  mantilla draft hand-in D-1 --note "for the spring letters"
  mantilla draft take D-1 --note "asked for by the field offices" --group field`,
		Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := talk.Fetch[[]api.DraftLine](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListDrafts(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{Headings: []string{"Draft", "State", "Report", "Try it as", "Owner", "Changed", "Title"}}
			for _, d := range list {
				t.Rows = append(t.Rows, []string{d.Id, string(d.State), d.Report, d.TryAs, d.Owner, c.At(d.ChangedAt), d.Title})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(c.begin(), c.get(), c.put(), c.preview(), c.handIn(), c.giveBack(), c.take(),
		c.Throwing(api.ThrownKindDraft, "delete DRAFT", "Delete a draft; results of trying it out stay", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteDraft(cmd.Context(), id)
			}))
	return cmd
}

var aView = regexp.MustCompile(`^V-\d+$`)

func (c *Program) begin() *cobra.Command {
	var b api.Beginning
	var id, category, source, table, from string
	var columns []string
	cmd := &cobra.Command{
		Use:   "begin [TITLE]",
		Short: "Begin a definition: from columns of a table, from a report, or from nothing",
		Args:  talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if len(given) == 0 && from == "" {
				return talk.Usage("say what the report is to be called, or with --from which report is to be changed")
			}
			if len(given) == 1 {
				b.Title = &given[0]
			}
			b.Report, b.Category, b.Source, b.Table, b.Copy = text(id), text(category), text(source), text(table), text(from)
			b.Columns = talk.Some(columns)
			if aView.MatchString(from) {
				b.Copy, b.View = nil, &from
			}
			d, err := talk.Fetch[api.Draft](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.BeginDraft(cmd.Context(), b) })
			return c.told(d, "is begun", err)
		},
	}
	cmd.Flags().StringVar(&id, "id", "", "id of the new report; otherwise made of the title")
	cmd.Flags().StringVar(&category, "category", "", "where it is to stand in the catalog")
	cmd.Flags().StringVar(&source, "source", "", "where its rows come from")
	cmd.Flags().StringVar(&table, "table", "", "a table of the source to begin from")
	cmd.Flags().StringSliceVar(&columns, "columns", nil, "columns of the table, with commas between; otherwise all")
	cmd.Flags().StringVar(&from, "from", "", "a report to begin from, of which the draft is a change without --id; or a "+
		"kept view, as V-12")
	return cmd
}

func text(t string) *string {
	if t == "" {
		return nil
	}
	return &t
}

func (c *Program) told(d api.Draft, said string, err error) error {
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(d)
	}
	fmt.Fprintf(c.Out, "%s “%s” %s; try it with: mantilla run %s\n", d.Line.Id, d.Line.Title, said, d.Line.TryAs)
	return nil
}

func (c *Program) draft(ctx context.Context, id string) (api.Draft, error) {
	return talk.Fetch[api.Draft](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetDraft(ctx, id) })
}

func (c *Program) get() *cobra.Command {
	return &cobra.Command{
		Use:   "get DRAFT",
		Short: "Print the text of a draft",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			d, err := c.draft(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(d)
			}
			_, err = io.WriteString(c.Out, d.Text)
			return err
		},
	}
}

func (c *Program) put() *cobra.Command {
	var writers, people, groups []string
	var revision int64
	cmd := &cobra.Command{
		Use:   "put DRAFT [FILE]",
		Short: "Change the text of a draft, who writes it, and who may try it",
		Args:  talk.Args(cobra.RangeArgs(1, 2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			d, err := c.draft(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			change := api.DraftChange{Text: d.Text}
			if len(given) == 2 {
				read, err := talk.ReadText(given[1])
				if err != nil {
					return err
				}
				change.Text = string(read)
			}
			if cmd.Flags().Changed("writer") {
				change.Writers = &writers
			}
			if cmd.Flags().Changed("try") || cmd.Flags().Changed("try-group") {
				change.Testers = &api.Opening{People: append([]string{}, people...), Groups: append([]string{}, groups...)}
			}
			if revision == 0 {
				revision = d.Revision
			}
			seen := fmt.Sprintf(`"%d"`, revision)
			d, err = talk.Fetch[api.Draft](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.PutDraft(cmd.Context(), given[0], &api.PutDraftParams{IfMatch: &seen}, change)
			})
			return c.told(d, "is kept", err)
		},
	}
	cmd.Flags().StringSliceVar(&writers, "writer", nil, "an account that writes it too; repeat it for several")
	cmd.Flags().StringSliceVar(&people, "try", nil, "an account that may try it out; repeat it for several")
	cmd.Flags().StringSliceVar(&groups, "try-group", nil, "a group that may try it out")
	cmd.Flags().Int64Var(&revision, "revision", 0, "the revision that was seen; refused when there is a newer one")
	return cmd
}

func (c *Program) preview() *cobra.Command {
	var view string
	var sql bool
	cmd := &cobra.Command{
		Use:   "preview DRAFT [NAME=VALUE...]",
		Short: "Show the first rows of a draft; nothing of them is kept",
		Args:  talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			values, err := talk.Pairs(given[1:])
			if err != nil {
				return err
			}
			p, err := talk.Fetch[api.DraftPreview](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.PreviewDraft(cmd.Context(), given[0], api.PreviewWish{View: text(view), Values: values})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(p)
			}
			return c.printPreview(p, sql)
		},
	}
	cmd.Flags().StringVar(&view, "view", "", "the view to lay out; otherwise the one that opens first")
	cmd.Flags().BoolVar(&sql, "sql", false, "print the SQL with what is bound in it, too")
	return cmd
}

func (c *Program) printPreview(p api.DraftPreview, sql bool) error {
	fmt.Fprintln(c.Say(), p.Sentence)
	if _, err := reading.Of(c.Program).DrawSheet(p.Sheet); err != nil {
		return err
	}
	if p.Cut {
		fmt.Fprintf(c.Out, "These are figures of the first %d rows; there are more.\n", p.Sheet.Of)
	}
	if sql {
		for _, s := range p.Statements {
			fmt.Fprintf(c.Out, "\n-- %s\n%s\n", s.Dataset, s.Text)
			for i, value := range s.Values {
				fmt.Fprintf(c.Out, "-- ?%d = %s\n", i+1, value)
			}
		}
	}
	return nil
}

func noteFlag(cmd *cobra.Command, note *string) {
	cmd.Flags().StringVar(note, "note", "", "what to say about it")
}

func (c *Program) handIn() *cobra.Command {
	var note string
	cmd := &cobra.Command{
		Use:   "hand-in DRAFT",
		Short: "Hand a draft in to those who keep the catalog",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			d, err := talk.Fetch[api.Draft](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.HandInDraft(cmd.Context(), given[0], api.Said{Note: text(note)})
			})
			return c.told(d, "is handed in", err)
		},
	}
	noteFlag(cmd, &note)
	return cmd
}

func (c *Program) giveBack() *cobra.Command {
	var note string
	cmd := &cobra.Command{
		Use:   "give-back DRAFT",
		Short: "Give a draft back to those who write it, with what is to be changed",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			d, err := talk.Fetch[api.Draft](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.GiveBackDraft(cmd.Context(), given[0], api.Said{Note: text(note)})
			})
			return c.told(d, "is given back", err)
		},
	}
	noteFlag(cmd, &note)
	return cmd
}

func (c *Program) take() *cobra.Command {
	var note string
	var everyone, over, untried bool
	var groups, people []string
	cmd := &cobra.Command{
		Use:   "take DRAFT",
		Short: "Take a draft into the catalog; those whom the change concerns are told",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			taking := api.Taking{Note: text(note), Over: &over, Untried: &untried}
			if everyone || len(groups) > 0 || len(people) > 0 {
				taking.Open = &api.Opening{Everyone: everyone, Groups: append([]string{}, groups...),
					People: append([]string{}, people...)}
			}
			r, err := talk.Fetch[api.Report](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.TakeDraft(cmd.Context(), given[0], taking)
			})
			if err != nil || c.JSON() {
				return printed(c, r, err)
			}
			fmt.Fprintf(c.Out, "%s is in the catalog, version %d.\n", r.Id, r.Versions[0].Number)
			for _, w := range talk.Deref(r.Warnings) {
				fmt.Fprintln(c.Out, "! "+w)
			}
			return nil
		},
	}
	noteFlag(cmd, &note)
	cmd.Flags().BoolVar(&over, "over", false, "also over what somebody changed since the draft began")
	cmd.Flags().BoolVar(&untried, "untried", false, "also where figures are not as the definition expects them")
	cmd.Flags().BoolVar(&everyone, "everyone", false, "open it to everyone")
	cmd.Flags().StringSliceVar(&groups, "group", nil, "open it to a group; repeat it for several")
	cmd.Flags().StringSliceVar(&people, "person", nil, "open it to a person; repeat it for several")
	return cmd
}

func printed(c *Program, v any, err error) error {
	if err != nil {
		return err
	}
	return c.PrintJSON(v)
}

// NoticesCommand makes the command notices: what the service tells one.
func NoticesCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "notices",
		Short: "What the service tells you: drafts to try, reports that changed",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := talk.Fetch[[]api.Notice](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListNotices(cmd.Context()) })
			if err != nil || c.JSON() {
				return printed(c, list, err)
			}
			if len(list) == 0 {
				fmt.Fprintln(c.Out, "There is nothing to tell.")
			}
			for _, n := range list {
				fmt.Fprintf(c.Out, "%d  %s  %s\n", n.Number, c.At(n.At), strings.TrimSpace(n.Says))
			}
			return nil
		},
	}
	cmd.AddCommand(awayCommand(c))
	return cmd
}

// awayCommand makes the command away: put a notice away; --back has it back.
func awayCommand(c *Program) *cobra.Command {
	var back bool
	cmd := &cobra.Command{
		Use:   "away NUMBER",
		Short: "Put a notice away; --back has it back, for 30 days",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			var n int64
			if _, err := fmt.Sscan(given[0], &n); err != nil {
				return talk.Usage("%q is not the number of a notice", given[0])
			}
			if back {
				return c.Done("It is back.", func(a *client.Client) (*http.Response, error) {
					return a.ReturnNotice(cmd.Context(), n)
				})
			}
			return c.Done(fmt.Sprintf("It is put away; mantilla notices away %d --back has it back.", n),
				func(a *client.Client) (*http.Response, error) { return a.PutAwayNotice(cmd.Context(), n) })
		},
	}
	cmd.Flags().BoolVar(&back, "back", false, "have it back")
	return cmd
}
