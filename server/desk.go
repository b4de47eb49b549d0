package server

import (
	"context"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/frame"
	"mantilla/core/shown"
	"mantilla/library/desk"
)

func tileIn(t api.Tile) desk.Tile {
	return desk.Tile{
		ID:      value(t.Id),
		Control: t.Control,
		Step:    t.Step,
		Part:    value(t.Part),
		View:    t.View,
		Show:    string(t.Show),
		Measure: value(t.Measure),
		Title:   value(t.Title),
		Wide:    value(t.Wide),
	}
}

func deskOut(d desk.Desk) api.Desk {
	out := api.Desk{Kind: api.DeskKind(d.Kind), Owner: d.Owner, Revision: d.Revision, Tiles: []api.Tile{}}
	for _, t := range d.Tiles {
		out.Tiles = append(out.Tiles,
			api.Tile{
				Id:      &t.ID,
				Control: t.Control,
				Step:    t.Step,
				Part:    given1(t.Part),
				View:    t.View,
				Show:    api.TileShow(t.Show),
				Measure: given1(t.Measure),
				Title:   given1(t.Title),
				Wide:    truth(t.Wide),
			})
	}
	return out
}

func (s *service) ListDesks(ctx context.Context, _ handlers.ListDesksRequestObject) (handlers.ListDesksResponseObject,
	error) {
	all, err := as(ctx).Desk.Desks(ctx)
	out := handlers.ListDesks200JSONResponse{}
	for _, d := range all {
		out = append(out, deskOut(d))
	}
	return out, err
}

func (s *service) PutDesk(ctx context.Context, r handlers.PutDeskRequestObject) (handlers.PutDeskResponseObject,
	error) {
	seen, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	d := desk.Desk{Kind: string(r.Kind), Owner: r.Owner, Revision: seen}
	for _, t := range *r.Body {
		d.Tiles = append(d.Tiles, tileIn(t))
	}
	d, err = as(ctx).Desk.PutDesk(ctx, d)
	return handlers.PutDesk200JSONResponse(deskOut(d)), err
}

func (s *service) ShowTile(ctx context.Context, r handlers.ShowTileRequestObject) (handlers.ShowTileResponseObject,
	error) {
	t := tileIn(*r.Body)
	now, err := as(ctx).Desk.Show(ctx, t)
	if err != nil {
		return nil, err
	}
	out := handlers.ShowTile200JSONResponse{Title: t.Title}
	if now.Result == nil {
		return out, nil
	}
	said := func(v frame.Value) string { return shown.Text(v, now.Result.Zone()) }
	id, age := resultID(now.Result.Number), float32(as(ctx).Desk.Age(now.Result).Seconds())
	out.Result, out.KeptAt, out.Seconds, out.Sentence = &id, moment(now.Result.KeptAt), &age, &now.Sentence
	if out.Title == "" {
		out.Title = strings.TrimSpace(now.Result.Title + " " + t.Part)
	}
	if t.Show == "figure" {
		out.Label, out.Figure = given1(now.Label), given1(said(now.Figure))
	}
	if now.Before != nil {
		before := resultID(now.Before.Number)
		out.Before, out.Was = &before, given1(said(now.Was))
		if !now.Change.Null && now.Change.Number.Digits.Sign() != 0 {
			rose := now.Change.Number.Digits.Sign() > 0
			out.Rose = &rose
		}
		out.Change, out.Percent = given1(said(now.Change)), given1(said(now.Percent))
	}
	return out, nil
}
