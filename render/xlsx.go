package render

import (
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"mantilla/core/frame"
	"mantilla/core/sheet"
)

// MaxXLSXRows is how many rows a worksheet holds beside its headings and totals.
const MaxXLSXRows = excelize.TotalRows - 2

// ErrTooLong says that a sheet does not fit the format.
var ErrTooLong = fmt.Errorf("a spreadsheet holds at most %d rows; filter the rows or take them as CSV", MaxXLSXRows)

// XLSX writes a sheet as an Office Open XML workbook of one worksheet: headings
// that stay in sight, cells of real types, and totals below. Times are written
// as they read in the zone, since a spreadsheet has none.
func XLSX(w io.Writer, s *sheet.Sheet, zone *time.Location) (err error) {
	if s.Lines > MaxXLSXRows {
		return ErrTooLong
	}
	defer func() {
		if err != nil {
			err = fmt.Errorf("writing XLSX: %w", err)
		}
	}()
	file := excelize.NewFile()
	defer func() { err = errors.Join(err, file.Close()) }()
	name := worksheetName(s.View.Title)
	if err := file.SetSheetName("Sheet1", name); err != nil {
		return err
	}
	stream, err := file.NewStreamWriter(name)
	if err != nil {
		return err
	}
	x := xlsx{sheet: s, stream: stream, zone: zone, columns: s.Grid().Columns}
	if err := x.styles(file); err != nil {
		return err
	}
	if err := x.rows(); err != nil {
		return err
	}
	if err := stream.Flush(); err != nil {
		return err
	}
	return file.Write(w)
}

// worksheetName makes a title fit the rules for names of worksheets.
func worksheetName(title string) string {
	title = strings.NewReplacer(":", " ", "\\", " ", "/", " ", "?", " ", "*", " ", "[", "(", "]", ")").Replace(title)
	for utf8.RuneCountInString(title) > 31 {
		_, n := utf8.DecodeLastRuneInString(title)
		title = title[:len(title)-n]
	}
	return strings.Trim(title, "' ")
}

type xlsx struct {
	sheet   *sheet.Sheet
	columns []sheet.GridColumn
	stream  *excelize.StreamWriter
	zone    *time.Location
	heads   []int // style of each heading
	cells   []int // style of each column's cells
	totals  []int
	written int
}

func (x *xlsx) styles(file *excelize.File) error {
	line := []excelize.Border{{Type: "bottom", Style: 1, Color: "808080"}}
	above := []excelize.Border{{Type: "top", Style: 1, Color: "808080"}}
	for _, c := range x.columns {
		across := "left"
		if c.Field.Kind.Numeric() && c.Field.Names == nil {
			across = "right"
		}
		align := &excelize.Alignment{Horizontal: across, Vertical: "top"}
		format := numberFormat(c.Field)
		for _, s := range []struct {
			to    *[]int
			style excelize.Style
		}{
			{&x.heads, excelize.Style{Font: &excelize.Font{Bold: true}, Border: line, Alignment: &excelize.Alignment{Horizontal: across, WrapText: true, Vertical: "bottom"}}},
			{&x.cells, excelize.Style{CustomNumFmt: &format, Alignment: align}},
			{&x.totals, excelize.Style{CustomNumFmt: &format, Font: &excelize.Font{Bold: true}, Border: above, Alignment: align}},
		} {
			id, err := file.NewStyle(&s.style)
			if err != nil {
				return err
			}
			*s.to = append(*s.to, id)
		}
	}
	return nil
}

func numberFormat(c frame.Field) string {
	switch c.Kind {
	case frame.Integer:
		return "#,##0"
	case frame.Decimal, frame.Money:
		if c.Scale == 0 {
			return "#,##0"
		}
		return "#,##0." + strings.Repeat("0", int(c.Scale))
	case frame.Date:
		return "yyyy-mm-dd"
	case frame.Timestamp:
		return "yyyy-mm-dd hh:mm"
	}
	return "@"
}

func (x *xlsx) rows() error {
	for i, c := range x.columns {
		if err := x.stream.SetColWidth(i+1, i+1, width(c)); err != nil {
			return err
		}
	}
	err := x.stream.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"})
	if err != nil {
		return err
	}
	row := make([]any, len(x.columns))
	for i, c := range x.columns {
		row[i] = excelize.Cell{StyleID: x.heads[i], Value: c.Heading}
	}
	if err := x.write(row); err != nil {
		return err
	}
	err = x.sheet.Grid().Each(func(cells []frame.Value) error {
		for i, v := range cells {
			row[i] = excelize.Cell{StyleID: x.cells[i], Value: x.value(v)}
		}
		return x.write(row)
	})
	if err != nil || !x.sheet.HasTotals() {
		return err
	}
	before := len(x.columns) - len(x.sheet.Totals) // the levels
	for i := range before {
		row[i] = excelize.Cell{StyleID: x.totals[i]}
	}
	for i, t := range x.sheet.Totals {
		row[before+i] = excelize.Cell{StyleID: x.totals[before+i]}
		if t.Op != frame.NoTotal {
			row[before+i] = excelize.Cell{StyleID: x.totals[before+i], Value: x.value(t.Value)}
		}
	}
	return x.write(row)
}

func (x *xlsx) write(row []any) error {
	x.written++
	return x.stream.SetRow("A"+strconv.Itoa(x.written), row)
}

// value gives a cell its spreadsheet type. A number of more digits than a
// spreadsheet holds exactly (15) is written as text rather than altered.
func (x *xlsx) value(v frame.Value) any {
	if v.Null {
		return nil
	}
	if v.Kind == frame.Text || v.Text != "" {
		return v.Text
	}
	switch v.Kind {
	case frame.Date:
		return frame.DayTime(v.Int())
	case frame.Timestamp:
		t := time.UnixMicro(v.Int()).In(x.zone)
		return time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), 0, time.UTC)
	case frame.Flag:
		return v.String()
	}
	text := v.Number.String()
	if len(strings.Trim(text, "-.0")) > 15 {
		return text
	}
	number, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return text
	}
	return number
}

// width is a column's width in characters, from its heading and kind.
func width(c sheet.GridColumn) float64 {
	least := map[frame.Kind]int{frame.Text: 18, frame.Date: 11, frame.Timestamp: 17, frame.Flag: 8}[c.Field.Kind]
	return float64(min(max(least, 12, utf8.RuneCountInString(c.Heading)+2), 40))
}
