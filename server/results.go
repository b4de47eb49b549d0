package server

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"mime"
	"time"

	"github.com/gin-gonic/gin"

	"mantilla/api"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/library"
	"mantilla/render"
	"mantilla/store"
)

func (s *service) result(ctx context.Context, id string) (*library.Result, error) {
	n, err := number("result", "R-", id)
	if err != nil {
		return nil, err
	}
	return as(ctx).Result(ctx, n)
}

func (s *service) ListResults(ctx context.Context, r api.ListResultsRequestObject) (api.ListResultsResponseObject, error) {
	w := store.ResultWish{Report: value(r.Params.Report), Search: value(r.Params.Search), Limit: limit(r.Params.Limit)}
	var err error
	if r.Params.Before != nil {
		if w.Before, err = number("result", "R-", *r.Params.Before); err != nil {
			return nil, err
		}
	}
	results, err := as(ctx).Results(ctx, w)
	if err != nil {
		return nil, err
	}
	out := make(api.ListResults200JSONResponse, len(results))
	for i, x := range results {
		out[i] = resultLine(x)
	}
	return out, nil
}

func resultLine(x store.Result) api.ResultLine {
	return api.ResultLine{Id: resultID(x.Number), Report: x.Report, Title: x.Title, Sentence: x.Sentence, AskedBy: x.Manifest.AskedBy, KeptAt: x.KeptAt, Rows: x.Rows, Bytes: x.Bytes, KeptTill: moment(x.KeptTill)}
}

// moment is left out where it is none.
func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func (s *service) GetResult(ctx context.Context, r api.GetResultRequestObject) (api.GetResultResponseObject, error) {
	x, err := s.result(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	tag := quoted(x.Manifest.Seal)
	if unchanged(ctx, tag) {
		return notModified(tag), nil
	}
	m := x.Manifest
	body := api.Result{Id: resultID(x.Number), Report: x.Report, Title: x.Title, Sentence: x.Sentence, KeptAt: x.KeptAt, Rows: x.Rows, Bytes: x.Bytes,
		Run: runID(x.Run), Version: m.Version, Facts: facts(m.Facts), Values: m.Typed, AskedBy: m.AskedBy, StartedAt: m.StartedAt,
		Seconds: m.Duration.Seconds(), Source: m.Source, Fingerprint: m.Fingerprint, Seal: m.Seal, Units: given(m.Reach.Units), KeptTill: moment(x.KeptTill), Page: []api.PageView{}, Views: []api.PageView{}}
	for _, v := range x.Page() {
		body.Page = append(body.Page, pageView(x, v))
	}
	for i := range x.Definition.Views {
		body.Views = append(body.Views, pageView(x, &x.Definition.Views[i]))
	}
	return api.GetResult200JSONResponse{Body: body, Headers: api.GetResult200ResponseHeaders{ETag: &tag}}, nil
}

func pageView(x *library.Result, v *report.View) api.PageView {
	return api.PageView{Id: v.ID, Title: v.Title, Rows: x.RowsOf(v.Of)}
}

func (s *service) DeleteResult(ctx context.Context, r api.DeleteResultRequestObject) (api.DeleteResultResponseObject, error) {
	n, err := number("result", "R-", r.Result)
	if err == nil {
		err = as(ctx).DeleteResult(ctx, n)
	}
	return api.DeleteResult204Response{}, err
}

func (s *service) CheckSeal(ctx context.Context, r api.CheckSealRequestObject) (api.CheckSealResponseObject, error) {
	x, err := s.result(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	unchanged, err := s.library.CheckSeal(ctx, x)
	return api.CheckSeal200JSONResponse{Seal: x.Manifest.Seal, Unchanged: unchanged}, err
}

func (s *service) ReadView(ctx context.Context, r api.ReadViewRequestObject) (api.ReadViewResponseObject, error) {
	x, err := s.result(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	tag := viewTag(ctx, x, s.library.Calendar().Today.String())
	if unchanged(ctx, tag) {
		return notModified(tag), nil
	}
	laid, err := s.library.Sheet(ctx, x, r.View, library.Reading{Columns: value(r.Params.Column), Sort: value(r.Params.Sort), Filters: value(r.Params.Filter)})
	if err != nil {
		return nil, err
	}
	count := 100
	if r.Params.Count != nil {
		count = min(*r.Params.Count, 5000)
	}
	body, err := s.sheet(x, laid, value(r.Params.First), count, value(r.Params.Plain))
	return api.ReadView200JSONResponse{Body: body, Headers: api.ReadView200ResponseHeaders{ETag: &tag}}, err
}

// viewTag identifies an answer: a sealed result laid out the same way on the
// same day is always the same.
func viewTag(ctx context.Context, x *library.Result, today string) string {
	sum := sha256.Sum256([]byte(x.Manifest.Seal + today + ctx.(*gin.Context).Request.URL.String()))
	return quoted(hex.EncodeToString(sum[:16]))
}

func (s *service) sheet(x *library.Result, laid *sheet.Sheet, first, count int, plain bool) (api.Sheet, error) {
	out := api.Sheet{View: laid.View.ID, Title: laid.View.Title, Rows: laid.Rows, Of: laid.Of, First: first, Columns: []api.Column{},
		Available: []api.Choice{}, Sort: []string{}, Filters: []string{}, Cells: [][]*string{}, Links: [][]string{}, Totals: []api.Total{}}
	zone := s.library.Settings().Zone
	text := func(v frame.Value) *string {
		switch {
		case v.Null:
			return nil
		case plain:
			t := v.String()
			return &t
		}
		t := sheet.Text(v, zone)
		return &t
	}
	for _, c := range laid.Columns {
		out.Columns = append(out.Columns, api.Column{Id: c.ID, Label: c.Label, Heading: sheet.Heading(c), Kind: api.ColumnKind(c.Kind.String()),
			Right: sheet.RightAligned(c), Opens: opens(x, laid, c)})
	}
	for _, c := range x.Definition.Dataset(laid.View.Of).Columns {
		out.Available = append(out.Available, api.Choice{Id: c.ID, Heading: sheet.Heading(c)})
	}
	for _, k := range laid.Sort {
		out.Sort = append(out.Sort, map[bool]string{true: "-"}[k.Descending]+k.Column)
	}
	for _, f := range laid.Filters {
		out.Filters = append(out.Filters, f.Typed)
	}
	for _, t := range laid.Totals {
		total := api.Total{Op: t.Op.String()}
		if t.Op != frame.NoTotal {
			total.Text = text(t.Value)
		}
		out.Totals = append(out.Totals, total)
	}
	rows, err := laid.Page(first, count)
	if err != nil {
		return out, err
	}
	for row := range rows.Rows {
		cells := make([]*string, len(laid.Columns))
		for c := range cells {
			cells[c] = text(rows.Value(c, row))
		}
		links := make([]string, len(laid.Links))
		for i := range links {
			links[i] = rows.Value(len(cells)+i, row).String()
		}
		out.Cells, out.Links = append(out.Cells, cells), append(out.Links, links)
	}
	return out, nil
}

// opens says where a cell leads: parameters from the row by their place in its
// links, parameters of the run by their facts.
func opens(x *library.Result, laid *sheet.Sheet, c report.Column) *api.Opens {
	if c.Opens == nil {
		return nil
	}
	out := api.Opens{Report: c.Opens.Report, With: map[string]int{}, Fixed: api.Values{}}
	for _, f := range c.Opens.With {
		for i, id := range laid.Links {
			if id == f.From {
				out.With[f.Parameter] = i
			}
		}
		for _, fact := range x.Manifest.Facts {
			if f.From == ":"+fact.Parameter {
				out.Fixed[f.Parameter] = fact.Resolved
			}
		}
	}
	return &out
}

func (s *service) ExportView(ctx context.Context, r api.ExportViewRequestObject) (api.ExportViewResponseObject, error) {
	x, err := s.result(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	laid, err := s.library.Sheet(ctx, x, r.View, library.Reading{Columns: value(r.Params.Column), Sort: value(r.Params.Sort), Filters: value(r.Params.Filter)})
	if err != nil {
		return nil, err
	}
	name := mime.FormatMediaType("attachment", map[string]string{"filename": fmt.Sprintf("%s %s %s.%s", x.Report, laid.View.ID, resultID(x.Number), r.Params.Format)})
	headers := api.ExportView200ResponseHeaders{ContentDisposition: &name}
	switch r.Params.Format {
	case api.FormatCsv:
		return api.ExportView200TextcsvResponse{Headers: headers, Body: written(func(w io.Writer) error { return render.CSV(w, laid) })}, nil
	case api.FormatXlsx:
		if laid.Rows > render.MaxXLSXRows {
			return nil, render.ErrTooLong
		}
		zone := s.library.Settings().Zone
		return api.ExportView200ApplicationvndOpenxmlformatsOfficedocumentSpreadsheetmlSheetResponse{Headers: headers,
			Body: written(func(w io.Writer) error { return render.XLSX(w, laid, zone) })}, nil
	}
	return nil, &badRequest{"format", fmt.Errorf("%q is not a format; use csv or xlsx", r.Params.Format)}
}

// written is a body that is made while it is sent.
func written(write func(io.Writer) error) io.Reader {
	r, w := io.Pipe()
	go func() { w.CloseWithError(write(w)) }()
	return r
}
