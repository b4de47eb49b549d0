package cli

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

const noFiles = cobra.ShellCompDirectiveNoFileComp

// completionTime bounds how long a press of the tab key may take.
const completionTime = 2 * time.Second

func fixed(words ...string) cobra.CompletionFunc {
	return func(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) { return words, noFiles }
}

func (c *program) completeCategories(*cobra.Command, []string, string) (names []string, _ cobra.ShellCompDirective) {
	for _, category := range c.offeredCatalog().Categories {
		names = append(names, category.Name)
	}
	return names, noFiles
}

func (c *program) offeredCatalog() api.Catalog {
	ctx, cancel := context.WithTimeout(context.Background(), completionTime)
	defer cancel()
	catalog, _ := fetch[api.Catalog](c,
		func(a *client.Client) (*http.Response, error) { return a.GetCatalog(ctx, &api.GetCatalogParams{}) })
	return catalog
}

func (c *program) completeReport(_ *cobra.Command, given []string, _ string) (ids []string,
	_ cobra.ShellCompDirective) {
	if len(given) > 0 {
		return nil, noFiles
	}
	for _, r := range c.offeredCatalog().Reports {
		ids = append(ids, r.Id+"\t"+r.Title)
	}
	return ids, noFiles
}

// completeRun completes the report, then the names of its parameters, then
// the entries of those that draw on a list.
func (c *program) completeRun(cmd *cobra.Command, given []string, typed string) ([]string, cobra.ShellCompDirective) {
	if len(given) == 0 {
		return c.completeReport(cmd, given, typed)
	}
	ctx, cancel := context.WithTimeout(context.Background(), completionTime)
	defer cancel()
	report, err := c.report(ctx, given[0])
	if err != nil {
		return nil, noFiles
	}
	name, value, hasName := strings.Cut(typed, "=")
	if hasName {
		return c.completeValue(ctx, report, name, value), noFiles
	}
	var names []string
	for _, p := range report.Parameters {
		taken := false
		for _, g := range given[1:] {
			taken = taken || strings.HasPrefix(g, p.Id+"=")
		}
		if !taken {
			names = append(names, p.Id+"=\t"+p.Label)
		}
	}
	return names, noFiles | cobra.ShellCompDirectiveNoSpace
}

func (c *program) completeValue(ctx context.Context, report api.Report, name, value string) (offers []string) {
	for _, p := range report.Parameters {
		if p.Id != name {
			continue
		}
		switch p.Type {
		case api.ParameterTypeFlag:
			return []string{name + "=yes", name + "=no"}
		case api.ParameterTypeRange:
			service, _ := fetch[api.Service](c, func(a *client.Client) (*http.Response, error) { return a.GetService(ctx) })
			for _, preset := range service.Presets {
				// a space would need quotes
				offers = append(offers, name+"="+strings.ReplaceAll(preset.Name, " ", "_")+"\t"+preset.Says)
			}
		case api.ParameterTypeUnit, api.ParameterTypeEntity, api.ParameterTypeChoice:
			most := 40
			list, _ := fetch[[]api.Entry](c, func(a *client.Client) (*http.Response, error) {
				return a.GetEntries(ctx, report.Id, name, &api.GetEntriesParams{Search: &value, Limit: &most})
			})
			for _, e := range list {
				offers = append(offers, name+"="+e.Code+"\t"+e.Label)
			}
		}
	}
	return offers
}

func (c *program) completeRunning(*cobra.Command, []string, string) (ids []string, _ cobra.ShellCompDirective) {
	ctx, cancel := context.WithTimeout(context.Background(), completionTime)
	defer cancel()
	for _, state := range []api.State{api.StateRunning, api.StateWaiting} {
		runs, _ := fetch[[]api.Run](c, func(a *client.Client) (*http.Response, error) {
			return a.ListRuns(ctx, &api.ListRunsParams{State: &state})
		})
		for _, r := range runs {
			ids = append(ids, r.Id+"\t"+r.Title)
		}
	}
	return ids, noFiles
}

func (c *program) completeResult(*cobra.Command, []string, string) (ids []string, _ cobra.ShellCompDirective) {
	ctx, cancel := context.WithTimeout(context.Background(), completionTime)
	defer cancel()
	most := 30
	results, _ := fetch[[]api.ResultLine](c, func(a *client.Client) (*http.Response, error) {
		return a.ListResults(ctx, &api.ListResultsParams{Limit: &most})
	})
	for _, r := range results {
		ids = append(ids, r.Id+"\t"+r.Title+": "+r.Sentence)
	}
	return ids, noFiles
}

// completeCriteria completes the names of criteria of the report given before.
func (c *program) completeCriteria(_ *cobra.Command, given []string, _ string) (names []string,
	_ cobra.ShellCompDirective) {
	if len(given) == 0 {
		return nil, noFiles
	}
	ctx, cancel := context.WithTimeout(context.Background(), completionTime)
	defer cancel()
	all, _ := c.criteriaOf(ctx, given[0], "")
	for _, k := range all {
		names = append(names, k.Id+"\t"+k.Name+": "+k.Sentence)
	}
	return names, noFiles
}
