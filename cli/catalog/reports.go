package catalog

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// CatalogCommand makes the command catalog: list the reports, or search them.
func CatalogCommand(c *Program) *cobra.Command {
	var category string
	var favourites, recent, popular bool
	cmd := &cobra.Command{
		Use:   "catalog [WORD...]",
		Short: "List the reports, or search them",
		Long:  "List the reports of the catalog. Words search titles, categories and purposes; slips of typing are forgiven.",
		RunE: func(cmd *cobra.Command, words []string) error {
			search := strings.Join(words, " ")
			catalog, err := talk.Fetch[api.Catalog](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.GetCatalog(cmd.Context(), &api.GetCatalogParams{Search: &search, Category: &category})
			})
			if err != nil {
				return err
			}
			if favourites {
				catalog.Reports = slices.DeleteFunc(catalog.Reports, func(r api.CatalogLine) bool { return r.Favourite == nil })
			}
			if recent {
				catalog.Reports = ordered(catalog.Reports, catalog.Recent)
			}
			if popular {
				catalog.Reports = ordered(catalog.Reports, catalog.Popular)
			}
			if c.JSON() {
				return c.PrintJSON(catalog)
			}
			return c.printCatalog(catalog)
		},
	}
	cmd.Flags().StringVar(&category, "category", "", "only this category")
	cmd.Flags().BoolVar(&favourites, "favourites", false, "only those that you marked")
	cmd.Flags().BoolVar(&recent, "recent", false, "only those that you had to do with last")
	cmd.Flags().BoolVar(&popular, "popular", false, "only those that the people of your groups use most")
	talk.Must(cmd.RegisterFlagCompletionFunc("category", c.completeCategories))
	return cmd
}

// ordered are the reports with some ids, in the order of these.
func ordered(all []api.CatalogLine, ids []string) (out []api.CatalogLine) {
	for _, id := range ids {
		for _, r := range all {
			if r.Id == id {
				out = append(out, r)
			}
		}
	}
	return out
}

func (c *Program) printCatalog(catalog api.Catalog) error {
	if len(catalog.Reports) == 0 {
		fmt.Fprintln(c.Out, "No report meets the search.")
		return nil
	}
	t := talk.Table{
		Headings: []string{"Report", "Category", "Depth", "Last run", "Took", "Title"},
		Right:    []bool{false, false, false, false, true, false},
	}
	for _, r := range catalog.Reports {
		last, took := "never", ""
		if r.LastRun != nil {
			last, took = c.At(*r.LastRun), talk.Seconds(*r.LastSeconds)
		}
		title := r.Title
		if r.Broken != nil {
			title += ", cannot be read: " + strings.Join(strings.Fields(*r.Broken), " ")
		}
		if r.Closed != nil {
			title += "; not open to you, ask for it with: mantilla requests ask " + r.Id
		}
		if r.Found != nil {
			title += " (" + *r.Found + ")"
		}
		t.Rows = append(t.Rows, []string{r.Id, r.Category, r.Depth, last, took, title})
	}
	_, err := c.Draw(&t)
	return err
}

// FavouriteCommand makes the command favourite: mark a report to find it again.
func FavouriteCommand(c *Program) *cobra.Command {
	var off bool
	cmd := &cobra.Command{
		Use:               "favourite REPORT",
		Short:             "Mark a report to find it again, with catalog --favourites",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			if off {
				return c.Done(given[0]+" is not marked any more.", func(a *client.Client) (*http.Response, error) {
					return a.UnsetFavourite(cmd.Context(), given[0])
				})
			}
			return c.Done(given[0]+" is marked.", func(a *client.Client) (*http.Response, error) {
				return a.SetFavourite(cmd.Context(), given[0])
			})
		},
	}
	cmd.Flags().BoolVar(&off, "off", false, "mark it no longer")
	return cmd
}

// DescribeCommand makes the command describe: tell what a report is for and how to fill it in.
func DescribeCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:               "describe REPORT",
		Short:             "Tell what a report is for and how to fill it in",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.Report(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(r)
			}
			c.describe(r)
			return nil
		},
	}
}

// Report asks for a report by its id.
func (c *Program) Report(ctx context.Context, id string) (api.Report, error) {
	return talk.Fetch[api.Report](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetReport(ctx, id) })
}

func (c *Program) describe(r api.Report) {
	w := c.Out
	fmt.Fprintf(w, "%s (%s)\n%s, %s\n\n%s\n", r.Title, r.Id, r.Category, r.Depth, r.About)
	if r.Retired != nil {
		fmt.Fprintln(w, "\nIt is retired and runs no more.")
		if r.Successor != nil {
			fmt.Fprintln(w, "In its place: "+*r.Successor)
		}
	}
	if r.Guide != "" {
		fmt.Fprintf(w, "\n%s\n", r.Guide)
	}
	fmt.Fprintln(w, "\nParameters")
	if len(r.Parameters) == 0 {
		fmt.Fprintln(w, "  none")
	}
	for _, p := range r.Parameters {
		fmt.Fprintf(w, "  %s\n", parameterLine(p))
		if p.Help != "" {
			fmt.Fprintf(w, "      %s\n", p.Help)
		}
		if len(p.Options) > 0 {
			var options []string
			for _, o := range p.Options {
				options = append(options, o.Code)
			}
			fmt.Fprintf(w, "      one of: %s\n", strings.Join(options, ", "))
		}
	}
	var views []string
	for _, v := range r.Views {
		views = append(views, v.Id)
	}
	fmt.Fprintf(w, "\nViews       %s\n", strings.Join(views, ", "))
	for _, x := range r.Companions {
		fmt.Fprintf(w, "Companion   %s, %s\n", x.Id, x.Depth)
	}
	if len(r.Versions) == 0 { // of a draft
		fmt.Fprintf(w, "Version     %.12s, not in the catalog\n", r.Version)
		return
	}
	v := r.Versions[0]
	fmt.Fprintf(w, "Version     %d (%.12s), since %s\n", v.Number, r.Version, c.At(v.At))
}

// parameterLine says one parameter: its id, type, and what holds for it.
func parameterLine(p api.Parameter) string {
	said := []string{string(p.Type)}
	if p.Many {
		said = append(said, "several with ; between")
	}
	if p.Required {
		said = append(said, "needed")
	}
	if p.Locked {
		said = append(said, "locked at "+p.Default)
		p.Default = ""
	}
	if p.Compare {
		said = append(said, "may be compared: ... against year before and previous period, or last signed")
	}
	if p.Time {
		said = append(said, "may have times of day")
	}
	if len(p.NarrowedBy) > 0 {
		said = append(said, "narrowed by "+strings.Join(p.NarrowedBy, ", "))
	}
	for _, limit := range []struct{ word, value string }{{"from", p.Min}, {"to", p.Max}, {"at most", p.Longest},
		{"in", p.Measure}} {
		if limit.value != "" {
			said = append(said, limit.word+" "+limit.value)
		}
	}
	if p.Default != "" {
		said = append(said, "otherwise "+p.Default)
	}
	return fmt.Sprintf("%-12s %s: %s", p.Id, p.Label, strings.Join(said, ", "))
}

// DefinitionCommand makes the command definition: check, put and get the definitions of reports.
func DefinitionCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{Use: "definition", Short: "Check, put and get the definitions of reports"}
	check := &cobra.Command{
		Use:   "check FILE",
		Short: "Check a definition and list everything that is wrong with it",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, _, err := readDefinition(given[0])
			if err != nil {
				return err
			}
			r, err := talk.Fetch[api.Report](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.CheckDefinitionWithBody(cmd.Context(), talk.YAMLType, bytes.NewReader(text))
			})
			return c.tellDefinition("is right", r, err)
		},
	}
	var force, untried bool
	var was, note string
	put := &cobra.Command{
		Use:   "put FILE",
		Short: "Take a definition into the catalog",
		Long: `Take a definition into the catalog as the present version of its report.
The change is refused when the report was changed since --was.`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if force {
				was = "*"
			}
			text, id, err := readDefinition(given[0])
			if err != nil {
				return err
			}
			params := &api.PutDefinitionParams{Untried: &untried}
			if was != "" {
				params.IfMatch = &was
			}
			if note != "" {
				params.Note = &note
			}
			r, err := talk.Fetch[api.Report](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.PutDefinitionWithBody(cmd.Context(), id, params, talk.YAMLType, bytes.NewReader(text))
			})
			var refused *talk.Coded
			if errors.As(err, &refused) && refused.Code == talk.ExitStale {
				refused.Text = "the report " + id + " is there already with other text, or was changed meanwhile: name the " +
					"version you saw with --was (mantilla describe " + id + " tells the present one), or replace whatever is there " +
					"with --force"
			}
			return c.tellDefinition("is in the catalog", r, err)
		},
	}
	put.Flags().BoolVar(&force, "force", false, "replace whatever version is there")
	put.Flags().BoolVar(&untried, "untried", false, "also where figures are not as the definition expects them")
	put.Flags().StringVar(&note, "note", "", "why; it stands beside the version")
	put.Flags().StringVar(&was, "was", "", "version that this one replaces; none for a new report")
	get := &cobra.Command{
		Use:               "get REPORT",
		Short:             "Print a definition as its author wrote it",
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.GetDefinition(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			_, err = io.Copy(c.Out, r.Body)
			return err
		},
	}
	cmd.AddCommand(check, put, get,
		c.Throwing(api.ThrownKindReport, "delete REPORT", "Take a report out of the catalog; its results stay",
			c.CompleteReport,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteReport(cmd.Context(), id)
			}))
	return cmd
}

// readDefinition reads a file, - being standard input, and the id of the
// report that it defines; the service looks at everything else.
func readDefinition(path string) (text []byte, id string, err error) {
	if text, err = talk.ReadText(path); err != nil {
		return nil, "", err
	}
	var head struct {
		Report string `yaml:"report"`
	}
	if err := yaml.Unmarshal(text, &head); err != nil || head.Report == "" {
		head.Report = "unnamed" // the service says what is wrong, with its place
	}
	return text, head.Report, nil
}

func (c *Program) tellDefinition(said string, r api.Report, err error) error {
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(r)
	}
	fmt.Fprintf(c.Out, "%s %s, version %s.\n", r.Id, said, r.Version)
	for _, w := range talk.Deref(r.Warnings) {
		fmt.Fprintln(c.Out, "! "+w)
	}
	return nil
}
