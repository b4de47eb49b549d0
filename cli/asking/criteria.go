package asking

import (
	"context"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// CompleteCriteria completes the names of criteria of the report given before.
func (c *Program) CompleteCriteria(_ *cobra.Command, given []string, _ string) (names []string,
	_ cobra.ShellCompDirective) {
	if len(given) == 0 {
		return nil, talk.NoFiles
	}
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	all, _ := c.criteriaOf(ctx, given[0], "")
	for _, k := range all {
		names = append(names, k.Id+"\t"+k.Name+": "+k.Sentence)
	}
	return names, talk.NoFiles
}

// CriteriaCommand makes the command criteria: keep values of a report under names.
func CriteriaCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "criteria",
		Short: "Keep values of a report under names",
		Long: `Keep values of a report under names. What was typed is kept: last month stays
last month. Run with them by: mantilla run REPORT --criteria NAME`,
	}
	cmd.AddCommand(listCriteriaCommand(c), saveCriteriaCommand(c), renameCriteriaCommand(c), deleteCriteriaCommand(c),
		pastCriteriaCommand(c), restoreCriteriaCommand(c), usualCommand(c))
	return cmd
}

func (c *Program) criteriaOf(ctx context.Context, report, search string) ([]api.Criteria, error) {
	most := 1000
	return talk.Fetch[[]api.Criteria](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.ListCriteria(ctx, report, &api.ListCriteriaParams{Search: &search, Limit: &most})
	})
}

// Named finds criteria of a report by name or id. The person's own come before
// those of others with the same name.
func (c *Program) Named(ctx context.Context, report, name string) (api.Criteria, error) {
	all, err := c.criteriaOf(ctx, report, "")
	if err != nil {
		return api.Criteria{}, err
	}
	same := func(k api.Criteria) bool { return strings.EqualFold(k.Name, name) || strings.EqualFold(k.Id, name) }
	found := slices.IndexFunc(all, func(k api.Criteria) bool { return same(k) && k.Mine })
	if found < 0 {
		found = slices.IndexFunc(all, same)
	}
	if found < 0 {
		var names []string
		for _, k := range all {
			names = append(names, k.Name)
		}
		return api.Criteria{},
			&talk.Coded{
				Code: talk.ExitNotFound,
				Text: fmt.Sprintf("%s has no criteria %q; it has %s", report, name, orNone(names)),
			}
	}
	return all[found], nil
}

func orNone(names []string) string {
	if len(names) == 0 {
		return "none"
	}
	return strings.Join(names, ", ")
}

// listCriteriaCommand makes the command list: list criteria with what they come to today.
func listCriteriaCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "list REPORT [WORD]",
		Short:             "List criteria with what they come to today",
		Args:              talk.Args(cobra.RangeArgs(1, 2)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			list, err := c.criteriaOf(cmd.Context(), given[0], strings.Join(given[1:], " "))
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{
				Headings: []string{"Id", "Name", "Whose", "Last run", "Rows", "Today"},
				Right:    []bool{4: true, 5: false},
			}
			for _, k := range list {
				whose, last, rows, today := k.Owner, "never", "", k.Sentence
				if k.Usual {
					whose += ", usual"
				}
				if k.Shared != "" {
					whose += ", shared with " + k.Shared
				}
				if k.LastRun != nil {
					last = c.At(*k.LastRun)
					if k.LastRows != nil {
						rows = fmt.Sprint(*k.LastRows)
					}
				}
				if len(k.Unfit) > 0 {
					today = "no longer fits: " + strings.Join(k.Unfit, "; ")
				}
				t.Rows = append(t.Rows, []string{k.Id, k.Name, whose, last, rows, today})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

// saveCriteriaCommand makes the command save: keep values under a name.
func saveCriteriaCommand(c *Program) *cobra.Command {
	var shared string
	var overwrite bool
	cmd := &cobra.Command{
		Use:   "save REPORT NAME [NAME=VALUE...]",
		Short: "Keep values under a name",
		Long: `Keep values under a name. When you have criteria of that name already, what
would change is shown and nothing is kept, unless --overwrite says so.`,
		Example:           `  mantilla criteria save intake-lots "Hollin last month" received="last month" unit=Hollin`,
		Args:              talk.Args(cobra.MinimumNArgs(2)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			report, name := given[0], given[1]
			values, err := talk.Pairs(given[2:])
			if err != nil {
				return err
			}
			all, err := c.criteriaOf(cmd.Context(), report, name)
			if err != nil {
				return err
			}
			at := slices.IndexFunc(all, func(k api.Criteria) bool { return k.Mine && strings.EqualFold(k.Name, name) })
			change := api.CriteriaChange{Name: name, Shared: shared, Values: values}
			if at < 0 {
				return c.keptCriteria(func(a *client.Client) (*http.Response, error) {
					return a.KeepCriteria(cmd.Context(), report, change)
				})
			}
			present := all[at]
			changes := differences(present.Values, values)
			if !overwrite && len(changes) > 0 {
				return talk.Usage("%s exists, and this would change it:\n  %s\nrepeat with --overwrite, or choose another name",
					name,
					strings.Join(changes, "\n  "))
			}
			if !cmd.Flags().Changed("share") {
				change.Shared = present.Shared
			}
			revision := fmt.Sprint(present.Revision)
			return c.keptCriteria(func(a *client.Client) (*http.Response, error) {
				return a.ChangeCriteria(cmd.Context(), present.Id, &api.ChangeCriteriaParams{IfMatch: &revision}, change)
			})
		},
	}
	cmd.Flags().StringVar(&shared, "share", "", "share with a group, or with everyone")
	cmd.Flags().BoolVar(&overwrite, "overwrite", false, "change the criteria that have the name")
	return cmd
}

// differences says how values would change, a line each.
func differences(was, will map[string]string) (lines []string) {
	all := maps.Clone(was)
	maps.Copy(all, will)
	for _, name := range slices.Sorted(maps.Keys(all)) {
		switch a, b := was[name], will[name]; { // one that is not there is empty
		case a == b:
		case b == "":
			lines = append(lines, fmt.Sprintf("%s: %q would go", name, a))
		case a == "":
			lines = append(lines, fmt.Sprintf("%s: %q would be added", name, b))
		default:
			lines = append(lines, fmt.Sprintf("%s: %q would become %q", name, a, b))
		}
	}
	return lines
}

func (c *Program) keptCriteria(call func(*client.Client) (*http.Response, error)) error {
	k, err := talk.Fetch[api.Criteria](c.Program, call)
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(k)
	}
	fmt.Fprintf(c.Out, "%s  %s: %s\n", k.Id, k.Name, k.Sentence)
	for _, u := range k.Unfit {
		fmt.Fprintln(c.Out, "·", u)
	}
	return nil
}

// renameCriteriaCommand makes the command rename: give criteria another name.
func renameCriteriaCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "rename REPORT NAME NEW",
		Short:             "Give criteria another name",
		Args:              talk.Args(cobra.ExactArgs(3)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := c.Named(cmd.Context(), given[0], given[1])
			if err != nil {
				return err
			}
			revision := fmt.Sprint(k.Revision)
			return c.keptCriteria(func(a *client.Client) (*http.Response, error) {
				return a.ChangeCriteria(cmd.Context(), k.Id, &api.ChangeCriteriaParams{IfMatch: &revision},
					api.CriteriaChange{Name: given[2], Shared: k.Shared, Values: k.Values})
			})
		},
	}
}

// deleteCriteriaCommand makes the command delete: delete criteria; restore brings them back.
func deleteCriteriaCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "delete REPORT NAME",
		Short:             "Delete criteria; restore brings them back",
		Args:              talk.Args(cobra.ExactArgs(2)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := c.Named(cmd.Context(), given[0], given[1])
			if err != nil {
				return err
			}
			return c.Done(fmt.Sprintf("%s is deleted; mantilla criteria restore %s brings it back.", k.Name, k.Id),
				func(a *client.Client) (*http.Response, error) {
					return a.DeleteCriteria(cmd.Context(), k.Id)
				})
		},
	}
}

// pastCriteriaCommand makes the command past: list what criteria held before they were overwritten.
func pastCriteriaCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "past REPORT NAME",
		Short:             "List what criteria held before they were overwritten",
		Args:              talk.Args(cobra.ExactArgs(2)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := c.Named(cmd.Context(), given[0], given[1])
			if err != nil {
				return err
			}
			past, err := talk.Fetch[[]api.Criteria](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListPastCriteria(cmd.Context(), k.Id) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(past)
			}
			t := talk.Table{Headings: []string{"Id", "Revision", "Kept", "Today", "Would change"}}
			for _, p := range past {
				t.Rows = append(t.Rows,
					[]string{p.Id, fmt.Sprint(p.Revision), c.At(p.ChangedAt), p.Sentence,
						strings.Join(differences(k.Values, p.Values), "; ")})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

// restoreCriteriaCommand makes the command restore: bring back deleted criteria, or values that were overwritten.
func restoreCriteriaCommand(c *Program) *cobra.Command {
	var revision int64
	cmd := &cobra.Command{
		Use:   "restore ID",
		Short: "Bring back deleted criteria, or values that were overwritten",
		Long: `Bring back deleted criteria or, with --revision, values that were overwritten;
mantilla criteria past REPORT NAME lists those.`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			wish := &api.RestoreCriteriaParams{}
			if cmd.Flags().Changed("revision") {
				wish.Revision = &revision
			}
			return c.keptCriteria(func(a *client.Client) (*http.Response, error) {
				return a.RestoreCriteria(cmd.Context(), given[0], wish)
			})
		},
	}
	cmd.Flags().Int64Var(&revision, "revision", 0, "bring back the values of this revision")
	return cmd
}

// usualCommand makes the command usual: let your form of the report begin with these criteria.
func usualCommand(c *Program) *cobra.Command {
	var none bool
	cmd := &cobra.Command{
		Use:               "usual REPORT NAME",
		Short:             "Let your form of the report begin with these criteria",
		Args:              talk.Args(cobra.ExactArgs(2)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			k, err := c.Named(cmd.Context(), given[0], given[1])
			if err != nil {
				return err
			}
			if none {
				return c.Done(k.Name+" is no longer your usual.",
					func(a *client.Client) (*http.Response, error) { return a.UnsetUsual(cmd.Context(), k.Id) })
			}
			return c.Done(k.Name+" is your usual.",
				func(a *client.Client) (*http.Response, error) { return a.SetUsual(cmd.Context(), k.Id) })
		},
	}
	cmd.Flags().BoolVar(&none, "none", false, "begin with the report's own defaults again")
	return cmd
}
