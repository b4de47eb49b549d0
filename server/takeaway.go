package server

import (
	"context"
	"io"
	"mime"
	"net/http"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/reading"
	"mantilla/render"
	"mantilla/render/paper"
)

func (s *service) ListFormats(context.Context, handlers.ListFormatsRequestObject) (handlers.ListFormatsResponseObject,
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

func attachment(name string) *string {
	text := mime.FormatMediaType("attachment", map[string]string{"filename": name})
	return &text
}

func (s *service) ExportView(ctx context.Context,
	r handlers.ExportViewRequestObject) (handlers.ExportViewResponseObject, error) {
	x, take, err := s.take(ctx, r.Result, r.View, api.Take{Format: r.Params.Format})
	if err != nil {
		return nil, err
	}
	file, err := as(ctx).Reading.TakeAway(ctx, x, take)
	if err != nil {
		return nil, err
	}
	return handlers.ExportView200AsteriskResponse{ContentType: file.Type,
		Headers: handlers.ExportView200ResponseHeaders{ContentDisposition: attachment(file.Name)},
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
func (s *service) take(ctx context.Context, result, view string, b api.Take) (*reading.Result, reading.Take, error) {
	x, err := s.result(ctx, result)
	if err != nil {
		return nil, reading.Take{}, err
	}
	if _, err := render.FormatNamed(string(b.Format)); err != nil {
		return nil, reading.Take{}, &badRequest{"format", err}
	}
	c, err := changes(ctx)
	if err != nil {
		return nil, reading.Take{}, err
	}
	take := reading.Take{
		Format:  string(b.Format),
		Name:    value(b.Name),
		Options: takeOptions(b),
		Views:   []reading.Viewed{{View: view, Changes: c}},
	}
	for _, id := range value(b.Also) {
		take.Views = append(take.Views, reading.Viewed{View: id})
	}
	return x, take, nil
}

func takeOptions(b api.Take) render.Options {
	return render.Options{
		Told:     value(b.Told),
		Zip:      value(b.Zip),
		Password: value(b.Password),
		Table:    tableForm(b.Table),
		Page:     pageForm(b.Page),
	}
}

func tableForm(t *api.TableForm) (f render.TableForm) {
	if t == nil {
		return f
	}
	return render.TableForm{
		Separator: string(value(t.Separator)),
		Decimal:   string(value(t.Decimal)),
		Mark:      value(t.Mark),
		Headings:  string(value(t.Headings)),
		Raw:       value(t.Raw),
	}
}

func pageForm(p *api.PageForm) (f paper.Setting) {
	if p == nil {
		return f
	}
	return paper.Setting{
		Size:        string(value(p.Size)),
		Orientation: string(value(p.Orientation)),
		Margin:      float64(value(p.Margin)),
		Fit:         string(value(p.Fit)),
		Lead:        value(p.Lead),
		Cover:       value(p.Cover),
	}
}

func export(e reading.Export) api.Export {
	return api.Export{Id: e.ID, Result: resultID(e.Result), Name: e.Name, Type: e.Type, State: api.State(e.State),
		Lines: e.Progress.Lines, Of: e.Progress.Of,
		Bytes: e.Progress.Bytes, Defused: e.Progress.Defused, Reason: given1(e.Reason)}
}

func (s *service) StartExport(ctx context.Context,
	r handlers.StartExportRequestObject) (handlers.StartExportResponseObject, error) {
	x, take, err := s.take(ctx, r.Result, r.View, *r.Body)
	if err != nil {
		return nil, err
	}
	e, err := as(ctx).Reading.StartExport(ctx, x, take)
	return handlers.StartExport201JSONResponse(export(e)), err
}

func (s *service) PreviewPage(ctx context.Context,
	r handlers.PreviewPageRequestObject) (handlers.PreviewPageResponseObject, error) {
	x, take, err := s.take(ctx, r.Result, r.View, *r.Body)
	if err != nil {
		return nil, err
	}
	p, err := as(ctx).Reading.PreviewPage(ctx, x, take, max(value(r.Params.Number), 1))
	return handlers.PreviewPage200JSONResponse{
		Number:  p.Number,
		Of:      p.Of,
		Width:   float32(p.Width),
		Height:  float32(p.Height),
		Drawing: p.Drawing,
	}, err
}

func (s *service) GetExport(ctx context.Context, r handlers.GetExportRequestObject) (handlers.GetExportResponseObject,
	error) {
	e, err := as(ctx).Reading.Export(r.Export)
	return handlers.GetExport200JSONResponse(export(e)), err
}

func (s *service) StopExport(ctx context.Context,
	r handlers.StopExportRequestObject) (handlers.StopExportResponseObject, error) {
	e, err := as(ctx).Reading.StopExport(r.Export)
	return handlers.StopExport200JSONResponse(export(e)), err
}

func (s *service) FetchExport(ctx context.Context,
	r handlers.FetchExportRequestObject) (handlers.FetchExportResponseObject, error) {
	e, file, err := as(ctx).Reading.OpenExport(ctx, r.Export)
	if err != nil {
		return nil, err
	}
	return handlers.FetchExport200AsteriskResponse{
		ContentType:   e.Type,
		ContentLength: e.Progress.Bytes,
		Headers:       handlers.FetchExport200ResponseHeaders{ContentDisposition: attachment(e.Name)},
		Body:          file,
	}, nil
}

func (s *service) WatchExport(ctx context.Context,
	r handlers.WatchExportRequestObject) (handlers.WatchExportResponseObject, error) {
	if _, err := as(ctx).Reading.Export(r.Export); err != nil {
		return nil, err
	}
	return exportProgress{s, as(ctx), ctx, r.Export}, nil
}

// exportProgress streams how far a file has come, as server-sent events until
// it ends.
type exportProgress struct {
	*service
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
	return stream(p.ctx, p.closing, w, "export", changes, func() (any, bool, error) {
		e, err := p.access.Reading.Export(p.id)
		return export(e), e.State.Ended(), err
	})
}
