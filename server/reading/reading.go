package reading

import (
	"mantilla/server/answer"

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
	return ChangesIn(answer.CallOf(ctx).URL.Query())
}

// ChangesIn reads what a reader asks from the query of an address.
func ChangesIn(q url.Values) (c ask.Changes, err error) {
	c = ask.Changes{Columns: q["column"], Add: q["add"], Group: q["group"], Sort: q["sort"], Filters: q["filter"],
		Down: q["down"], Across: q["across"],
		Cells: q["cell"], Totals: q["total"], Show: q.Get("show"), Drawn: q.Get("drawn"), Names: q.Get("names"),
		Zeros: q.Get("zeros"),
		Fold:  q["fold"], Entries: q.Get("entries")}
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
		return nil, &answer.BadRequest{Field: name, Err: fmt.Errorf("%q is not a whole number", q.Get(name))}
	}
	return &n, nil
}

// asked finds a result, and reads what the query changes about a view of it.
func (s Results) asked(ctx context.Context, result string) (x *reading.Result, c ask.Changes, err error) {
	if x, err = ResultOf(ctx, result); err == nil {
		c, err = changes(ctx)
	}
	return x, c, err
}

// reading finds a view of a result with what the query changes about it.
func (s Results) reading(ctx context.Context, result, view string) (*reading.Result, *reading.Reading, error) {
	x, c, err := s.asked(ctx, result)
	if err != nil {
		return nil, nil, err
	}
	read, err := answer.As(ctx).Reading.Read(ctx, x, view, c)
	return x, read, err
}

func (s Results) laid(ctx context.Context, result, view string) (*reading.Result, *reading.Reading, *sheet.Sheet,
	error) {
	x, read, err := s.reading(ctx, result, view)
	if err != nil {
		return nil, nil, nil, err
	}
	laid, err := read.Lay(ctx)
	return x, read, laid, err
}

// ReadView answers GET /results/{result}/views/{view}: A view of a result laid out, with a page of its lines.
func (s Results) ReadView(ctx context.Context, r handlers.ReadViewRequestObject) (handlers.ReadViewResponseObject,
	error) {
	x, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	tag := viewTag(ctx, x, read, s.Library.Calendar().Today.String())
	if answer.CallOf(ctx).Has(tag) {
		return answer.NotModified(tag), nil
	}
	laid, err := read.Lay(ctx)
	if err != nil {
		return nil, err
	}
	w := window{answer.Value(r.Params.First), answer.Or(r.Params.Count, 100), answer.Value(r.Params.FirstColumn),
		answer.Or(r.Params.ColumnCount, 200),
		answer.Value(r.Params.Plain)}
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
	sum := sha256.Sum256([]byte(x.Manifest.Seal + today + kept + answer.As(ctx).Form().String() +
		answer.CallOf(ctx).URL.String()))
	return answer.Quoted(hex.EncodeToString(sum[:16]))
}

// OpenFigure answers GET /results/{result}/views/{view}/figure.
func (s Results) OpenFigure(ctx context.Context,
	r handlers.OpenFigureRequestObject) (handlers.OpenFigureResponseObject, error) {
	x, c, err := s.asked(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	o, err := answer.As(ctx).Reading.OpenFigure(ctx, x, r.View, c, sheet.Cell{
		Path:   answer.Value(r.Params.Path),
		Across: answer.Value(r.Params.AcrossPath),
		Column: answer.Value(r.Params.Of),
		Row:    r.Params.Row,
	})
	if err != nil {
		return nil, err
	}
	out := handlers.OpenFigure200JSONResponse{View: o.View, Filters: answer.List(o.Filters), Add: answer.List(o.Add),
		Says: o.Says, Alone: o.Alone,
		Column: answer.Given(o.Column), Label: o.Label,
		Before: x.Form().Text(o.Before), After: x.Form().Text(o.After), Agree: o.Agree(), Rows: o.Rows}
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
	out.By = answer.List(out.By)
	return out, nil
}

// ListColumnValues answers GET /results/{result}/views/{view}/values.
func (s Results) ListColumnValues(ctx context.Context,
	r handlers.ListColumnValuesRequestObject) (handlers.ListColumnValuesResponseObject, error) {
	_, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	v, err := read.Values(ctx, r.Params.Of, answer.Value(r.Params.Search), answer.Limit(r.Params.Limit))
	if err != nil {
		return nil, err
	}
	out := handlers.ListColumnValues200JSONResponse{
		Kind:  v.Field.Kind.String(),
		Of:    v.Of,
		Empty: v.Empty,
		Low:   v.Low.String(),
		High:  v.High.String(),
		Bands: answer.Given(v.Bands),
	}
	for _, item := range v.Items {
		out.Items = append(out.Items, struct {
			Filter string `json:"filter"`
			Rows   int    `json:"rows"`
			Text   string `json:"text"`
		}{item.Filter[len(r.Params.Of)+1:], item.Rows, item.Text})
	}
	out.Items = answer.List(out.Items)
	return out, nil
}

// FindText answers GET /results/{result}/views/{view}/find: the next line that holds a text as it is shown.
func (s Results) FindText(ctx context.Context, r handlers.FindTextRequestObject) (handlers.FindTextResponseObject,
	error) {
	_, _, laid, err := s.laid(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	f, err := laid.Find(ctx, r.Params.Text, answer.Value(r.Params.From), answer.Value(r.Params.Back))
	return handlers.FindText200JSONResponse{Line: f.Line, Column: f.Column, At: f.At, Of: f.Of}, err
}

// mostOutlined is how many groups an outline lists.
const mostOutlined = 1000

// ReadOutline answers GET /results/{result}/views/{view}/outline.
func (s Results) ReadOutline(ctx context.Context,
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
	out.Groups, out.More = answer.List(out.Groups), more
	return out, nil
}

// ReadCompleteness answers GET /results/{result}/views/{view}/completeness.
func (s Results) ReadCompleteness(ctx context.Context,
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

// ReadRow answers GET /results/{result}/views/{view}/row: all fields of one kept row.
func (s Results) ReadRow(ctx context.Context, r handlers.ReadRowRequestObject) (handlers.ReadRowResponseObject,
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
		f := api.RowField{Id: c.ID, Heading: shown.Heading(c.Column), Under: answer.Given(c.Under)}
		if !line.Cells[i].Null {
			text := x.Form().Text(line.Cells[i])
			f.Text = &text
		}
		out = append(out, f)
	}
	return out, err
}

// CheckFormula answers GET /results/{result}/views/{view}/formula.
func (s Results) CheckFormula(ctx context.Context,
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

// ListFunctions answers GET /formulas: the functions of formulas, each with an example.
func (s Results) ListFunctions(context.Context,
	handlers.ListFunctionsRequestObject) (handlers.ListFunctionsResponseObject, error) {
	out := handlers.ListFunctions200JSONResponse{}
	for _, f := range formula.Functions {
		out = append(out,
			api.Function{Name: f.Name, Usage: f.Usage, Says: f.Says, Example: f.Example, Gives: f.Gives, Groups: f.OfGroups()})
	}
	return out, nil
}
