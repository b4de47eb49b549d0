package render

import (
	"fmt"
	"strings"

	"github.com/xuri/excelize/v2"

	"mantilla/core/frame"
	"mantilla/core/sheet"
	"mantilla/core/shown"
)

// worksheet is one view on its way into a workbook.
type worksheet struct {
	*job
	file    *excelize.File
	name    string
	sheet   *sheet.Sheet
	stream  *excelize.StreamWriter
	columns []sheet.GridColumn
	styles  styles
	row     []any
	cells   []excelize.Cell // of the row, used again for each
	at      int             // rows written
	first   int             // row of the first line
	marked  int             // column that tells tones in words, 0 for none
	before  int             // columns before those of the sheet
}

func (x *worksheet) write() error {
	x.before = len(x.columns) - len(x.sheet.Columns)
	if x.sheet.Chart != nil {
		x.before, x.columns = 0, limited(x.sheet.Chart, x.columns)
	}
	if x.tones() {
		x.marked = len(x.columns) + 1
	}
	x.row = make([]any, max(len(x.columns), x.marked))
	x.cells = make([]excelize.Cell, len(x.row))
	if err := x.makeStyles(); err != nil {
		return err
	}
	if err := x.setUp(); err != nil {
		return err
	}
	if err := x.heads(); err != nil {
		return err
	}
	x.first = x.at + 1
	if err := x.body(); err != nil {
		return err
	}
	last := x.at
	if x.sheet.Chart == nil && x.sheet.HasTotals() {
		if err := x.total(last); err != nil {
			return err
		}
	}
	return x.after(last)
}

// tones tells whether anything of the sheet may be marked.
func (x *worksheet) tones() bool {
	if x.sheet.Chart != nil {
		return false
	}
	marked := len(x.sheet.View.Tones) > 0
	for _, c := range x.sheet.Columns {
		marked = marked || len(c.Tones) > 0
	}
	return marked
}

// setUp settles widths and what stays in sight.
func (x *worksheet) setUp() error {
	for i, w := range x.widths() {
		if err := x.stream.SetColWidth(i+1, i+1, w); err != nil {
			return err
		}
	}
	above := 1 + x.over()
	if x.options.Told {
		above += 4
	}
	side := 0
	if len(x.columns) > 1 {
		side = max(len(x.sheet.Levels), 1)
	}
	corner, err := excelize.CoordinatesToCellName(side+1, above+1)
	if err != nil {
		return err
	}
	return x.stream.SetPanes(&excelize.Panes{
		Freeze:      true,
		XSplit:      side,
		YSplit:      above,
		TopLeftCell: corner,
		ActivePane:  "bottomRight",
	})
}

// over is how many rows of headings stand above the lowest, in a crosstab.
func (x *worksheet) over() (deep int) {
	if x.sheet.Chart != nil || x.sheet.View.Stacked {
		return 0
	}
	for _, c := range x.sheet.Columns {
		deep = max(deep, len(c.Heads))
	}
	return deep
}

func (x *worksheet) heads() error {
	if x.options.Told {
		for _, text := range []string{x.document.Title, x.document.Says(), x.document.Number} {
			if err := x.put([]any{excelize.Cell{StyleID: x.styles.told, Value: text}}); err != nil {
				return err
			}
		}
		x.at++
	}
	over := x.over()
	for row := range over {
		clear(x.row)
		last := ""
		for i, c := range x.sheet.Columns {
			text := ""
			if row < len(c.Heads) {
				text = c.Heads[row]
			} else if row == 0 {
				text = "Total"
			}
			if key := strings.Join(c.Heads[:min(row+1, len(c.Heads))], "\x00") + text; key != last {
				x.set(x.before+i, x.styles.over, text)
				last = key
			}
		}
		if err := x.put(x.row); err != nil {
			return err
		}
	}
	clear(x.row)
	for i, c := range x.columns {
		heading := c.Heading
		if over > 0 && i >= x.before {
			heading = shown.Heading(x.sheet.Columns[i-x.before].Column)
		}
		x.set(i, x.styles.heads[i], heading)
	}
	if x.marked > 0 {
		x.set(x.marked-1, x.styles.over, "Marks")
	}
	return x.put(x.row)
}

// set makes a cell of the row under way.
func (x *worksheet) set(i, style int, value any) *excelize.Cell {
	x.cells[i] = excelize.Cell{StyleID: style, Value: value}
	x.row[i] = &x.cells[i]
	return &x.cells[i]
}

func (x *worksheet) put(row []any, options ...excelize.RowOpts) error {
	x.at++
	cell, err := excelize.CoordinatesToCellName(1, x.at)
	if err != nil {
		return err
	}
	return x.stream.SetRow(cell, row, options...)
}

// body writes the lines: rows straight from their columns where there is
// nothing else.
func (x *worksheet) body() error {
	if x.sheet.Flat() && x.marked == 0 && len(x.sheet.Links) == 0 && plainNames(x.sheet) {
		return x.sheet.Each(x.job.ctx, func(b *frame.Batch) error {
			for row := range b.Rows {
				for col, field := range b.Schema() {
					switch {
					case b.Null(col, row):
						x.row[col] = nil
					case field.Kind == frame.Text:
						x.set(col, x.styles.cells[col], b.Text(col, row))
					default:
						x.set(col, x.styles.cells[col], x.cell(field, b.Int(col, row)))
					}
				}
				if err := x.put(x.row); err != nil {
					return err
				}
			}
			return x.lines(b.Rows)
		})
	}
	if x.sheet.Chart != nil {
		return x.sheet.Grid().Each(x.job.ctx, func(cells []frame.Value) error {
			for _, m := range x.sheet.Chart.Marks {
				cells = append(cells, m.Value)
			}
			for i, v := range cells {
				x.set(i, x.styles.cells[i], x.value(v))
			}
			return x.put(x.row)
		})
	}
	table := x.document.Read(x.sheet)
	return x.sheet.Grid().Lines(x.job.ctx, func(l sheet.Line, cells []frame.Value) error {
		clear(x.row)
		for i, v := range cells {
			x.line(l, i, v)
		}
		if l.Kind == sheet.RowLine {
			for i, address := range table.Addresses(l) {
				x.lead(x.before+i, address)
			}
		}
		if x.marked > 0 {
			x.set(x.marked-1, 0, x.marks(l))
		}
		if err := x.put(x.row, excelize.RowOpts{OutlineLevel: x.depth(l)}); err != nil {
			return err
		}
		return x.lines(1)
	})
}

// depth is how deep a line lies in the outline; a spreadsheet has seven levels.
func (x *worksheet) depth(l sheet.Line) int {
	switch {
	case l.Kind == sheet.RowLine:
		return min(len(x.sheet.Levels), 7)
	case l.Level == 0:
		return 0
	}
	return min(l.Level-1, 7)
}

// line makes a cell of a line; the figure of a group that is unfolded is a
// formula over what is below it.
func (x *worksheet) line(l sheet.Line, i int, v frame.Value) {
	style := x.styles.cells[i]
	if l.Kind != sheet.RowLine {
		style = x.styles.groups[i]
	}
	cell := x.set(i, style, x.value(v))
	if l.Kind == sheet.GroupLine && l.Below > 0 && i >= x.before && !v.Null && x.sheet.View.Limit == 0 {
		whole := x.sheet.ShowsRows()
		if n := subtotal(x.sheet.Columns[i-x.before].Total, whole); n > 0 {
			cell.Formula = x.formula(n, i, x.at+2, x.at+1+l.Below)
		}
	}
}

// subtotal is the number of the spreadsheet's function that makes a total of
// what is below and leaves out other subtotals; 0 where there is none. All but
// sums need the rows themselves.
func subtotal(op frame.Op, rows bool) int {
	switch {
	case op == frame.Sum:
		return 9
	case op == frame.Min && rows:
		return 5
	case op == frame.Max && rows:
		return 4
	}
	return 0
}

func (x *worksheet) formula(function, column, from, to int) string {
	name, _ := excelize.ColumnNumberToName(column + 1) // a sheet has fewer columns than a spreadsheet
	return fmt.Sprintf("SUBTOTAL(%d,%s%d:%s%d)", function, name, from, name, to)
}

// total writes the line of totals.
func (x *worksheet) total(last int) error {
	clear(x.row)
	for i := range x.before {
		x.set(i, x.styles.totals[i], nil)
	}
	if x.before > 0 {
		x.set(0, x.styles.totals[0], "Total")
	}
	whole := x.sheet.Flat() || x.sheet.ShowsRows()
	for i, t := range x.sheet.Totals {
		cell := x.set(x.before+i, x.styles.totals[x.before+i], nil)
		if t.Op != frame.NoTotal {
			cell.Value = x.value(t.Value)
			n := subtotal(x.sheet.Columns[i].Total, whole || len(x.sheet.Levels) == 0)
			if _, written := cell.Value.(string); n > 0 && last >= x.first && !written && cell.Value != nil {
				cell.Formula = x.formula(n, x.before+i, x.first, last)
			}
		}
	}
	return x.put(x.row)
}

// after adds what is printed, a chart, filters and the looks of marks.
func (x *worksheet) after(last int) error {
	if err := x.onPaper(); err != nil {
		return err
	}
	if x.sheet.Chart != nil {
		if err := x.nativeChart(last); err != nil {
			return err
		}
	}
	if last < x.first {
		return nil
	}
	to, err := excelize.CoordinatesToCellName(len(x.row), last)
	if err != nil {
		return err
	}
	from, err := excelize.CoordinatesToCellName(1, x.first-1)
	if err != nil {
		return err
	}
	if err := x.file.AutoFilter(x.name, from+":"+to, nil); err != nil {
		return err
	}
	return x.markLooks(last)
}
