package cli

import (
	"context"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

// completeView offers the views of the result that was given, kept ones too.
func (c *program) completeView(_ *cobra.Command, given []string, _ string) (ids []string, _ cobra.ShellCompDirective) {
	if len(given) == 0 {
		return nil, noFiles
	}
	ctx, cancel := context.WithTimeout(context.Background(), completionTime)
	defer cancel()
	x, err := c.result(ctx, given[0])
	if err != nil {
		return nil, noFiles
	}
	for _, v := range x.Views {
		ids = append(ids, v.Id+"\t"+v.Title)
	}
	kept, _ := fetch[[]api.KeptView](c,
		func(a *client.Client) (*http.Response, error) { return a.ListKeptViews(ctx, x.Report) })
	for _, v := range kept {
		ids = append(ids, v.Id+"\t"+v.Name)
	}
	return ids, noFiles
}

// completeColumns offers the columns of the view, after what was typed of a
// list; before and after stand around each name.
func (c *program) completeColumns(before, after string) cobra.CompletionFunc {
	return func(cmd *cobra.Command, given []string, typed string) (names []string, _ cobra.ShellCompDirective) {
		if len(given) == 0 {
			return nil, noFiles
		}
		ctx, cancel := context.WithTimeout(context.Background(), completionTime)
		defer cancel()
		view, err := cmd.Flags().GetString("view")
		if err != nil || view == "" {
			view = "*"
		}
		s, err := c.sheet(ctx, given[0], view, 1, 0, false, reading{})
		if err != nil {
			return nil, noFiles
		}
		list := typed[:strings.LastIndexByte(typed, ',')+1]
		for _, column := range s.Available {
			names = append(names, list+before+column.Id+after+"\t"+column.Heading)
		}
		return names, noFiles | cobra.ShellCompDirectiveNoSpace
	}
}
