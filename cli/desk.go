package cli

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

func deskCommand(c *program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "desk",
		Short: "Show the figures of your desk and of those you share; put or take away a tile",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			desks, err := c.desks(cmd.Context())
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(desks)
			}
			t := table{
				headings: []string{"Desk", "Tile", "What", "Figure", "Change", "Result", "Kept", "Title"},
				right:    []bool{3: true, 4: true, 7: false},
			}
			for _, d := range desks {
				for _, tile := range d.Tiles {
					now, err := fetch[api.TileNow](c,
						func(a *client.Client) (*http.Response, error) { return a.ShowTile(cmd.Context(), tile) })
					if err != nil {
						return err
					}
					kept := "never ran"
					if now.KeptAt != nil {
						kept = c.at(*now.KeptAt)
					}
					change := deref(now.Change)
					if p := deref(now.Percent); p != "" {
						change += " (" + p + " %)"
					}
					t.rows = append(t.rows,
						[]string{d.Owner, deref(tile.Id), string(tile.Show), deref(now.Figure), change, deref(now.Result), kept,
							strings.TrimSpace(now.Title + " " + deref(now.Label))})
				}
			}
			_, err = c.draw(&t)
			return err
		},
	}
	cmd.AddCommand(putTileCommand(c), takeTileCommand(c))
	return cmd
}

func (c *program) desks(ctx context.Context) ([]api.Desk, error) {
	return fetch[[]api.Desk](c, func(a *client.Client) (*http.Response, error) { return a.ListDesks(ctx) })
}

// changeDesk changes the person's own desk, or that of a group.
func (c *program) changeDesk(ctx context.Context, group string, change func([]api.Tile) ([]api.Tile, error)) error {
	desks, err := c.desks(ctx)
	if err != nil {
		return err
	}
	at := 0
	if group != "" {
		if at = slices.IndexFunc(desks, func(d api.Desk) bool { return d.Kind == "group" && d.Owner == group }); at < 0 {
			return usage("you are not in the group %q", group)
		}
	}
	tiles, err := change(desks[at].Tiles)
	if err != nil {
		return err
	}
	params := &api.PutDeskParams{}
	if desks[at].Revision > 0 {
		revision := fmt.Sprint(desks[at].Revision)
		params.IfMatch = &revision
	}
	return c.done("The desk is kept.", func(a *client.Client) (*http.Response, error) {
		return a.PutDesk(ctx, string(desks[at].Kind), desks[at].Owner, params, tiles)
	})
}

func putTileCommand(c *program) *cobra.Command {
	var tile api.Tile
	var part, measure, title, group, show string
	cmd := &cobra.Command{
		Use:     "put CONTROL VIEW",
		Short:   "Put a view of a run control's latest result on the desk",
		Example: `  mantilla desk put month-end by_district --part Hollin --measure value`,
		Args:    args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			tile.Control, tile.View, tile.Show = given[0], given[1], api.TileShow(show)
			tile.Part, tile.Measure, tile.Title = word[string](part), word[string](measure), word[string](title)
			return c.changeDesk(cmd.Context(), group,
				func(tiles []api.Tile) ([]api.Tile, error) { return append(tiles, tile), nil })
		},
	}
	f := cmd.Flags()
	f.IntVar(&tile.Step, "report", 1, "which of the run control's reports")
	f.StringVar(&part, "part", "", "which part of one that is split")
	f.StringVar(&show, "show", "figure", "figure, chart or table")
	f.StringVar(&measure, "measure", "", "of a figure: a column with a total, or a formula such as sum(value)")
	f.StringVar(&title, "title", "", "title; otherwise the report's")
	f.StringVar(&group, "group", "", "put it on the desk of this group")
	must(cmd.RegisterFlagCompletionFunc("show", fixed("figure", "chart", "table")))
	return cmd
}

func takeTileCommand(c *program) *cobra.Command {
	var group string
	cmd := &cobra.Command{
		Use:   "remove TILE",
		Short: "Take a tile off the desk",
		Args:  args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.changeDesk(cmd.Context(), group, func(tiles []api.Tile) ([]api.Tile, error) {
				at := slices.IndexFunc(tiles, func(t api.Tile) bool { return deref(t.Id) == given[0] })
				if at < 0 {
					return nil, usage("the desk has no tile %s; see mantilla desk", given[0])
				}
				return slices.Delete(tiles, at, at+1), nil
			})
		},
	}
	cmd.Flags().StringVar(&group, "group", "", "of the desk of this group")
	return cmd
}
