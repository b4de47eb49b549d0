package reading

import (
	"context"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// CompleteResult offers the newest results.
func (c *Program) CompleteResult(*cobra.Command, []string, string) (ids []string, _ cobra.ShellCompDirective) {
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	most := 30
	results, _ := talk.Fetch[[]api.ResultLine](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.ListResults(ctx, &api.ListResultsParams{Limit: &most})
	})
	for _, r := range results {
		ids = append(ids, r.Id+"\t"+r.Title+": "+r.Sentence)
	}
	return ids, talk.NoFiles
}

// completeView offers the views of the result that was given, kept ones too.
func (c *Program) completeView(_ *cobra.Command, given []string, _ string) (ids []string, _ cobra.ShellCompDirective) {
	if len(given) == 0 {
		return nil, talk.NoFiles
	}
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	x, err := c.result(ctx, given[0])
	if err != nil {
		return nil, talk.NoFiles
	}
	for _, v := range x.Views {
		ids = append(ids, v.Id+"\t"+v.Title)
	}
	kept, _ := talk.Fetch[[]api.KeptView](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListKeptViews(ctx, x.Report) })
	for _, v := range kept {
		ids = append(ids, v.Id+"\t"+v.Name)
	}
	return ids, talk.NoFiles
}

// completeColumns offers the columns of the view, after what was typed of a
// list; before and after stand around each name.
func (c *Program) completeColumns(before, after string) cobra.CompletionFunc {
	return func(cmd *cobra.Command, given []string, typed string) (names []string, _ cobra.ShellCompDirective) {
		if len(given) == 0 {
			return nil, talk.NoFiles
		}
		ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
		defer cancel()
		view, err := cmd.Flags().GetString("view")
		if err != nil || view == "" {
			view = "*"
		}
		s, err := c.sheet(ctx, given[0], view, 1, 0, false, Reading{})
		if err != nil {
			return nil, talk.NoFiles
		}
		list := typed[:strings.LastIndexByte(typed, ',')+1]
		for _, column := range s.Available {
			names = append(names, list+before+column.Id+after+"\t"+column.Heading)
		}
		return names, talk.NoFiles | cobra.ShellCompDirectiveNoSpace
	}
}
