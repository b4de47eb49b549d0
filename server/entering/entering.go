// Package entering answers calls about what people type in beside the rows of results.
package entering

import (
	"context"
	"io"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/entries"
	"mantilla/library/entering"
	"mantilla/model"
	"mantilla/server/answer"
)

// Entering answers calls about what people type in.
type Entering struct{ *answer.Service }

// ListEntries answers GET /results/{result}/entries.
func (s Entering) ListEntries(ctx context.Context,
	r handlers.ListEntriesRequestObject) (handlers.ListEntriesResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	sheet, err := answer.As(ctx).Entering.Entries(ctx, number, answer.Value(r.Params.Dataset))
	if err != nil {
		return nil, err
	}
	out := handlers.ListEntries200JSONResponse{Dataset: sheet.Dataset, Key: sheet.Key, Columns: []api.EntryColumn{},
		Entries: []api.EntryOf{}}
	for _, c := range sheet.Columns {
		e := c.Entry
		out.Columns = append(out.Columns, api.EntryColumn{Id: c.ID, Label: c.Label, Type: c.Kind.String(),
			Options: answer.List(e.Options), Least: answer.Given(e.Least), Most: answer.Given(e.Most),
			About: answer.Given(c.About), Closed: answer.Given(c.Closed)})
	}
	for _, e := range sheet.Entries {
		one := entry(e.Entry)
		if e.Row >= 0 {
			one.Row = &e.Row
		}
		out.Entries = append(out.Entries, one)
	}
	return out, nil
}

func entry(e model.Entry) api.EntryOf {
	return api.EntryOf{Number: e.Number, Column: e.Column, Key: entries.Parts(e.Key), Value: e.Value, Person: e.Person,
		At: e.At, Says: answer.Given(e.Says), Way: api.EntryOfWay(e.Way)}
}

func all(kept []model.Entry) []api.EntryOf {
	out := []api.EntryOf{}
	for _, e := range kept {
		out = append(out, entry(e))
	}
	return out
}

// PutEntries answers POST /results/{result}/entries.
func (s Entering) PutEntries(ctx context.Context,
	r handlers.PutEntriesRequestObject) (handlers.PutEntriesResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	c := entering.Change{Dataset: answer.Value(r.Params.Dataset), Says: answer.Value(r.Body.Says), Way: model.WayTyped}
	if r.Body.Way != nil {
		c.Way = string(*r.Body.Way)
	}
	for _, cell := range r.Body.Cells {
		one := entering.Cell{Column: cell.Column, Row: cell.Row, Value: cell.Value, Seen: cell.Seen}
		if cell.Key != nil {
			one.Key = *cell.Key
		}
		c.Cells = append(c.Cells, one)
	}
	kept, err := answer.As(ctx).Entering.Put(ctx, number, c)
	if err != nil {
		return nil, err
	}
	return handlers.PutEntries200JSONResponse(all(kept)), nil
}

// UndoEntries answers POST /results/{result}/entries/undo.
func (s Entering) UndoEntries(ctx context.Context,
	r handlers.UndoEntriesRequestObject) (handlers.UndoEntriesResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	kept, err := answer.As(ctx).Entering.Undo(ctx, number, answer.Value(r.Params.Dataset))
	if err != nil {
		return nil, err
	}
	return handlers.UndoEntries200JSONResponse(all(kept)), nil
}

// PutEntriesFile answers POST /results/{result}/entries/file.
func (s Entering) PutEntriesFile(ctx context.Context,
	r handlers.PutEntriesFileRequestObject) (handlers.PutEntriesFileResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	data, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "file", Err: err}
	}
	kept, err := answer.As(ctx).Entering.PutFile(ctx, number, answer.Value(r.Params.Dataset), answer.Value(r.Params.Says),
		data)
	if err != nil {
		return nil, err
	}
	return handlers.PutEntriesFile200JSONResponse(all(kept)), nil
}

// ListCellEntries answers GET /results/{result}/entries/cell.
func (s Entering) ListCellEntries(ctx context.Context,
	r handlers.ListCellEntriesRequestObject) (handlers.ListCellEntriesResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	kept, err := answer.As(ctx).Entering.Cell(ctx, number, answer.Value(r.Params.Dataset), r.Params.Column, r.Params.Row)
	if err != nil {
		return nil, err
	}
	return handlers.ListCellEntries200JSONResponse(all(kept)), nil
}
