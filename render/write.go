package render

import (
	"context"
	"errors"
	"fmt"
	"io"

	"mantilla/core/sheet"
	"mantilla/render/chart"
	"mantilla/render/document"
	"mantilla/render/paper"
)

// ErrNoChart says that a drawing was asked for of what is none.
var ErrNoChart = errors.New("only charts can be taken as a drawing or a picture; choose a view that is a chart, or " +
	"show this one as a chart")

// counted counts what is written.
type counted struct {
	io.Writer
	bytes int64
}

func (c *counted) Write(p []byte) (int, error) {
	n, err := c.Writer.Write(p)
	c.bytes += int64(n)
	return n, err
}

// Write writes a document in a format. Several views that do not fit one file
// become an archive of a file each. It fails when the options are wrong, the
// views do not fit the format, or the context ends; what was written by then is
// not to be used.
func Write(ctx context.Context, w io.Writer, d *document.Document, f Format, o Options,
	progress func(Progress)) (Progress, error) {
	if err := o.Check(); err != nil {
		return Progress{}, err
	}
	if progress == nil {
		progress = func(Progress) {}
	}
	j := &job{ctx: ctx, to: &counted{Writer: w}, document: d, options: o, progress: progress}
	for _, s := range d.Sheets {
		if f.Chart && s.Chart == nil {
			return j.done, ErrNoChart
		}
		j.done.Of += s.Lines
	}
	err := f.packed(j)
	j.done.Bytes = j.to.bytes
	if err != nil {
		return j.done, fmt.Errorf("writing %s: %w", f.Label, err)
	}
	return j.done, nil
}

// Packed tells whether the file is an archive.
func (f Format) Packed(d *document.Document, o Options) bool {
	return o.Zip || o.Password != "" || !f.Several && len(d.Sheets) > 1
}

// packed writes the file itself or an archive of it.
func (f Format) packed(j *job) error {
	if !f.Packed(j.document, j.options) {
		return f.write(j)
	}
	archive := newArchive(j.to, j.options.Password, j.document.WrittenAt)
	sets := [][]*sheet.Sheet{j.document.Sheets}
	if !f.Several {
		sets = nil
		for _, s := range j.document.Sheets {
			sets = append(sets, []*sheet.Sheet{s})
		}
	}
	outer := j.to
	for i, sheets := range sets {
		name := j.document.Title
		if len(sets) > 1 {
			name = fmt.Sprintf("%d %s", i+1, sheets[0].View.Title)
		}
		inner, err := archive.file(SafeName(name) + "." + f.Ending)
		if err != nil {
			return err
		}
		one := *j.document
		one.Sheets = sheets
		part := *j
		part.document, part.to = &one, &counted{Writer: inner}
		if err := f.write(&part); err != nil {
			return err
		}
		j.done.Lines, j.done.Defused = part.done.Lines, part.done.Defused
		if err := inner.Close(); err != nil {
			return err
		}
		j.done.Bytes = outer.bytes
	}
	return archive.close()
}

func writePDF(j *job) error {
	return paper.PDF(j.ctx, j.to, j.document, j.options.Page, func(pages int) {
		j.done.Lines = min(pages*40, j.done.Of) // about as many stand on a page
		j.progress(j.done)
	})
}

// The size of drawings, in points.
const drawnWidth, drawnHeight = 640, 360

func writeSVG(j *job) error {
	s := j.document.Sheets[0]
	return chart.SVG(j.to, s.Chart, j.document.Form, drawnWidth, chart.Height(s.Chart, drawnHeight))
}

func writePNG(j *job) error {
	s := j.document.Sheets[0]
	return chart.PNG(j.to, s.Chart, j.document.Form, drawnWidth, chart.Height(s.Chart, drawnHeight))
}
