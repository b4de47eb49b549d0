package render

import (
	"bufio"
	_ "embed"
	"fmt"
	"html"
	"strings"

	"mantilla/core/sheet"
	"mantilla/render/chart"
	"mantilla/render/document"
)

//go:embed page.css
var pageStyle string

// writeHTML writes one web page that needs nothing else and prints well.
func writeHTML(j *job) error {
	w := &htmlWriter{job: j, Writer: bufio.NewWriterSize(j.to, flushed)}
	d := j.document
	w.put("<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" "+
		"content=\"width=device-width\"><title>%s</title>\n<style>\n%s</style></head><body>\n<header><p "+
		"class=\"org\">%s</p><h1>%s</h1><p class=\"says\">%s</p>",
		html.EscapeString(d.Title), pageStyle, html.EscapeString(d.Organisation), html.EscapeString(d.Title),
		html.EscapeString(d.Says()))
	for _, n := range d.Notes {
		w.put("<p class=\"note\">%s</p>", html.EscapeString(n))
	}
	w.put("</header>\n")
	for _, s := range d.Sheets {
		w.put("<section><h2>%s</h2>", html.EscapeString(s.View.Title))
		if s.View.Says != "" {
			w.put("<p>%s</p>", html.EscapeString(s.View.Says))
		}
		write := w.table
		if s.Chart != nil {
			write = w.chart
		}
		if err := write(s); err != nil {
			return err
		}
		w.put("</section>\n")
	}
	w.put("<footer><h2>How it was made</h2><dl>")
	for _, line := range d.Made() {
		w.put("<dt>%s</dt><dd>%s</dd>", html.EscapeString(line[0]), html.EscapeString(line[1]))
	}
	w.put("</dl></footer></body></html>\n")
	return w.Flush()
}

type htmlWriter struct {
	*job
	*bufio.Writer
}

// put writes; the first error stays and is told by Flush.
func (w *htmlWriter) put(format string, args ...any) { fmt.Fprintf(w.Writer, format, args...) }

func (w *htmlWriter) chart(s *sheet.Sheet) error {
	var b strings.Builder
	if err := chart.SVG(&b, s.Chart, w.document.Form, drawnWidth, chart.Height(s.Chart, drawnHeight)); err != nil {
		return err
	}
	drawing := b.String()
	if at := strings.Index(drawing, "<svg"); at >= 0 {
		drawing = drawing[at:] // a page is no XML document
	}
	w.put("<figure role=\"img\" aria-label=\"%s\">%s</figure>",
		html.EscapeString(s.View.Title+": "+s.Chart.Says(w.document.Form, 2000)), drawing)
	return nil
}

func (w *htmlWriter) table(s *sheet.Sheet) error {
	t := w.document.Read(s)
	w.put("<table><thead>")
	w.heads(t)
	w.put("</thead><tbody>\n")
	err := t.Each(w.ctx, func(lines []document.Line) error {
		for _, l := range lines {
			w.line(t, l)
		}
		return w.lines(len(lines))
	})
	w.put("</tbody>")
	if t.Total != nil {
		w.put("<tfoot>")
		w.line(t, document.Line{Kind: sheet.GroupLine, Cells: t.Total})
		w.put("</tfoot>")
	}
	w.put("</table>")
	return err
}

func (w *htmlWriter) heads(t *document.Table) {
	for row := range t.Over() {
		w.put("<tr class=\"over\">")
		for i := 0; i < len(t.Heads); {
			text := strings.Join(t.Heads[i].Over[:min(row+1, len(t.Heads[i].Over))], "\x00")
			span := 1
			for i+span < len(t.Heads) &&
				strings.Join(t.Heads[i+span].Over[:min(row+1, len(t.Heads[i+span].Over))], "\x00") == text && text != "" {
				span++
			}
			name := ""
			if row < len(t.Heads[i].Over) {
				name = t.Heads[i].Over[row]
			}
			w.put("<th colspan=\"%d\">%s</th>", span, html.EscapeString(name))
			i += span
		}
		w.put("</tr>")
	}
	w.put("<tr>")
	for _, h := range t.Heads {
		w.put("<th scope=\"col\"%s>%s</th>", right(h), html.EscapeString(h.Text))
	}
	w.put("</tr>")
}

func right(h document.Head) string {
	switch {
	case h.Blank:
		return " class=\"blank\""
	case h.Right:
		return " class=\"n\""
	}
	return ""
}

func (w *htmlWriter) line(t *document.Table, l document.Line) {
	class := string(l.Kind)
	if l.Kind != sheet.RowLine {
		class += fmt.Sprintf(" g%d", l.Level)
	}
	if l.Tone != "" {
		class += " " + l.Tone
	}
	w.put("<tr class=\"%s\">", class)
	for i, text := range l.Cells {
		tone := ""
		if l.Tones != nil && l.Tones[i] != "" {
			tone = fmt.Sprintf(" data-tone=\"%s\"", l.Tones[i])
		}
		text = html.EscapeString(text)
		if l.Addresses != nil && l.Addresses[i] != "" {
			text = fmt.Sprintf("<a href=\"%s\">%s</a>", html.EscapeString(l.Addresses[i]), text)
		}
		w.put("<td%s%s>%s</td>", right(t.Heads[i]), tone, text)
	}
	w.put("</tr>\n")
}
