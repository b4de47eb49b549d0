// Package grid reads CSV, XLSX, Parquet and Arrow files and lines of JSON as rows of cells, and
// what stands in the cells as
// numbers and days, as people say that these are written.
package grid

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/ianaindex"
	"golang.org/x/text/encoding/unicode"

	"mantilla/core/nearest"
)

// Form is how a file is written, in words; "" for what is usual.
type Form struct {
	Separator string // comma, semicolon, tab or bar; of CSV
	Encoding  string // by its IANA name; otherwise UTF-8, or Windows-1252 where it is none
	Decimal   string // point or comma
	Dates     string // iso (2026-10-14), dmy (14.10.2026) or mdy (10/14/2026)
}

var separators = map[string]rune{"comma": ',', "semicolon": ';', "tab": '\t', "bar": '|', "": ','}

// Check tells what of a form is no word for it.
func (f Form) Check() error {
	for _, word := range []struct {
		what, is string
		of       []string
	}{{"separator", f.Separator, []string{"comma", "semicolon", "tab", "bar"}},
		{"decimal", f.Decimal, []string{"point", "comma"}}, {"dates", f.Dates, []string{"iso", "dmy", "mdy"}}} {
		if word.is != "" && !slices.Contains(word.of, word.is) {
			return fmt.Errorf("%s: %q is not known; use %s", word.what, word.is, nearest.Or(word.of))
		}
	}
	if f.Encoding == "" {
		return nil
	}
	if e, err := ianaindex.IANA.Encoding(f.Encoding); err != nil || e == nil {
		return fmt.Errorf("encoding: %q is not known; use a name such as UTF-8, windows-1252 or ISO-8859-2", f.Encoding)
	}
	return nil
}

// File is a file that can be read: the sheets of a workbook; of others one without a name.
type File struct {
	Sheets []string

	form     Form
	text     []byte         // of CSV
	book     *excelize.File // of a workbook, otherwise nil
	named    columnar       // of a file that names its columns, otherwise nil
	from1904 bool
}

// mostUnpacked bounds what a workbook may come to once it is unpacked.
const mostUnpacked = 400 << 20

var bom = []byte("\xef\xbb\xbf")

// Open reads a file as it is written. The file must be closed.
func Open(data []byte, form Form) (*File, error) {
	if err := form.Check(); err != nil {
		return nil, err
	}
	f := &File{form: form, Sheets: []string{""}}
	var err error
	if f.named, err = openColumnar(data); err != nil || f.named != nil {
		f.form = Form{} // they are written in one way
		return f, err
	}
	if !IsWorkbook(data) {
		f.text, err = decoded(data, form.Encoding)
		return f, err
	}
	f.book, err = excelize.OpenReader(bytes.NewReader(data), excelize.Options{RawCellValue: true,
		UnzipSizeLimit: mostUnpacked, UnzipXMLSizeLimit: mostUnpacked})
	if err != nil {
		return nil, fmt.Errorf("it is no spreadsheet that can be read: %w", err)
	}
	props, err := f.book.GetWorkbookProps()
	f.from1904 = err == nil && props.Date1904 != nil && *props.Date1904
	f.Sheets = f.book.GetSheetList()
	return f, nil
}

// IsWorkbook tells whether a file is packed as workbooks are.
func IsWorkbook(data []byte) bool { return bytes.HasPrefix(data, []byte("PK\x03\x04")) }

// Workbook tells whether the file is a workbook, whose numbers and days are no texts.
func (f *File) Workbook() bool { return f.book != nil }

// Close gives back what the file holds.
func (f *File) Close() error {
	if f.book == nil {
		return nil
	}
	return f.book.Close()
}

// decoded is a text in UTF-8.
func decoded(data []byte, encoding string) ([]byte, error) {
	switch {
	case encoding != "":
		e, err := ianaindex.IANA.Encoding(encoding)
		if err != nil {
			return nil, err
		}
		text, err := e.NewDecoder().Bytes(data)
		return bytes.TrimPrefix(text, bom), err
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}), bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		return unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder().Bytes(data)
	case utf8.Valid(data):
		return bytes.TrimPrefix(data, bom), nil
	}
	return charmap.Windows1252.NewDecoder().Bytes(data)
}

// ErrEnough ends the reading of a sheet without being an error.
var ErrEnough = errors.New("enough was read")

// Place is where a row stands: it is put into words only where these are needed.
type Place struct {
	Sheet string // of a workbook
	Word  string // line or row
	N     int    // counted from 1; 0 for the headings of a file that names its columns
}

// String says where that is: line 12, or sheet Budget, row 3.
func (p Place) String() string {
	switch {
	case p.N == 0:
		return "the headings"
	case p.Sheet != "":
		return fmt.Sprintf("sheet %s, %s %d", p.Sheet, p.Word, p.N)
	}
	return fmt.Sprintf("%s %d", p.Word, p.N)
}

// Each hands on the rows of a sheet that are not empty, with where each stands; it ends with
// the error of visit, unless that is [ErrEnough]. The cells are not to be kept.
func (f *File) Each(sheet string, visit func(place Place, row []string) error) error {
	err := f.each(sheet, func(place Place, row []string) error {
		if !slices.ContainsFunc(row, func(cell string) bool { return strings.TrimSpace(cell) != "" }) {
			return nil
		}
		return visit(place, row)
	})
	if errors.Is(err, ErrEnough) {
		return nil
	}
	return err
}

func (f *File) each(sheet string, visit func(place Place, row []string) error) error {
	switch {
	case f.book != nil:
		return f.eachOfBook(sheet, visit)
	case f.named != nil:
		return f.eachOfColumns(visit)
	}
	in := csv.NewReader(bytes.NewReader(f.text))
	in.Comma, in.FieldsPerRecord, in.TrimLeadingSpace, in.ReuseRecord = separators[f.form.Separator], -1, true, true
	in.LazyQuotes = false
	for {
		row, err := in.Read()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return fmt.Errorf("it is no CSV: %w", err)
		}
		line, _ := in.FieldPos(0)
		if err := visit(Place{Word: "line", N: line}, row); err != nil {
			return err
		}
	}
}

func (f *File) eachOfBook(sheet string, visit func(place Place, row []string) error) error {
	rows, err := f.book.Rows(sheet)
	if err != nil {
		return fmt.Errorf("sheet %s: it cannot be read: %w", sheet, err)
	}
	defer func() { _ = rows.Close() }() // they are only read
	for n := 1; rows.Next(); n++ {
		row, err := rows.Columns()
		if err != nil {
			return fmt.Errorf("sheet %s, row %d: %w", sheet, n, err)
		}
		if err := visit(Place{Sheet: sheet, Word: "row", N: n}, row); err != nil {
			return err
		}
	}
	return rows.Error()
}
