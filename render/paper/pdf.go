package paper

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"codeberg.org/go-pdf/fpdf"

	"mantilla/render/document"
)

// PDF writes a document as a PDF. Pages are laid out while those before are
// written.
func PDF(ctx context.Context, w io.Writer, d *document.Document, s Setting, progress func(pages int)) error {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	pages := make(chan *Page, 16)
	laid := make(chan error, 1)
	go func() {
		defer close(pages)
		laid <- Lay(ctx, d, s, func(p *Page) error {
			select {
			case pages <- p:
				return nil
			case <-ctx.Done():
				return context.Cause(ctx)
			}
		})
	}()
	out := newFile(d)
	for page := range pages {
		out.page(page)
		progress(out.file.PageCount())
		if err := out.file.Error(); err != nil {
			cancel(err)
			break
		}
	}
	if err := errors.Join(<-laid, out.file.Error()); err != nil {
		return err
	}
	if err := out.file.Output(&follow{to: w, structure: out.structure}); err != nil {
		return fmt.Errorf("writing PDF: %w", err)
	}
	return nil
}

// file is a PDF under way; what is set already is not set again.
type file struct {
	file  *fpdf.Fpdf
	bold  bool
	size  float64
	text  Color
	fill  Color
	draw  Color
	pen   float64
	dashd bool

	structure *structure
}

func newFile(d *document.Document) *file {
	f := &file{file: fpdf.New("P", "pt", "A4", ""), structure: newStructure()}
	f.file.SetAutoPageBreak(false, 0)
	f.file.SetLang("en-GB")
	f.file.SetCreator("Mantilla", true)
	f.file.SetTitle(d.Title, true)
	f.file.SetSubject(d.Says(), true)
	f.file.SetAuthor(d.AskedBy, true)
	f.file.SetKeywords(d.Number+" "+d.Seal, true)
	f.structure.offset = strings.Replace(d.WrittenAt.Format("-07:00"), ":", "'", 1)
	f.file.SetCreationDate(d.WrittenAt)
	f.file.SetModificationDate(d.WrittenAt)
	f.file.AddUTF8FontFromBytes("sans", "", faceOf(false).file)
	f.file.AddUTF8FontFromBytes("sans", "B", faceOf(true).file)
	f.file.AliasNbPages(Pages)
	return f
}

func (f *file) page(p *Page) {
	f.file.AddPageFormat("P", fpdf.SizeType{Wd: p.Width, Ht: p.Height})
	f.size, f.text, f.fill, f.draw, f.pen = 0, -2, -2, -2, -1 // a page begins anew
	for _, m := range p.Marks {
		f.file.Bookmark(m.Title, m.Level, m.Y)
	}
	reading := f.structure.begin(p.Tags)
	tag := -1
	for i := range p.Items {
		item := &p.Items[i]
		if item.Kind == Link { // a place, nothing that is drawn
			f.item(item)
			continue
		}
		if item.Tag != tag {
			f.mark(reading, tag, item.Tag)
			tag = item.Tag
		}
		if item.Kind == Text && tag > 0 && i+1 < len(p.Items) && p.Items[i+1].Kind == Text && p.Items[i+1].Tag == tag {
			item.Text += " " // before the next line of the same
		}
		f.item(item)
	}
	f.mark(reading, tag, -1)
}

// mark ends the content of one tag and begins that of another; -1 is none.
func (f *file) mark(r *reading, from, to int) {
	if from >= 0 {
		f.file.RawWriteStr("EMC")
	}
	switch {
	case to > 0:
		f.file.RawWriteStr(r.mark(to - 1))
	case to == 0:
		f.file.RawWriteStr("/Artifact BMC")
	}
}

func rgb(c Color) (r, g, b int) { return int(c) >> 16 & 255, int(c) >> 8 & 255, int(c) & 255 }

func (f *file) item(i *Item) {
	switch i.Kind {
	case Text:
		f.words(i)
	case Box:
		f.filled(i.Color)
		f.file.Rect(i.X, i.Y, i.W, i.H, "F")
	case Line:
		f.drawn(i.Color, i.Pen, nil)
		f.file.Line(i.X, i.Y, i.X+i.W, i.Y+i.H)
	case Link:
		f.file.LinkString(i.X, i.Y, i.W, i.H, i.Text)
	case Path:
		f.path(i)
	}
}

func (f *file) words(i *Item) {
	if f.size != i.Size || f.bold != i.Bold {
		style := ""
		if i.Bold {
			style = "B"
		}
		f.file.SetFont("sans", style, i.Size)
		f.size, f.bold = i.Size, i.Bold
	}
	f.filled(i.Color) // texts of another colour than areas are each written with both
	if f.text != i.Color {
		f.file.SetTextColor(rgb(i.Color))
		f.text = i.Color
	}
	if i.Angle == 0 {
		f.file.Text(i.X, i.Y, i.Text)
		return
	}
	f.file.TransformBegin()
	f.file.TransformRotate(i.Angle, i.X, i.Y)
	f.file.Text(i.X, i.Y, i.Text)
	f.file.TransformEnd()
}

func (f *file) filled(c Color) {
	if f.fill != c {
		f.file.SetFillColor(rgb(c))
		f.fill = c
	}
}

func (f *file) drawn(c Color, pen float64, dash []float64) {
	if f.draw != c {
		f.file.SetDrawColor(rgb(c))
		f.draw = c
	}
	if f.pen != pen {
		f.file.SetLineWidth(pen)
		f.pen = pen
	}
	if len(dash) > 0 || f.dashd {
		f.file.SetDashPattern(dash, 0)
		f.dashd = len(dash) > 0
	}
}

// path draws a path. Its colours are set first: within a path nothing else may
// stand (ISO 32000-1, 8.2).
func (f *file) path(i *Item) {
	how := ""
	if i.Fill != None {
		f.filled(i.Fill)
		how = "F"
	}
	if i.Color != None {
		f.drawn(i.Color, i.Pen, i.Dash)
		how += "D"
	}
	for _, s := range i.Steps {
		switch s.Op {
		case 'm':
			f.file.MoveTo(s.X, s.Y)
		case 'l':
			f.file.LineTo(s.X, s.Y)
		case 'c':
			f.file.CurveBezierCubicTo(s.X1, s.Y1, s.X2, s.Y2, s.X, s.Y)
		case 'z':
			f.file.ClosePath()
		}
	}
	f.file.DrawPath(how)
}
