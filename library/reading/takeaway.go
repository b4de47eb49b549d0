package reading

import (
	"cmp"
	"context"
	"crypto/ed25519"
	"fmt"
	"io"
	"slices"
	"strconv"
	"time"

	"mantilla/core/ask"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/render"
	"mantilla/render/document"
	"mantilla/render/paper"
	"mantilla/seal"
)

// Viewed is a view with what a reader changed about it.
type Viewed struct {
	View    string      `json:"view"`
	Changes ask.Changes `json:"changes"`

	as string // the import-ready file that it is for
}

// Take says what of a result is taken away, and as what.
type Take struct {
	Views   []Viewed       `json:"views"`
	Format  string         `json:"format"`
	Options render.Options `json:"options"`
	Name    string         `json:"name,omitempty"` // pattern of the file's name
}

// UsualName is the pattern of file names where nobody gives another.
const UsualName = "{report} {view} {result}"

// File is something ready to be written.
type File struct {
	Name   string
	Type   string // of media
	Lines  int
	format render.Format
	take   Take
	doc    *document.Document
}

// TakeAway prepares a file of views of a result: the views are laid out, and
// what is wrong with them or with the options is told before anything is
// written. Views that are empty are the page of the result.
func (a *Access) TakeAway(ctx context.Context, r *Result, take Take) (*File, error) {
	if err := a.May(access.TakeAway); err != nil {
		return nil, err
	}
	f, err := render.FormatNamed(take.Format)
	if err != nil {
		return nil, model.Refuse("format", "%w", err)
	}
	if err := take.Options.Check(); err != nil {
		return nil, model.Refuse("options", "%w", err)
	}
	if f.Import {
		if take.Views, err = importView(r, take.Views); err != nil {
			return nil, err
		}
	}
	doc, err := a.document(ctx, r, take.Views)
	if err != nil {
		return nil, err
	}
	if take.Options.Notes {
		written, err := a.room.written(ctx, r.Number, a.Zone())
		if err != nil {
			return nil, err
		}
		doc.Notes = append(doc.Notes, written...)
	}
	if f.Import {
		doc.Import = r.Definition.Import(take.Views[0].as)
	}
	file := &File{format: f, take: take, doc: doc, Type: f.Type}
	for _, s := range doc.Sheets {
		file.Lines += s.Lines
		if f.Chart && s.Chart == nil {
			return nil, model.Refuse("format", "%w", render.ErrNoChart)
		}
		if f.ID == "xlsx" && s.Lines > render.MaxXLSXRows {
			return nil, model.Refuse("format", "%w", render.ErrTooLong)
		}
	}
	ending := f.Ending
	if f.Packed(doc, take.Options) {
		ending, file.Type = "zip", "application/zip"
	}
	file.Name = render.FileName(nameOr(take.Name), a.nameFields(r, doc), ending)
	return file, nil
}

// importView is the rows that an import-ready file is made of, in its columns
// and order. The file's id stands where otherwise a view's does; the filters of
// a view are kept.
func importView(r *Result, views []Viewed) ([]Viewed, error) {
	if len(views) != 1 || r.Definition.Import(views[0].View) == nil {
		var known []string
		for _, f := range r.Definition.Imports {
			known = append(known, f.ID)
		}
		wanted := ""
		if len(views) > 0 {
			wanted = views[0].View
		}
		return nil, model.NoSuch("import-ready file", wanted, known)
	}
	f := r.Definition.Import(views[0].View)
	c := ask.Changes{Sort: f.Sort, Filters: views[0].Changes.Filters}
	for _, column := range f.Columns {
		c.Columns = append(c.Columns, column.Is)
	}
	c.Columns = append(c.Columns, f.Unpivot...)
	return []Viewed{{View: f.Of + ".rows", Changes: c, as: f.ID}}, nil
}

func nameOr(pattern string) string {
	if pattern == "" {
		return UsualName
	}
	return pattern
}

// nameFields are what the pattern of a file's name may speak of.
func (a *Access) nameFields(r *Result, d *document.Document) map[string]string {
	view := "all"
	if len(d.Sheets) == 1 {
		view = d.Sheets[0].View.ID
	}
	fields := map[string]string{"report": r.Report, "title": r.Title, "result": d.Number, "view": view,
		"date": r.Manifest.StartedAt.In(r.zone).Format("2006-01-02")}
	for _, v := range d.Values {
		fields[v.Parameter] = v.Says
	}
	return fields
}

// document gathers views of a result with what tells how they were made.
func (a *Access) document(ctx context.Context, r *Result, views []Viewed) (*document.Document, error) {
	m := r.Manifest
	d := &document.Document{Organisation: a.room.org.Name, Title: r.Title, About: r.Definition.About,
		Number: fmt.Sprintf("R-%06d", r.Number), Sentence: r.Sentence,
		Notes: r.Notes(a.Zone()), AskedBy: m.AskedBy, RanAt: m.StartedAt.In(a.Zone()), Version: m.Version, Source: m.Source,
		Fingerprint: m.Fingerprint,
		Units:       m.Reach.Units, Seal: m.Seal, WrittenAt: a.room.org.Now().In(a.Zone()), Form: r.Form(),
		Base: a.room.org.Address}
	if !m.Reach.Limited {
		d.Units = nil
	}
	for _, f := range m.Facts {
		d.Values = append(d.Values,
			document.Value{Label: f.Label, Says: f.Says, Parameter: f.Parameter, Resolved: f.Resolved})
	}
	if len(views) == 0 {
		for _, v := range r.Page() {
			views = append(views, Viewed{View: v.ID})
		}
	}
	for _, v := range views {
		s, err := a.Sheet(ctx, r, v.View, v.Changes)
		if err != nil {
			return nil, err
		}
		d.Sheets = append(d.Sheets, s)
	}
	if len(d.Sheets) == 0 { // all views of the page are empty and left out
		s, err := a.Sheet(ctx, r, First, ask.Changes{})
		if err != nil {
			return nil, err
		}
		d.Sheets = append(d.Sheets, s)
	}
	d.Columns = a.meanings(d.Sheets)
	return d, nil
}

// meanings are what the columns of sheets mean, each told once.
func (a *Access) meanings(sheets []*sheet.Sheet) (out []document.Meaning) {
	for _, s := range sheets {
		for i := range s.Dataset.Columns {
			c := &s.Dataset.Columns[i]
			if !s.Speaks(c.ID) {
				continue
			}
			m := document.Meaning{Column: shown.Heading(*c), Says: a.room.explains(c)}
			if m.Says != "" && !slices.Contains(out, m) {
				out = append(out, m)
			}
		}
	}
	return out
}

// Says tells of what the file is, and what was done to its views.
func (f *File) Says() string { return f.doc.Says() }

// Says tells of what views of a result are, and what was done to them.
func (a *Access) Says(ctx context.Context, r *Result, views []Viewed) (string, error) {
	doc, err := a.document(ctx, r, views)
	if err != nil {
		return "", err
	}
	return doc.Says(), nil
}

// Write writes the file.
func (f *File) Write(ctx context.Context, w io.Writer, progress func(render.Progress)) (render.Progress, error) {
	return render.Write(ctx, w, f.doc, f.format, f.take.Options, progress)
}

// Preview is one page as the PDF has it.
type Preview struct {
	Number, Of    int
	Width, Height float64 // points
	Drawing       string  // SVG
}

// PreviewPage draws one page of what a PDF would be, from 1.
func (a *Access) PreviewPage(ctx context.Context, r *Result, take Take, number int) (Preview, error) {
	if err := take.Options.Check(); err != nil {
		return Preview{}, model.Refuse("options", "%w", err)
	}
	doc, err := a.document(ctx, r, take.Views)
	if err != nil {
		return Preview{}, err
	}
	var wanted *paper.Page
	pages := 0
	err = paper.Lay(ctx, doc, take.Options.Page, func(p *paper.Page) error {
		if pages++; pages == number {
			wanted = p
		}
		return nil
	})
	if err != nil {
		return Preview{}, err
	}
	if wanted == nil {
		return Preview{}, model.Refuse("number", "the document has the pages 1 to %s", strconv.Itoa(pages))
	}
	return Preview{number, pages, wanted.Width, wanted.Height, paper.SVG(wanted, pages)}, nil
}

// Prove writes the proof of a result, which anybody can check without the service, signed with a
// key.
func (a *Access) Prove(ctx context.Context, r *Result, key ed25519.PrivateKey, w io.Writer) error {
	if err := cmp.Or(a.May(access.TakeAway), a.wholly(r, "a proof")); err != nil {
		return err
	}
	index := seal.Index{Result: fmt.Sprintf("R-%06d", r.Number), Title: r.Title, Sentence: r.Sentence,
		From: a.room.org.Name, At: a.room.org.Address, Made: a.room.org.Now().UTC().Truncate(time.Second)}
	if r.Signed {
		for _, s := range r.Signs {
			index.Signs = append(index.Signs, s.Title+", "+s.At.UTC().Format(time.RFC3339))
		}
	}
	p, err := seal.Begin(w, index, r.Manifest, r.Settled)
	if err != nil {
		return model.Refuse("result", "%w", err)
	}
	if err := a.room.records.Sealed(ctx, r.Result, p); err != nil {
		return err
	}
	for _, k := range r.Manifest.Datasets {
		file, err := a.TakeAway(ctx, r, Take{Format: "parquet", Views: []Viewed{{View: k.Dataset + ".rows"}}})
		if err != nil {
			return err
		}
		if err := p.Rows(k.Dataset, func(w io.Writer) error {
			_, err := file.Write(ctx, w, func(render.Progress) {})
			return err
		}); err != nil {
			return err
		}
	}
	return p.Sign(key)
}
