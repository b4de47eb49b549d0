package render

import (
	"bufio"
	"fmt"
	"strings"

	"github.com/mattn/go-runewidth"

	"mantilla/core/sheet"
	"mantilla/render/document"
)

// mostWide is how many letters a column of plain text has at most.
const mostWide = 40

// writeText writes views in letters of equal width, as mail shows them.
func writeText(j *job) error {
	w := bufio.NewWriterSize(j.to, flushed)
	d := j.document
	fmt.Fprintf(w, "%s\n%s\n%s\n", d.Title, d.Says(), d.Number)
	if d.SealSays() != d.Seal {
		fmt.Fprintln(w, "This is an extract of the result.")
	}
	for _, n := range d.Notes {
		fmt.Fprintf(w, "Note: %s\n", n)
	}
	for _, s := range d.Sheets {
		fmt.Fprintf(w, "\n%s\n%s\n", s.View.Title, strings.Repeat("=", runewidth.StringWidth(s.View.Title)))
		if err := j.textOf(w, s); err != nil {
			return err
		}
	}
	return w.Flush()
}

func (j *job) textOf(w *bufio.Writer, s *sheet.Sheet) error {
	t := j.document.Read(s)
	widths := make([]int, len(t.Heads))
	see := func(cells []string) {
		for i, c := range cells {
			widths[i] = min(max(widths[i], runewidth.StringWidth(c)), mostWide)
		}
	}
	heads := make([]string, len(t.Heads))
	for i, h := range t.Heads {
		heads[i] = strings.Join(append(append([]string{}, h.Over...), h.Text), " / ")
		if h.Blank {
			widths[i] = 16
		}
	}
	see(heads)
	see(t.Total)
	err := t.Each(j.ctx, func(lines []document.Line) error {
		for _, l := range lines {
			l.Cells[0] = indent(l) + l.Cells[0]
			see(l.Cells)
		}
		return j.lines(0)
	})
	if err != nil {
		return err
	}
	put := func(cells []string, fill string) {
		var b strings.Builder
		for i, c := range cells {
			if i > 0 {
				b.WriteString("  ")
			}
			c = runewidth.Truncate(strings.ReplaceAll(c, "\n", " "), widths[i], "…")
			if t.Heads[i].Blank && fill != "" {
				c = strings.Repeat(fill, widths[i])
			}
			if t.Heads[i].Right {
				b.WriteString(runewidth.FillLeft(c, widths[i]))
			} else {
				b.WriteString(runewidth.FillRight(c, widths[i]))
			}
		}
		w.WriteString(strings.TrimRight(b.String(), " ") + "\n")
	}
	rule := make([]string, len(heads))
	for i := range rule {
		rule[i] = strings.Repeat("-", widths[i])
	}
	put(heads, "")
	put(rule, "")
	err = t.Each(j.ctx, func(lines []document.Line) error {
		for _, l := range lines {
			l.Cells[0] = indent(l) + l.Cells[0]
			put(l.Cells, "_")
		}
		return j.lines(len(lines))
	})
	if err == nil && t.Total != nil {
		put(rule, "")
		put(t.Total, "")
	}
	return err
}

func indent(l document.Line) string {
	if l.Kind == sheet.RowLine {
		return ""
	}
	return strings.Repeat("  ", max(l.Level-1, 0))
}
