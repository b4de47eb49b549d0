package cli

import (
	"io"
	"os"
	"slices"
	"strings"

	"github.com/mattn/go-runewidth"
	"golang.org/x/term"
)

// table is rows of cells under headings, drawn to fit a width.
type table struct {
	headings []string
	right    []bool // which columns end at the right; nil for none
	rows     [][]string
	totals   []string // below a rule; nil for none
}

// Columns keep at least this width when they are cut.
const least = 8

// fit returns the widths of the columns that fit, cutting the widest
// left-aligned ones first and leaving out the last ones where that is not
// enough. A width of 0 means there is no limit.
func (t *table) fit(width int) []int {
	widths := make([]int, len(t.headings))
	for _, row := range slices.Concat([][]string{t.headings, t.totals}, t.rows) {
		for i, cell := range row {
			widths[i] = max(widths[i], runewidth.StringWidth(clean(cell)))
		}
	}
	for width > 0 && total(widths) > width {
		widest := -1
		for i, w := range widths {
			if !t.endsRight(i) && w > least && (widest < 0 || w > widths[widest]) {
				widest = i
			}
		}
		switch {
		case widest >= 0:
			widths[widest]--
		case len(widths) > 1:
			widths = widths[:len(widths)-1]
		default:
			widths[0] = width
		}
	}
	return widths
}

func total(widths []int) int {
	sum := -2
	for _, w := range widths {
		sum += w + 2
	}
	return sum
}

func (t *table) endsRight(i int) bool { return t.right != nil && t.right[i] }

// draw writes the table and returns the headings that were left out.
func (t *table) draw(w io.Writer, width int) (left []string, err error) {
	widths := t.fit(width)
	var b strings.Builder
	rule := strings.Repeat("─", max(total(widths), 0)) + "\n"
	t.line(&b, t.headings, widths)
	b.WriteString(rule)
	for _, row := range t.rows {
		t.line(&b, row, widths)
	}
	if t.totals != nil {
		b.WriteString(rule)
		t.line(&b, t.totals, widths)
	}
	_, err = io.WriteString(w, b.String())
	return t.headings[len(widths):], err
}

func (t *table) line(b *strings.Builder, cells []string, widths []int) {
	var line strings.Builder
	for i, w := range widths {
		if i > 0 {
			line.WriteString("  ")
		}
		cell := runewidth.Truncate(clean(cells[i]), w, "…")
		if t.endsRight(i) {
			line.WriteString(runewidth.FillLeft(cell, w))
		} else {
			line.WriteString(runewidth.FillRight(cell, w))
		}
	}
	b.WriteString(strings.TrimRight(line.String(), " "))
	b.WriteByte('\n')
}

// clean keeps control characters of the data away from the terminal.
func clean(cell string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r >= 0x7f && r < 0xa0 {
			return ' '
		}
		return r
	}, cell)
}

// widthOf returns the width of the terminal that w is, or 0 when it is none.
func widthOf(w io.Writer) int {
	file, ok := w.(*os.File)
	if !ok || !term.IsTerminal(int(file.Fd())) {
		return 0
	}
	width, _, err := term.GetSize(int(file.Fd()))
	if err != nil {
		return 80
	}
	return width
}
