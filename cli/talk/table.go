package talk

import (
	"encoding/csv"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/mattn/go-runewidth"
	"golang.org/x/term"
)

// eighths are the ends of bars, in eighths of a character.
var eighths = []string{"", "▏", "▎", "▍", "▌", "▋", "▊", "▉"}

// Bar draws a bar of a length, in characters, to the right or left of zero.
func Bar(zero, length float64) string {
	if length < 0 {
		n := int(-length + 0.5)
		return strings.Repeat(" ", max(int(zero)-n, 0)) + strings.Repeat("█", n)
	}
	whole := int(length)
	return strings.Repeat(" ", int(zero)) + strings.Repeat("█", whole) + eighths[int((length-float64(whole))*8)]
}

// Table is rows of cells under headings, drawn to fit a width.
type Table struct {
	Headings []string
	Right    []bool // which columns end at the right; nil for none
	Rows     [][]string
	Totals   []string // below a rule; nil for none
}

// How far columns are cut: keys, days and moments, which have digits in every
// cell and are no longer than a moment with its zone, are not, since half of one
// is another; all others keep at least so much.
const (
	moment = 24
	least  = 8
)

// fit returns the widths of the columns that fit, cutting the widest
// left-aligned ones first and leaving out the last ones where that is not
// enough. A width of 0 means there is no limit.
func (t *Table) fit(width int) []int {
	widths := make([]int, len(t.Headings))
	for _, row := range slices.Concat([][]string{t.Headings, t.Totals}, t.Rows) {
		for i, cell := range row {
			widths[i] = max(widths[i], runewidth.StringWidth(Clean(cell)))
		}
	}
	whole := t.wholes(widths)
	for width > 0 && total(widths) > width {
		widest := -1
		for i, w := range widths {
			if !t.endsRight(i) && w > least && !whole[i] && (widest < 0 || w > widths[widest]) {
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

// wholes tells which columns are not cut.
func (t *Table) wholes(widths []int) []bool {
	whole := make([]bool, len(widths))
	for i, w := range widths {
		whole[i] = w <= moment && len(t.Rows) > 0
		for _, row := range t.Rows {
			whole[i] = whole[i] && (row[i] == "" || strings.ContainsAny(row[i], "0123456789"))
		}
	}
	return whole
}

func total(widths []int) int {
	sum := -2
	for _, w := range widths {
		sum += w + 2
	}
	return sum
}

func (t *Table) endsRight(i int) bool { return i < len(t.Right) && t.Right[i] }

// Draw writes a table as it is wanted, and returns the headings that did not
// fit.
func (c *Program) Draw(t *Table) (left []string, err error) {
	if !c.CSV() {
		left, err = t.draw(c.Out, WidthOf(c.Out))
		if err == nil && len(t.Rows) == 0 && t.Totals == nil {
			_, err = fmt.Fprintln(c.Out, "none")
		}
		return left, err
	}
	w := csv.NewWriter(c.Out)
	w.UseCRLF = true // RFC 4180
	if err := w.Write(t.Headings); err != nil {
		return nil, err
	}
	if err := w.WriteAll(t.Rows); err != nil {
		return nil, err
	}
	return nil, w.Error()
}

// draw writes the table and returns the headings that were left out.
func (t *Table) draw(w io.Writer, width int) (left []string, err error) {
	widths := t.fit(width)
	var b strings.Builder
	rule := strings.Repeat("─", max(total(widths), 0)) + "\n"
	t.line(&b, t.Headings, widths)
	b.WriteString(rule)
	for _, row := range t.Rows {
		t.line(&b, row, widths)
	}
	if t.Totals != nil {
		b.WriteString(rule)
		t.line(&b, t.Totals, widths)
	}
	_, err = io.WriteString(w, b.String())
	return t.Headings[len(widths):], err
}

func (t *Table) line(b *strings.Builder, cells []string, widths []int) {
	var line strings.Builder
	for i, w := range widths {
		if i > 0 {
			line.WriteString("  ")
		}
		cell := runewidth.Truncate(Clean(cells[i]), w, "…")
		if t.endsRight(i) {
			line.WriteString(runewidth.FillLeft(cell, w))
		} else {
			line.WriteString(runewidth.FillRight(cell, w))
		}
	}
	b.WriteString(strings.TrimRight(line.String(), " "))
	b.WriteByte('\n')
}

// Clean keeps control characters of the data away from the terminal.
func Clean(cell string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r >= 0x7f && r < 0xa0 {
			return ' '
		}
		return r
	}, cell)
}

// WidthOf returns the width of the terminal that w is, or 0 when it is none.
func WidthOf(w io.Writer) int {
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
