package server

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/url"
	"strconv"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/ask"
	"mantilla/core/formula"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/library/reading"
)

// changes reads what a reader changed about a view from the query, which all
// operations on views have alike.
func changes(ctx context.Context) (c ask.Changes, err error) {
	return changesIn(of(ctx).url.Query())
}

func changesIn(q url.Values) (c ask.Changes, err error) {
	c = ask.Changes{Columns: q["column"], Add: q["add"], Group: q["group"], Sort: q["sort"], Filters: q["filter"],
		Down: q["down"], Across: q["across"],
		Cells: q["cell"], Show: q.Get("show"), Drawn: q.Get("drawn"), Names: q.Get("names"), Zeros: q.Get("zeros"),
		Fold: q["fold"]}
	if c.Open, err = whole(q, "open"); err == nil {
		c.Limit, err = whole(q, "most")
	}
	return c, err
}

func whole(q url.Values, name string) (*int, error) {
	if !q.Has(name) {
		return nil, nil
	}
	n, err := strconv.Atoi(q.Get(name))
	if err != nil || n < 0 {
		return nil, &badRequest{name, fmt.Errorf("%q is not a whole number", q.Get(name))}
	}
	return &n, nil
}

// reading finds a view of a result with what the query changes about it.
func (s *service) reading(ctx context.Context, result, view string) (*reading.Result, *reading.Reading, error) {
	x, err := s.result(ctx, result)
	if err != nil {
		return nil, nil, err
	}
	c, err := changes(ctx)
	if err != nil {
		return nil, nil, err
	}
	read, err := as(ctx).Reading.Read(ctx, x, view, c)
	return x, read, err
}

func (s *service) laid(ctx context.Context, result, view string) (*reading.Result, *reading.Reading, *sheet.Sheet,
	error) {
	x, read, err := s.reading(ctx, result, view)
	if err != nil {
		return nil, nil, nil, err
	}
	laid, err := read.Lay(ctx)
	return x, read, laid, err
}

func (s *service) ReadView(ctx context.Context, r handlers.ReadViewRequestObject) (handlers.ReadViewResponseObject,
	error) {
	x, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	tag := viewTag(ctx, x, read, s.library.Calendar().Today.String())
	if of(ctx).has(tag) {
		return notModified(tag), nil
	}
	laid, err := read.Lay(ctx)
	if err != nil {
		return nil, err
	}
	w := window{value(r.Params.First), or(r.Params.Count, 100), value(r.Params.FirstColumn), or(r.Params.ColumnCount, 200),
		value(r.Params.Plain)}
	body, err := s.sheet(ctx, x, read, laid, w)
	return handlers.ReadView200JSONResponse{Body: body, Headers: handlers.ReadView200ResponseHeaders{ETag: &tag}}, err
}

// viewTag identifies an answer: a sealed result laid out the same way on the
// same day is always the same, and so is a kept view until it is changed.
func viewTag(ctx context.Context, x *reading.Result, read *reading.Reading, today string) string {
	kept := ""
	if read.Kept != nil {
		kept = fmt.Sprint(read.Kept.Revision)
	}
	sum := sha256.Sum256([]byte(x.Manifest.Seal + today + kept + of(ctx).url.String()))
	return quoted(hex.EncodeToString(sum[:16]))
}

func (s *service) OpenFigure(ctx context.Context,
	r handlers.OpenFigureRequestObject) (handlers.OpenFigureResponseObject, error) {
	x, read, laid, err := s.laid(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	o, err := laid.Open(ctx, sheet.Cell{
		Path:   value(r.Params.Path),
		Across: value(r.Params.AcrossPath),
		Column: value(r.Params.Of),
	})
	if err != nil {
		return nil, &badRequest{"path", err}
	}
	out := handlers.OpenFigure200JSONResponse{View: read.Dataset.ID + ".rows", Filters: list(o.Filters), Says: o.Says,
		Column: given1(o.Column), Label: o.Label,
		Before: shown.Text(o.Before, x.Zone()), After: shown.Text(o.After, x.Zone()), Agree: o.Agree(), Rows: o.Rows}
	for _, b := range o.By {
		by := struct {
			Groups *int   `json:"groups,omitempty"`
			Label  string `json:"label"`
			Text   string `json:"text"`
		}{Label: b.Label, Text: b.Text}
		if b.Groups > 0 {
			by.Groups = &b.Groups
		}
		out.By = append(out.By, by)
	}
	out.By = list(out.By)
	return out, nil
}

func (s *service) ListColumnValues(ctx context.Context,
	r handlers.ListColumnValuesRequestObject) (handlers.ListColumnValuesResponseObject, error) {
	_, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	v, err := read.Values(ctx, r.Params.Of, value(r.Params.Search), limit(r.Params.Limit))
	if err != nil {
		return nil, err
	}
	out := handlers.ListColumnValues200JSONResponse{
		Kind:  v.Field.Kind.String(),
		Of:    v.Of,
		Empty: v.Empty,
		Low:   v.Low.String(),
		High:  v.High.String(),
	}
	for _, item := range v.Items {
		out.Items = append(out.Items, struct {
			Filter string `json:"filter"`
			Rows   int    `json:"rows"`
			Text   string `json:"text"`
		}{item.Filter[len(r.Params.Of)+1:], item.Rows, item.Text})
	}
	out.Items = list(out.Items)
	return out, nil
}

func (s *service) FindText(ctx context.Context, r handlers.FindTextRequestObject) (handlers.FindTextResponseObject,
	error) {
	_, _, laid, err := s.laid(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	f, err := laid.Find(ctx, r.Params.Text, value(r.Params.From), value(r.Params.Back))
	return handlers.FindText200JSONResponse{Line: f.Line, Column: f.Column, At: f.At, Of: f.Of}, err
}

// mostOutlined is how many groups an outline lists.
const mostOutlined = 1000

func (s *service) ReadOutline(ctx context.Context,
	r handlers.ReadOutlineRequestObject) (handlers.ReadOutlineResponseObject, error) {
	_, _, laid, err := s.laid(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	out := handlers.ReadOutline200JSONResponse{}
	groups, more := laid.Outline(mostOutlined)
	for _, g := range groups {
		out.Groups = append(out.Groups, struct {
			Level int    `json:"level"`
			Line  int    `json:"line"`
			Name  string `json:"name"`
			Path  string `json:"path"`
			Size  int    `json:"size"`
		}{g.Level, g.Line, g.Name, g.Path, g.Size})
	}
	out.Groups, out.More = list(out.Groups), more
	return out, nil
}

func (s *service) ReadCompleteness(ctx context.Context,
	r handlers.ReadCompletenessRequestObject) (handlers.ReadCompletenessResponseObject, error) {
	_, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	all, err := read.Completeness(ctx)
	out := handlers.ReadCompleteness200JSONResponse{}
	for _, f := range all {
		out = append(out, api.Filled{Id: f.Column.ID, Heading: shown.Heading(f.Column), Empty: f.Empty, Rows: f.Rows})
	}
	return out, err
}

func (s *service) ReadRow(ctx context.Context, r handlers.ReadRowRequestObject) (handlers.ReadRowResponseObject,
	error) {
	x, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	columns, line, err := read.Row(ctx, r.Params.Number)
	out := handlers.ReadRow200JSONResponse{}
	for i, c := range columns {
		if c.AtGroups {
			continue
		}
		f := api.RowField{Id: c.ID, Heading: shown.Heading(c.Column), Under: given1(c.Under)}
		if !line.Cells[i].Null {
			text := shown.Text(line.Cells[i], x.Zone())
			f.Text = &text
		}
		out = append(out, f)
	}
	return out, err
}

func (s *service) CheckFormula(ctx context.Context,
	r handlers.CheckFormulaRequestObject) (handlers.CheckFormulaResponseObject, error) {
	_, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	f, err := read.CheckFormula(r.Params.Text)
	var wrong *formula.Fault
	if errors.As(err, &wrong) {
		return handlers.CheckFormula200JSONResponse{Ok: false, At: &wrong.At, Message: &wrong.Message}, nil
	}
	if err != nil {
		return nil, err
	}
	kind, groups := f.Field.Kind.String(), f.OfGroups()
	return handlers.CheckFormula200JSONResponse{Ok: true, Kind: &kind, Groups: &groups}, nil
}

func (s *service) ListFunctions(context.Context,
	handlers.ListFunctionsRequestObject) (handlers.ListFunctionsResponseObject, error) {
	out := handlers.ListFunctions200JSONResponse{}
	for _, f := range formula.Functions {
		out = append(out,
			api.Function{Name: f.Name, Usage: f.Usage, Says: f.Says, Example: f.Example, Gives: f.Gives, Groups: f.OfGroups()})
	}
	return out, nil
}

// list is never null in JSON.
func list[T any](items []T) []T {
	if items == nil {
		return []T{}
	}
	return items
}

// given1 is left out where it is empty.
func given1(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}
