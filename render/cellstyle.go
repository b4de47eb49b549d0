package render

import (
	"fmt"
	"math"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"mantilla/core/frame"
	"mantilla/core/sheet"
)

// styles are the looks of a worksheet's cells, by column.
type styles struct {
	heads, cells, groups, totals []int
	links                        []int
	over, told                   int
}

// fontSize is the usual size of a workbook's letters, in points.
const fontSize = 11

func (x *worksheet) makeStyles() error {
	below := []excelize.Border{{Type: "bottom", Style: 1, Color: "808080"}}
	above := []excelize.Border{{Type: "top", Style: 1, Color: "808080"}}
	family, err := x.file.GetDefaultFont()
	if err != nil {
		return err
	}
	bold := &excelize.Font{Bold: true, Family: family, Size: fontSize}
	link := &excelize.Font{Color: "6D2A5B", Underline: "single", Family: family, Size: fontSize}
	made := map[string]int{}
	style := func(s excelize.Style) (id int, err error) {
		key := fmt.Sprintf("%v %v %v %v", s.Font, s.Border, s.Alignment, *s.CustomNumFmt)
		if id, ok := made[key]; ok {
			return id, nil
		}
		id, err = x.file.NewStyle(&s)
		made[key] = id
		return id, err
	}
	plain := "@"
	if x.styles.over, err = x.file.NewStyle(&excelize.Style{Font: bold, CustomNumFmt: &plain}); err != nil {
		return err
	}
	x.styles.told = x.styles.over
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
			{&x.styles.heads,
				excelize.Style{
					Font:         bold,
					Border:       below,
					CustomNumFmt: &plain,
					Alignment:    &excelize.Alignment{Horizontal: across, WrapText: true, Vertical: "bottom"},
				}},
			{&x.styles.cells, excelize.Style{CustomNumFmt: &format, Alignment: align}},
			{&x.styles.groups, excelize.Style{CustomNumFmt: &format, Font: bold, Alignment: align}},
			{&x.styles.totals, excelize.Style{CustomNumFmt: &format, Font: bold, Border: above, Alignment: align}},
			{&x.styles.links, excelize.Style{CustomNumFmt: &format, Font: link, Alignment: align}},
		} {
			id, err := style(s.style)
			if err != nil {
				return err
			}
			*s.to = append(*s.to, id)
		}
	}
	return nil
}

func numberFormat(c frame.Field) string {
	switch {
	case c.Names != nil || c.Grain != "":
		return "@"
	case c.Kind == frame.Integer:
		return "#,##0"
	case c.Kind == frame.Decimal, c.Kind == frame.Money:
		if c.Scale == 0 {
			return "#,##0"
		}
		return "#,##0." + strings.Repeat("0", int(c.Scale))
	case c.Kind == frame.Date:
		return "yyyy-mm-dd"
	case c.Kind == frame.Timestamp:
		return "yyyy-mm-dd hh:mm"
	}
	return "@"
}

// value gives a cell its spreadsheet type.
func (x *worksheet) value(v frame.Value) any {
	switch {
	case v.Null:
		return nil
	case v.Kind == frame.Text || v.Text != "":
		return v.Text
	case v.Grain != "":
		return x.document.Form.Text(v)
	case v.Kind.Numeric():
		if n := int64(v.Number.Digits.LowBits()); v.Number.Digits.HighBits() == n>>63 {
			return x.cell(frame.Field{Kind: v.Kind, Scale: v.Number.Scale}, n)
		}
		return v.Number.String()
	}
	return x.cell(frame.Field{Kind: v.Kind}, v.Int())
}

// mostExact bounds the digits that a spreadsheet holds exactly: 15.
const mostExact = 1_000_000_000_000_000

// epoch is the day that spreadsheets call 0, in days since 1970-01-01; days
// before March 1900 are off by one there and are written as text.
const epoch, leastDay = -25569, -25508

// cell gives a cell that is not text its spreadsheet type. A number of more
// digits than a spreadsheet holds is written as text rather than altered.
func (x *worksheet) cell(f frame.Field, v int64) any {
	switch f.Kind {
	case frame.Date:
		if v < leastDay {
			return frame.DayTime(v).Format("2006-01-02")
		}
		return v - epoch
	case frame.Timestamp:
		t := time.UnixMicro(v).In(x.document.Form.Zone)
		_, offset := t.Zone()
		return float64(v/1_000_000+int64(offset))/86400 - epoch
	case frame.Flag:
		if v != 0 {
			return "yes"
		}
		return "no"
	}
	if v <= -mostExact || v >= mostExact {
		return frame.Exact(v, f.Scale).String()
	}
	if f.Scale == 0 {
		return v
	}
	return float64(v) / math.Pow10(int(f.Scale)) // rightly rounded: both are exact
}

// lead makes a cell a link. A formula holds no longer address.
func (x *worksheet) lead(i int, address string) {
	cell, ok := x.row[i].(*excelize.Cell)
	if address == "" || !ok || len(address) > 255 || cell.Value == nil {
		return
	}
	quoted := func(text string) string { return `"` + strings.ReplaceAll(text, `"`, `""`) + `"` }
	text, isText := cell.Value.(string)
	shown := quoted(text)
	if !isText {
		shown = fmt.Sprint(cell.Value)
	}
	if len(shown) > 255 {
		return
	}
	cell.Formula, cell.StyleID = "HYPERLINK("+quoted(address)+","+shown+")", x.styles.links[i]
}

// marks tells the tones of a line in words.
func (x *worksheet) marks(l sheet.Line) any {
	var words []string
	if l.Tone != "" {
		words = append(words, l.Tone+": line")
	}
	for i, tone := range l.Tones {
		if tone != "" {
			words = append(words, tone+": "+x.columns[x.before+i].Heading)
		}
	}
	if words == nil {
		return nil
	}
	return strings.Join(words, "; ")
}

var looks = []struct{ tone, color, ground string }{
	{"alert", "9C3321", "FBEEEA"}, {"attention", "694505", "FDF5E3"}, {"good", "105450", "E9F5F4"},
	{"muted", "766D64", ""}, {"total", "", ""},
}

// markLooks gives marked cells and lines their looks, by conditions on the
// column that tells the tones.
func (x *worksheet) markLooks(last int) error {
	if x.marked == 0 {
		return nil
	}
	told, err := excelize.ColumnNumberToName(x.marked)
	if err != nil {
		return err
	}
	set := func(from, to int, text string, style int) error {
		a, _ := excelize.CoordinatesToCellName(from, x.first)
		b, _ := excelize.CoordinatesToCellName(to, last)
		text = strings.ReplaceAll(text, `"`, `""`)
		return x.file.SetConditionalFormat(x.name, a+":"+b, []excelize.ConditionalFormatOptions{{Type: "formula",
			Criteria: fmt.Sprintf(`=ISNUMBER(SEARCH("%s",$%s%d))`, text, told, x.first), Format: &style}})
	}
	for _, look := range looks {
		s := &excelize.Style{Font: &excelize.Font{Color: look.color, Bold: look.tone == "total"}}
		if look.ground != "" {
			s.Fill = excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{look.ground}}
		}
		style, err := x.file.NewConditionalStyle(s)
		if err != nil {
			return err
		}
		for i, c := range x.sheet.Columns {
			if len(c.Tones) > 0 {
				if err := set(x.before+i+1, x.before+i+1, look.tone+": "+x.columns[x.before+i].Heading, style); err != nil {
					return err
				}
			}
		}
		if len(x.sheet.View.Tones) > 0 {
			if err := set(1, len(x.columns), look.tone+": line", style); err != nil {
				return err
			}
		}
	}
	return nil
}

// widths are those of columns, in letters, as their headings and first lines
// need.
func (x *worksheet) widths() []float64 {
	out := make([]float64, len(x.columns))
	see := func(i int, text string) {
		out[i] = max(out[i], min(float64(utf8.RuneCountInString(text))*1.05+2, 60))
	}
	for i, c := range x.columns {
		for word := range strings.FieldsSeq(c.Heading) {
			see(i, word+"  ") // beside the sign of the filter
		}
		out[i] = max(out[i], map[frame.Kind]float64{frame.Date: 12, frame.Timestamp: 18}[c.Field.Kind], 7)
	}
	if x.sheet.Chart != nil {
		for _, place := range x.sheet.Chart.Places {
			see(0, place.Name)
		}
		for i, series := range x.sheet.Chart.Series {
			for _, v := range series.Figures {
				see(i+1, x.document.Form.In(time.UTC).Text(v))
			}
		}
	} else {
		for i, t := range x.sheet.Totals {
			see(x.before+i, x.document.Form.In(time.UTC).Text(t.Value))
		}
		lines, err := x.sheet.Read(x.job.ctx, 0, 400)
		if err != nil {
			return out // it will be told when the lines are written
		}
		for _, l := range lines {
			for i, v := range l.Cells {
				see(x.before+i, x.document.Form.In(time.UTC).Text(v))
			}
			if l.Kind != sheet.RowLine && l.Level > 0 {
				see(l.Level-1, x.sheet.KeyText(l.Key))
			}
		}
	}
	if x.marked > 0 {
		out = append(out, 24)
	}
	return out
}
