package statement

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/reconcile"
)

// mostBefore is how many rows may stand before the headings.
const mostBefore = 40

// columns are where the declared headings stand in a row; -1 for one that is not there.
type columns struct{ day, amount, reference, text, currency int }

// headings finds the declared headings in a row; ok where day and amount are there.
func (r *reader) headings(row []string) (c columns, ok bool) {
	at := func(heading string) int {
		for i, cell := range row {
			if heading != "" && strings.EqualFold(strings.TrimSpace(cell), heading) {
				return i
			}
		}
		return -1
	}
	f := r.by.File
	c = columns{at(f.Day), at(f.Amount), at(f.Reference), at(f.Text), at(f.Currency)}
	return c, c.day >= 0 && c.amount >= 0
}

// missing tells which declared headings are not there.
func (r *reader) missing(place string, c columns) {
	f := r.by.File
	for _, h := range []struct {
		heading string
		at      int
	}{{f.Reference, c.reference}, {f.Text, c.text}, {f.Currency, c.currency}} {
		if h.heading != "" && h.at < 0 {
			r.fault(place, "there is no column %q", h.heading)
		}
	}
}

// declared tells whether the statement says how rows are read.
func (r *reader) declared() bool {
	if r.by.File.Day == "" {
		r.fault("", "%s is read from camt.053 alone; its headings in CSV and XLSX are not declared", r.by.Title)
		return false
	}
	return true
}

var separators = map[string]rune{"comma": ',', "semicolon": ';', "tab": '\t', "bar": '|'}

// csv reads a CSV file, in UTF-8 or else in Windows-1252, as older programs write them.
func (r *reader) csv(data []byte) {
	if !r.declared() {
		return
	}
	data = bytes.TrimPrefix(data, bom)
	if !utf8.Valid(data) {
		if converted, err := charmap.Windows1252.NewDecoder().Bytes(data); err == nil {
			data = converted
		}
	}
	in := csv.NewReader(bytes.NewReader(data))
	in.Comma, in.FieldsPerRecord, in.TrimLeadingSpace = separators[r.by.File.Separator], -1, true
	var c columns
	found := false
	for n := 0; ; n++ {
		row, err := in.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			r.fault("", "it is no CSV: %v", err)
			return
		}
		line, _ := in.FieldPos(0)
		place := fmt.Sprintf("line %d", line)
		if found {
			r.row(place, row, c, r.textDay, r.number)
			continue
		}
		if c, found = r.headings(row); found {
			r.missing(place, c)
		} else if n == mostBefore {
			break
		}
	}
	if !found {
		r.fault("", "there are no headings %q and %q with %s between; it is neither camt.053 nor XLSX", r.by.File.Day,
			r.by.File.Amount, r.by.File.Separator)
	}
}

// mostUnpacked bounds what a spreadsheet may come to once it is unpacked.
const mostUnpacked = 200 << 20

// sheets reads the first sheet of a spreadsheet that has the headings.
func (r *reader) sheets(data []byte) {
	if !r.declared() {
		return
	}
	book, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{RawCellValue: true,
		UnzipSizeLimit: mostUnpacked, UnzipXMLSizeLimit: mostUnpacked})
	if err != nil {
		r.fault("", "it is no spreadsheet that can be read: %v", err)
		return
	}
	defer book.Close()
	props, err := book.GetWorkbookProps()
	from1904 := err == nil && props.Date1904 != nil && *props.Date1904
	day := func(text string) (period.Day, error) { return r.sheetDay(text, from1904) }
	for _, sheet := range book.GetSheetList() {
		rows, err := book.GetRows(sheet)
		if err != nil {
			r.fault("sheet "+sheet, "it cannot be read: %v", err)
			return
		}
		for n := 0; n < min(len(rows), mostBefore); n++ {
			c, found := r.headings(rows[n])
			if !found {
				continue
			}
			r.missing(fmt.Sprintf("sheet %s, row %d", sheet, n+1), c)
			for i, row := range rows[n+1:] {
				r.row(fmt.Sprintf("sheet %s, row %d", sheet, n+i+2), row, c, day, r.sheetNumber)
			}
			return
		}
	}
	r.fault("", "no sheet has the headings %q and %q", r.by.File.Day, r.by.File.Amount)
}

// row reads a line of a statement; empty rows are none.
func (r *reader) row(place string, row []string, c columns, day func(string) (period.Day, error),
	number func(string) (int64, error)) {
	cell := func(at int) string {
		if at < 0 || at >= len(row) {
			return ""
		}
		return strings.TrimSpace(row[at])
	}
	if cell(c.day) == "" && cell(c.amount) == "" {
		return
	}
	booked, err := day(cell(c.day))
	if err != nil {
		r.fault(place, "%s: %v", r.by.File.Day, err)
	}
	amount, err := number(cell(c.amount))
	if err != nil {
		r.fault(place, "%s: %v", r.by.File.Amount, err)
	}
	r.currency(place, cell(c.currency))
	r.add(reconcile.Item{Amount: amount, Day: booked, Reference: cell(c.reference), Text: cell(c.text)})
}

// number reads an amount with the declared decimal sign, and the other as what may stand
// between thousands.
func (r *reader) number(text string) (int64, error) {
	plain := strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "−", "-").Replace(text)
	between, decimal := ",", "."
	if r.by.File.Decimal == "comma" {
		between, decimal = ".", ","
	}
	plain = strings.TrimPrefix(strings.ReplaceAll(strings.ReplaceAll(plain, between, ""), decimal, "."), "+")
	if n, err := frame.ParseNumber(plain, r.amount.Scale); err == nil {
		return n, nil
	}
	return 0, fmt.Errorf("%q is no amount with at most %d decimals", text, r.amount.Scale)
}

// sheetNumber reads an amount of a spreadsheet, which is a binary fraction there, whatever the
// decimal sign that is declared, or a text.
func (r *reader) sheetNumber(text string) (int64, error) {
	f, err := strconv.ParseFloat(text, 64)
	scaled := f * math.Pow10(int(r.amount.Scale))
	if whole := math.Round(scaled); err == nil && math.Abs(whole) < 1<<53 && math.Abs(scaled-whole) < 1e-4 {
		return int64(whole), nil
	}
	return r.number(text)
}

var layouts = map[string][]string{
	"iso": {time.DateOnly, "20060102"},
	"dmy": {"2.1.2006", "2/1/2006", "2-1-2006", "2.1.06"},
	"mdy": {"1/2/2006", "1-2-2006", "1/2/06"},
}

// textDay reads a day as it is declared to be written.
func (r *reader) textDay(text string) (period.Day, error) {
	first, _, _ := strings.Cut(strings.Replace(text, "T", " ", 1), " ") // without a time
	for _, layout := range layouts[r.by.File.Dates] {
		if t, err := time.Parse(layout, first); err == nil {
			return period.DayOf(t, time.UTC), nil
		}
	}
	return 0, fmt.Errorf("%q is no day; they are declared to be written as %s", text,
		map[string]string{"iso": "2026-10-14", "dmy": "14.10.2026", "mdy": "10/14/2026"}[r.by.File.Dates])
}

// sheetDay reads a day of a spreadsheet, which is a number of days there, or a text.
func (r *reader) sheetDay(text string, from1904 bool) (period.Day, error) {
	if n, err := strconv.ParseFloat(text, 64); err == nil && n > 1 && n < 1e6 {
		t, err := excelize.ExcelDateToTime(n, from1904)
		return period.DayOf(t, time.UTC), err
	}
	return r.textDay(text)
}
