package catalog

import (
	"context"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

func (c *Program) completeCategories(*cobra.Command, []string, string) (names []string, _ cobra.ShellCompDirective) {
	for _, category := range c.offeredCatalog().Categories {
		names = append(names, category.Name)
	}
	return names, talk.NoFiles
}

func (c *Program) offeredCatalog() api.Catalog {
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	catalog, _ := talk.Fetch[api.Catalog](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetCatalog(ctx, &api.GetCatalogParams{}) })
	return catalog
}

// CompleteReport offers the ids of reports.
func (c *Program) CompleteReport(_ *cobra.Command, given []string, _ string) (ids []string,
	_ cobra.ShellCompDirective) {
	if len(given) > 0 {
		return nil, talk.NoFiles
	}
	for _, r := range c.offeredCatalog().Reports {
		ids = append(ids, r.Id+"\t"+r.Title)
	}
	return ids, talk.NoFiles
}
