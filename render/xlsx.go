package render

import (
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"mantilla/core/sheet"
)

// MaxXLSXRows is how many lines a worksheet holds beside its headings and totals.
const MaxXLSXRows = excelize.TotalRows - 16

// ErrTooLong says that a sheet does not fit the format.
var ErrTooLong = fmt.Errorf("a spreadsheet holds at most %d rows; filter the rows or take them as CSV or Parquet",
	MaxXLSXRows)

// writeXLSX writes an Office Open XML workbook: a worksheet for each view, and
// one that tells how they were made. Times are written as they read in the
// zone, since a spreadsheet has none.
func writeXLSX(j *job) (err error) {
	for _, s := range j.document.Sheets {
		if s.Lines > MaxXLSXRows {
			return ErrTooLong
		}
	}
	file := excelize.NewFile()
	defer func() { err = errors.Join(err, file.Close()) }()
	if err := file.SetDocProps(&excelize.DocProperties{Title: j.document.Title, Subject: j.document.Says(),
		Creator: j.document.AskedBy, Language: "en-GB",
		Created: j.document.WrittenAt.UTC().Format(time.RFC3339), Modified: j.document.WrittenAt.UTC().Format(time.RFC3339),
		Identifier: j.document.Number, Description: "Seal " + j.document.SealSays()}); err != nil {
		return err
	}
	names := worksheetNames(append(j.document.Views(), "How it was made"))
	for i, name := range names {
		if i == 0 {
			err = file.SetSheetName("Sheet1", name)
		} else {
			_, err = file.NewSheet(name)
		}
		if err != nil {
			return err
		}
	}
	for i, s := range j.document.Sheets {
		if err := j.worksheet(file, names[i], s); err != nil {
			return err
		}
	}
	if err := j.howMade(file, names[len(names)-1]); err != nil {
		return err
	}
	return file.Write(j.to)
}

// worksheetNames makes titles fit the rules for names of worksheets, each
// different. The library writes the names of filters without doubling an
// apostrophe, so that there is none.
func worksheetNames(titles []string) (names []string) {
	taken := map[string]bool{"history": true} // a name that is kept for itself
	for _, title := range titles {
		plain := strings.Trim(strings.NewReplacer(":", " ", "\\", " ", "/", " ", "?", " ", "*", " ", "[", "(", "]", ")", "'",
			"’").Replace(title), "' ")
		name := short(plain, 31)
		for n := 2; taken[strings.ToLower(name)] || name == ""; n++ {
			end := fmt.Sprintf(" %d", n)
			name = short(plain, 31-len(end)) + end
		}
		taken[strings.ToLower(name)] = true
		names = append(names, name)
	}
	return names
}

func short(text string, most int) string {
	for utf8.RuneCountInString(text) > most {
		_, n := utf8.DecodeLastRuneInString(text)
		text = text[:len(text)-n]
	}
	return strings.TrimRight(text, "' ")
}

// howMade writes the worksheet that tells where the others come from.
func (j *job) howMade(file *excelize.File, name string) error {
	stream, err := file.NewStreamWriter(name)
	if err != nil {
		return err
	}
	family, err := file.GetDefaultFont()
	if err != nil {
		return err
	}
	bold, err := file.NewStyle(&excelize.Style{
		Font:      &excelize.Font{Bold: true, Family: family, Size: fontSize},
		Alignment: &excelize.Alignment{Vertical: "top"},
	})
	if err != nil {
		return err
	}
	wrapped, err := file.NewStyle(&excelize.Style{Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
	if err == nil {
		err = errors.Join(stream.SetColWidth(1, 1, 26), stream.SetColWidth(2, 2, 90))
	}
	for i, line := range j.document.Made() {
		if err == nil {
			err = stream.SetRow(fmt.Sprintf("A%d", i+1),
				[]any{excelize.Cell{StyleID: bold, Value: line[0]}, excelize.Cell{StyleID: wrapped, Value: line[1]}})
		}
	}
	if err != nil {
		return err
	}
	return stream.Flush()
}

func (j *job) worksheet(file *excelize.File, name string, s *sheet.Sheet) error {
	// A print holds the columns on pages of one width, and no empty ones after. It is
	// said before the rows: afterwards they would all be read into memory for it.
	above, fit, tall, across := false, 1, 0, "portrait"
	if s.Chart != nil {
		across = "landscape"
	}
	err := errors.Join(file.SetSheetProps(name,
		&excelize.SheetPropsOptions{OutlineSummaryBelow: &above, FitToPage: new(true)}),
		file.SetPageLayout(name, &excelize.PageLayoutOptions{Orientation: &across, FitToWidth: &fit, FitToHeight: &tall}))
	if err != nil {
		return err
	}
	stream, err := file.NewStreamWriter(name)
	if err != nil {
		return err
	}
	x := &worksheet{job: j, file: file, name: name, sheet: s, stream: stream, columns: s.Grid().Columns}
	if err := x.write(); err != nil {
		return err
	}
	return stream.Flush()
}
