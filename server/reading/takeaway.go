package reading

import (
	"mantilla/model"
	"mantilla/server/answer"

	"context"
	"io"
	"net/http"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/reading"
	"mantilla/render"
	"mantilla/render/paper"
)

// ListFormats answers GET /formats: in which forms results are taken away.
func (s Results) ListFormats(context.Context, handlers.ListFormatsRequestObject) (handlers.ListFormatsResponseObject,
	error) {
	out := handlers.ListFormats200JSONResponse{}
	for _, f := range render.Formats {
		out = append(out,
			api.FormatLine{
				Id:      api.Format(f.ID),
				Label:   f.Label,
				Ending:  f.Ending,
				Several: f.Several,
				Chart:   f.Chart,
				Import:  f.Import,
			})
	}
	return out, nil
}

// ExportView answers GET /results/{result}/views/{view}/file.
func (s Results) ExportView(ctx context.Context,
	r handlers.ExportViewRequestObject) (handlers.ExportViewResponseObject, error) {
	x, take, err := s.take(ctx, r.Result, r.View, api.Take{Format: r.Params.Format})
	if err != nil {
		return nil, err
	}
	file, err := answer.As(ctx).Reading.TakeAway(ctx, x, take)
	if err != nil {
		return nil, err
	}
	answer.As(ctx).Care.Visited(ctx, x.Report, model.VisitExport)
	return handlers.ExportView200AsteriskResponse{ContentType: file.Type,
		Headers: handlers.ExportView200ResponseHeaders{ContentDisposition: answer.Attachment(file.Name)},
		Body: written(func(w io.Writer) error {
			_, err := file.Write(ctx, w, nil)
			return err
		})}, nil
}

// written is a body that is made while it is sent.
func written(write func(io.Writer) error) io.Reader {
	r, w := io.Pipe()
	go func() { w.CloseWithError(write(w)) }()
	return r
}

// take reads what is to be taken away: the view with the changes of the query,
// and those beside it as they were made.
func (s Results) take(ctx context.Context, result, view string, b api.Take) (*reading.Result, reading.Take, error) {
	x, err := ResultOf(ctx, result)
	if err != nil {
		return nil, reading.Take{}, err
	}
	if _, err := render.FormatNamed(string(b.Format)); err != nil {
		return nil, reading.Take{}, &answer.BadRequest{Field: "format", Err: err}
	}
	c, err := changes(ctx)
	if err != nil {
		return nil, reading.Take{}, err
	}
	take := reading.Take{
		Format:  string(b.Format),
		Name:    answer.Value(b.Name),
		Options: TakeOptions(b),
		Views:   []reading.Viewed{{View: view, Changes: c}},
	}
	for _, id := range answer.Value(b.Also) {
		take.Views = append(take.Views, reading.Viewed{View: id})
	}
	return x, take, nil
}

// TakeOptions reads how a file is to be written.
func TakeOptions(b api.Take) render.Options {
	return render.Options{
		Told:     answer.Value(b.Told),
		Notes:    answer.Value(b.Notes),
		Zip:      answer.Value(b.Zip),
		Password: answer.Value(b.Password),
		Table:    TableForm(b.Table),
		Page:     PageForm(b.Page),
	}
}

// TableForm reads how a table of text is to be written.
func TableForm(t *api.TableForm) (f render.TableForm) {
	if t == nil {
		return f
	}
	return render.TableForm{
		Separator: string(answer.Value(t.Separator)),
		Decimal:   string(answer.Value(t.Decimal)),
		Mark:      answer.Value(t.Mark),
		Headings:  string(answer.Value(t.Headings)),
		Raw:       answer.Value(t.Raw),
	}
}

// PageForm reads how pages are to be laid.
func PageForm(p *api.PageForm) (f paper.Setting) {
	if p == nil {
		return f
	}
	return paper.Setting{
		Size:        string(answer.Value(p.Size)),
		Orientation: string(answer.Value(p.Orientation)),
		Margin:      float64(answer.Value(p.Margin)),
		Fit:         string(answer.Value(p.Fit)),
		Lead:        answer.Value(p.Lead),
		Cover:       answer.Value(p.Cover),
	}
}

func export(e reading.Export) api.Export {
	return api.Export{Id: e.ID, Result: answer.ResultID(e.Result), Name: e.Name, Type: e.Type, State: api.State(e.State),
		Lines: e.Progress.Lines, Of: e.Progress.Of,
		Bytes: e.Progress.Bytes, Defused: e.Progress.Defused, Reason: answer.Given(e.Reason)}
}

// StartExport answers POST /results/{result}/views/{view}/exports.
func (s Results) StartExport(ctx context.Context,
	r handlers.StartExportRequestObject) (handlers.StartExportResponseObject, error) {
	x, take, err := s.take(ctx, r.Result, r.View, *r.Body)
	if err != nil {
		return nil, err
	}
	e, err := answer.As(ctx).Reading.StartExport(ctx, x, take)
	if err == nil {
		answer.As(ctx).Care.Visited(ctx, x.Report, model.VisitExport)
	}
	return handlers.StartExport201JSONResponse(export(e)), err
}

// PreviewPage answers POST /results/{result}/views/{view}/page: one page as the PDF would have it, as a drawing.
func (s Results) PreviewPage(ctx context.Context,
	r handlers.PreviewPageRequestObject) (handlers.PreviewPageResponseObject, error) {
	x, take, err := s.take(ctx, r.Result, r.View, *r.Body)
	if err != nil {
		return nil, err
	}
	p, err := answer.As(ctx).Reading.PreviewPage(ctx, x, take, max(answer.Value(r.Params.Number), 1))
	return handlers.PreviewPage200JSONResponse{
		Number:  p.Number,
		Of:      p.Of,
		Width:   float32(p.Width),
		Height:  float32(p.Height),
		Drawing: p.Drawing,
	}, err
}

// GetExport answers GET /exports/{export}: how far a file has come.
func (s Results) GetExport(ctx context.Context, r handlers.GetExportRequestObject) (handlers.GetExportResponseObject,
	error) {
	e, err := answer.As(ctx).Reading.Export(r.Export)
	return handlers.GetExport200JSONResponse(export(e)), err
}

// StopExport answers POST /exports/{export}/stop: stop writing a file; one that is written stays.
func (s Results) StopExport(ctx context.Context,
	r handlers.StopExportRequestObject) (handlers.StopExportResponseObject, error) {
	e, err := answer.As(ctx).Reading.StopExport(r.Export)
	return handlers.StopExport200JSONResponse(export(e)), err
}

// FetchExport answers GET /exports/{export}/file: A file that is written.
func (s Results) FetchExport(ctx context.Context,
	r handlers.FetchExportRequestObject) (handlers.FetchExportResponseObject, error) {
	e, file, err := answer.As(ctx).Reading.OpenExport(ctx, r.Export)
	if err != nil {
		return nil, err
	}
	return handlers.FetchExport200AsteriskResponse{
		ContentType:   e.Type,
		ContentLength: e.Progress.Bytes,
		Headers:       handlers.FetchExport200ResponseHeaders{ContentDisposition: answer.Attachment(e.Name)},
		Body:          file,
	}, nil
}

// WatchExport answers GET /exports/{export}/progress.
func (s Results) WatchExport(ctx context.Context,
	r handlers.WatchExportRequestObject) (handlers.WatchExportResponseObject, error) {
	if _, err := answer.As(ctx).Reading.Export(r.Export); err != nil {
		return nil, err
	}
	return exportProgress{s, answer.As(ctx), ctx, r.Export}, nil
}

// exportProgress streams how far a file has come, as server-sent events until
// it ends.
type exportProgress struct {
	Results
	access *library.Access
	ctx    context.Context
	id     string
}

func (p exportProgress) VisitWatchExportResponse(w http.ResponseWriter) error {
	changes, end, err := p.access.Reading.WatchExport(p.id)
	if err != nil {
		return err
	}
	defer end()
	return answer.Stream(p.ctx, p.Closing, w, "export", changes, func() (any, bool, error) {
		e, err := p.access.Reading.Export(p.id)
		return export(e), e.State.Ended(), err
	})
}
