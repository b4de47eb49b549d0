package desk

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// DeskCommand makes the command desk: show the figures of your desk and of those you share; put or take away a tile.
func DeskCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "desk",
		Short: "Show the figures of your desk and of those you share; put or take away a tile",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			desks, err := c.desks(cmd.Context())
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(desks)
			}
			t := talk.Table{
				Headings: []string{"Desk", "Tile", "What", "Figure", "Change", "Result", "Kept", "Title"},
				Right:    []bool{3: true, 4: true, 7: false},
			}
			for _, d := range desks {
				for _, tile := range d.Tiles {
					now, err := talk.Fetch[api.TileNow](c.Program,
						func(a *client.Client) (*http.Response, error) { return a.ShowTile(cmd.Context(), tile) })
					if err != nil {
						return err
					}
					kept := "never ran"
					if now.KeptAt != nil {
						kept = c.At(*now.KeptAt)
					}
					change := talk.Deref(now.Change)
					if p := talk.Deref(now.Percent); p != "" {
						change += " (" + p + " %)"
					}
					t.Rows = append(t.Rows,
						[]string{d.Owner, talk.Deref(tile.Id), string(tile.Show), talk.Deref(now.Figure), change, talk.Deref(now.Result),
							kept,
							strings.TrimSpace(now.Title + " " + talk.Deref(now.Label))})
				}
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(putTileCommand(c), takeTileCommand(c))
	return cmd
}

func (c *Program) desks(ctx context.Context) ([]api.Desk, error) {
	return talk.Fetch[[]api.Desk](c.Program, func(a *client.Client) (*http.Response, error) { return a.ListDesks(ctx) })
}

// changeDesk changes the person's own desk, or that of a group.
func (c *Program) changeDesk(ctx context.Context, group string, change func([]api.Tile) ([]api.Tile, error)) error {
	desks, err := c.desks(ctx)
	if err != nil {
		return err
	}
	at := 0
	if group != "" {
		if at = slices.IndexFunc(desks, func(d api.Desk) bool { return d.Kind == "group" && d.Owner == group }); at < 0 {
			return talk.Usage("you are not in the group %q", group)
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
	return c.Done("The desk is kept.", func(a *client.Client) (*http.Response, error) {
		return a.PutDesk(ctx, string(desks[at].Kind), desks[at].Owner, params, tiles)
	})
}

// putTileCommand makes the command put: put a view of a run control's latest result on the desk.
func putTileCommand(c *Program) *cobra.Command {
	var tile api.Tile
	var part, measure, title, group, show, size string
	cmd := &cobra.Command{
		Use:   "put CONTROL|RESULT VIEW",
		Short: "Put a view of a run control's latest result, or of a result that stays, on the desk",
		Example: `  mantilla desk put month-end by_district --part Hollin --measure value
  mantilla desk put R-000019 changes --show table`,
		Args: talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			tile.Control, tile.View, tile.Show = given[0], given[1], api.TileShow(show)
			if strings.HasPrefix(given[0], "R-") {
				tile.Result, tile.Control, tile.Step = &given[0], "", 0
			}
			if err := sized(&tile, size); err != nil {
				return err
			}
			tile.Part, tile.Measure, tile.Title = talk.Word[string](part), talk.Word[string](measure), talk.Word[string](title)
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
	f.StringVar(&size, "size", "", "quarters of the desk across and lines down, such as 2x1; otherwise as it suits")
	f.StringVar(&group, "group", "", "put it on the desk of this group")
	talk.Must(cmd.RegisterFlagCompletionFunc("show", talk.Fixed("figure", "chart", "table")))
	return cmd
}

// sized gives a tile the size 2x1.
func sized(t *api.Tile, size string) error {
	if size == "" {
		return nil
	}
	var across, down int
	if n, err := fmt.Sscanf(size, "%dx%d", &across, &down); n != 2 || err != nil {
		return talk.Usage("%q is no size; write it as 2x1, two quarters of the desk across and one line down", size)
	}
	t.Width, t.Height = &across, &down
	return nil
}

// takeTileCommand makes the command remove: take a tile off the desk.
func takeTileCommand(c *Program) *cobra.Command {
	var group string
	cmd := &cobra.Command{
		Use:   "remove TILE",
		Short: "Take a tile off the desk",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.changeDesk(cmd.Context(), group, func(tiles []api.Tile) ([]api.Tile, error) {
				at := slices.IndexFunc(tiles, func(t api.Tile) bool { return talk.Deref(t.Id) == given[0] })
				if at < 0 {
					return nil, talk.Usage("the desk has no tile %s; see mantilla desk", given[0])
				}
				return slices.Delete(tiles, at, at+1), nil
			})
		},
	}
	cmd.Flags().StringVar(&group, "group", "", "of the desk of this group")
	return cmd
}
