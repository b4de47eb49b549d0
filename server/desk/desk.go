// Package desk answers calls about the desk.
package desk

import (
	"mantilla/server/answer"

	"context"
	"reflect"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/frame"
	"mantilla/library/acting"
	"mantilla/library/desk"
	"mantilla/server/reading"
)

// Desk answers calls about the desk.
type Desk struct{ *answer.Service }

func tileIn(t api.Tile) (out desk.Tile, err error) {
	out = desk.Tile{
		ID:      answer.Value(t.Id),
		Control: t.Control,
		Step:    t.Step,
		Part:    answer.Value(t.Part),
		View:    t.View,
		Show:    string(t.Show),
		Measure: answer.Value(t.Measure),
		Title:   answer.Value(t.Title),
		Width:   answer.Value(t.Width),
		Height:  answer.Value(t.Height),
	}
	if t.Changes != nil {
		out.Changes = reading.ChangesOf(*t.Changes)
	}
	out.Result, err = answer.OptionalNumber("result", "R-", t.Result)
	return out, err
}

// resultOf names the result of a tile that always shows the same.
func resultOf(t desk.Tile) *string {
	if t.Result == 0 {
		return nil
	}
	id := answer.ResultID(t.Result)
	return &id
}

// changesOf is what a tile changes about its view; nil for nothing.
func changesOf(t desk.Tile) *api.Changes {
	if reflect.ValueOf(t.Changes).IsZero() {
		return nil
	}
	c := reading.ChangesOut(t.Changes)
	return &c
}

func deskOut(d desk.Desk) api.Desk {
	out := api.Desk{Kind: api.DeskKind(d.Kind), Owner: d.Owner, Revision: d.Revision, Tiles: []api.Tile{}}
	for _, t := range d.Tiles {
		out.Tiles = append(out.Tiles,
			api.Tile{
				Id:      &t.ID,
				Result:  resultOf(t),
				Changes: changesOf(t),
				Control: t.Control,
				Step:    t.Step,
				Part:    answer.Given(t.Part),
				View:    t.View,
				Show:    api.TileShow(t.Show),
				Measure: answer.Given(t.Measure),
				Title:   answer.Given(t.Title),
				Width:   answer.Given(t.Width),
				Height:  answer.Given(t.Height),
			})
	}
	return out
}

// ListDesks answers GET /desks: the person's own desk and those of their groups.
func (s Desk) ListDesks(ctx context.Context, _ handlers.ListDesksRequestObject) (handlers.ListDesksResponseObject,
	error) {
	all, err := answer.As(ctx).Desk.Desks(ctx)
	out := handlers.ListDesks200JSONResponse{}
	for _, d := range all {
		out = append(out, deskOut(d))
	}
	return out, err
}

// PutDesk answers PUT /desks/{kind}/{owner}: keep a desk as it then is.
func (s Desk) PutDesk(ctx context.Context, r handlers.PutDeskRequestObject) (handlers.PutDeskResponseObject,
	error) {
	seen, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	d := desk.Desk{Kind: string(r.Kind), Owner: r.Owner, Revision: seen}
	for _, t := range *r.Body {
		tile, err := tileIn(t)
		if err != nil {
			return nil, err
		}
		d.Tiles = append(d.Tiles, tile)
	}
	d, err = answer.As(ctx).Desk.PutDesk(ctx, d)
	return handlers.PutDesk200JSONResponse(deskOut(d)), err
}

// ShowTile answers POST /tile: what a tile shows now.
func (s Desk) ShowTile(ctx context.Context, r handlers.ShowTileRequestObject) (handlers.ShowTileResponseObject,
	error) {
	t, err := tileIn(*r.Body)
	if err != nil {
		return nil, err
	}
	now, err := answer.As(ctx).Desk.Show(ctx, t)
	if err != nil {
		return nil, err
	}
	out := handlers.ShowTile200JSONResponse{Title: t.Title}
	if now.Result == nil {
		return out, nil
	}
	acting.On(ctx, "result", answer.ResultID(now.Result.Number))
	said := func(v frame.Value) string { return now.Result.Form().Text(v) }
	id, age := answer.ResultID(now.Result.Number), float32(answer.As(ctx).Desk.Age(now.Result).Seconds())
	out.Result, out.KeptAt, out.Seconds, out.Sentence = &id, answer.Moment(now.Result.KeptAt), &age, &now.Sentence
	if out.Title == "" {
		out.Title = strings.TrimSpace(now.Result.Title + " " + t.Part)
	}
	if t.Show == "figure" {
		out.Label, out.Figure = answer.Given(now.Label), answer.Given(said(now.Figure))
	}
	if now.Before != nil {
		before := answer.ResultID(now.Before.Number)
		out.Before, out.Was = &before, answer.Given(said(now.Was))
		if !now.Change.Null && now.Change.Number.Digits.Sign() != 0 {
			rose := now.Change.Number.Digits.Sign() > 0
			out.Rose = &rose
		}
		out.Change, out.Percent = answer.Given(said(now.Change)), answer.Given(said(now.Percent))
	}
	return out, nil
}
