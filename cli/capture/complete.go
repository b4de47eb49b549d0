package capture

import (
	"context"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// completeRun completes the report, then the names of its parameters, then
// the entries of those that draw on a list.
func (c *Program) completeRun(cmd *cobra.Command, given []string, typed string) ([]string, cobra.ShellCompDirective) {
	if len(given) == 0 {
		return catalog.Of(c.Program).CompleteReport(cmd, given, typed)
	}
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	report, err := catalog.Of(c.Program).Report(ctx, given[0])
	if err != nil {
		return nil, talk.NoFiles
	}
	name, value, hasName := strings.Cut(typed, "=")
	if hasName {
		return c.completeValue(ctx, report, name, value), talk.NoFiles
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
	return names, talk.NoFiles | cobra.ShellCompDirectiveNoSpace
}

func (c *Program) completeValue(ctx context.Context, report api.Report, name, value string) (offers []string) {
	for _, p := range report.Parameters {
		if p.Id != name {
			continue
		}
		switch p.Type {
		case api.ParameterTypeFlag:
			return []string{name + "=yes", name + "=no"}
		case api.ParameterTypeRange:
			service, _ := talk.Fetch[api.Service](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetService(ctx) })
			for _, preset := range service.Presets {
				// a space would need quotes
				offers = append(offers, name+"="+strings.ReplaceAll(preset.Name, " ", "_")+"\t"+preset.Says)
			}
		case api.ParameterTypeUnit, api.ParameterTypeEntity, api.ParameterTypeChoice:
			most := 40
			list, _ := talk.Fetch[[]api.Entry](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.GetEntries(ctx, report.Id, name, &api.GetEntriesParams{Search: &value, Limit: &most})
			})
			for _, e := range list {
				offers = append(offers, name+"="+e.Code+"\t"+e.Label)
			}
		}
	}
	return offers
}

func (c *Program) completeRunning(*cobra.Command, []string, string) (ids []string, _ cobra.ShellCompDirective) {
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	for _, state := range []api.State{api.StateRunning, api.StateWaiting} {
		runs, _ := talk.Fetch[[]api.Run](c.Program, func(a *client.Client) (*http.Response, error) {
			return a.ListRuns(ctx, &api.ListRunsParams{State: &state})
		})
		for _, r := range runs {
			ids = append(ids, r.Id+"\t"+r.Title)
		}
	}
	return ids, talk.NoFiles
}
