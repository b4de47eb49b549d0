package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"mantilla/api"
	"mantilla/api/client"
)

func catalogCommand(c *program) *cobra.Command {
	var category string
	cmd := &cobra.Command{
		Use:   "catalog [WORD...]",
		Short: "List the reports, or search them",
		Long:  "List the reports of the catalog. Words search titles, categories and purposes; slips of typing are forgiven.",
		RunE: func(cmd *cobra.Command, words []string) error {
			search := strings.Join(words, " ")
			catalog, err := fetch[api.Catalog](c, func(a *client.Client) (*http.Response, error) {
				return a.GetCatalog(cmd.Context(), &api.GetCatalogParams{Search: &search, Category: &category})
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(catalog)
			}
			return c.printCatalog(catalog)
		},
	}
	cmd.Flags().StringVar(&category, "category", "", "only this category")
	must(cmd.RegisterFlagCompletionFunc("category", c.completeCategories))
	return cmd
}

func (c *program) printCatalog(catalog api.Catalog) error {
	if len(catalog.Reports) == 0 {
		fmt.Fprintln(c.out, "No report meets the search.")
		return nil
	}
	t := table{
		headings: []string{"Report", "Category", "Depth", "Last run", "Took", "Title"},
		right:    []bool{false, false, false, false, true, false},
	}
	for _, r := range catalog.Reports {
		last, took := "never", ""
		if r.LastRun != nil {
			last, took = c.at(*r.LastRun), seconds(*r.LastSeconds)
		}
		title := r.Title
		if r.Broken != nil {
			title += ", cannot be read: " + strings.Join(strings.Fields(*r.Broken), " ")
		}
		t.rows = append(t.rows, []string{r.Id, r.Category, r.Depth, last, took, title})
	}
	_, err := c.draw(&t)
	return err
}

func seconds(s float64) string {
	switch {
	case s < 1:
		return strconv.FormatFloat(s*1000, 'f', 0, 64) + " ms"
	case s < 60:
		return strconv.FormatFloat(s, 'f', 1, 64) + " s"
	}
	return time.Duration(s * float64(time.Second)).Round(time.Second).String()
}

func describeCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:               "describe REPORT",
		Short:             "Tell what a report is for and how to fill it in",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.report(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(r)
			}
			c.describe(r)
			return nil
		},
	}
}

func (c *program) report(ctx context.Context, id string) (api.Report, error) {
	return fetch[api.Report](c, func(a *client.Client) (*http.Response, error) { return a.GetReport(ctx, id) })
}

func (c *program) describe(r api.Report) {
	w := c.out
	fmt.Fprintf(w, "%s (%s)\n%s, %s\n\n%s\n", r.Title, r.Id, r.Category, r.Depth, r.About)
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
	fmt.Fprintf(w, "Version     %.12s, since %s\n", r.Version, c.at(r.Versions[0].At))
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
		said = append(said, "may be compared: ... against year before and previous period")
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

func definitionCommand(c *program) *cobra.Command {
	cmd := &cobra.Command{Use: "definition", Short: "Check, put and get the definitions of reports"}
	check := &cobra.Command{
		Use:   "check FILE",
		Short: "Check a definition and list everything that is wrong with it",
		Args:  args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, _, err := readDefinition(given[0])
			if err != nil {
				return err
			}
			r, err := fetch[api.Report](c, func(a *client.Client) (*http.Response, error) {
				return a.CheckDefinitionWithBody(cmd.Context(), yamlType, bytes.NewReader(text))
			})
			return c.tellDefinition("is right", r, err)
		},
	}
	var force bool
	var was string
	put := &cobra.Command{
		Use:   "put FILE",
		Short: "Take a definition into the catalog",
		Long: `Take a definition into the catalog as the present version of its report.
The change is refused when the report was changed since --was.`,
		Args: args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if force {
				was = "*"
			}
			text, id, err := readDefinition(given[0])
			if err != nil {
				return err
			}
			params := &api.PutDefinitionParams{}
			if was != "" {
				params.IfMatch = &was
			}
			r, err := fetch[api.Report](c, func(a *client.Client) (*http.Response, error) {
				return a.PutDefinitionWithBody(cmd.Context(), id, params, yamlType, bytes.NewReader(text))
			})
			var refused *coded
			if errors.As(err, &refused) && refused.code == exitStale {
				refused.text = "the report " + id + " is there already with other text, or was changed meanwhile: name the " +
					"version you saw with --was (mantilla describe " + id + " tells the present one), or replace whatever is there " +
					"with --force"
			}
			return c.tellDefinition("is in the catalog", r, err)
		},
	}
	put.Flags().BoolVar(&force, "force", false, "replace whatever version is there")
	put.Flags().StringVar(&was, "was", "", "version that this one replaces; none for a new report")
	get := &cobra.Command{
		Use:               "get REPORT",
		Short:             "Print a definition as its author wrote it",
		Args:              args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.completeReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.send(func(a *client.Client) (*http.Response, error) { return a.GetDefinition(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			_, err = io.Copy(c.out, r.Body)
			return err
		},
	}
	cmd.AddCommand(check, put, get,
		c.removing("delete REPORT", "Take a report out of the catalog; its results stay", c.completeReport,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteReport(cmd.Context(), id)
			}))
	return cmd
}

const yamlType = "application/yaml"

// readText reads a file, - being standard input.
func readText(path string) (text []byte, err error) {
	if path == "-" {
		text, err = io.ReadAll(os.Stdin)
	} else {
		text, err = os.ReadFile(path)
	}
	if err != nil {
		return nil, usage("%v", err)
	}
	return text, nil
}

// readDefinition reads a file, - being standard input, and the id of the
// report that it defines; the service looks at everything else.
func readDefinition(path string) (text []byte, id string, err error) {
	if text, err = readText(path); err != nil {
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

func (c *program) tellDefinition(said string, r api.Report, err error) error {
	if err != nil {
		return err
	}
	if c.json() {
		return c.printJSON(r)
	}
	fmt.Fprintf(c.out, "%s %s, version %s.\n", r.Id, said, r.Version)
	for _, w := range deref(r.Warnings) {
		fmt.Fprintln(c.out, "! "+w)
	}
	return nil
}
