package grid_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"mantilla/grid"
)

// read writes the rows of a sheet, cells apart by |, rows by a slash.
func read(t *testing.T, data []byte, f grid.Form) (string, error) {
	t.Helper()
	file, err := grid.Open(data, f)
	if err != nil {
		return "", err
	}
	defer file.Close()
	var rows []string
	err = file.Each(file.Sheets[0], func(place grid.Place, row []string) error {
		rows = append(rows, place.String()+": "+strings.Join(row, "|"))
		return nil
	})
	return strings.Join(rows, " / "), err
}

func TestTextsOfEveryProgram(t *testing.T) {
	for _, c := range []struct {
		name, data string
		form       grid.Form
		want       string
	}{
		{"as the RFC has it", "a,b\r\n\"x, \"\"y\"\"\",2\r\n", grid.Form{}, `line 1: a|b / line 2: x, "y"|2`},
		{"a mark before it", "\xef\xbb\xbfa;b\n1;2\n", grid.Form{Separator: "semicolon"}, "line 1: a|b / line 2: 1|2"},
		{"an older encoding", "na\xefve\n", grid.Form{}, "line 1: naïve"},
		{"a declared encoding", "\xb1\n", grid.Form{Encoding: "ISO-8859-2"}, "line 1: ą"},
		{"UTF-16", "\xff\xfea\x00,\x00b\x00\n\x00", grid.Form{}, "line 1: a|b"},
		{"empty lines", "a\n\n ,\nb\n", grid.Form{}, "line 1: a / line 4: b"},
		{"lines within a cell", "a,b\n\"x\ny\",2\nz,3\n", grid.Form{}, "line 1: a|b / line 2: x\ny|2 / line 4: z|3"},
		{"tabs", "a\tb\n", grid.Form{Separator: "tab"}, "line 1: a|b"},
	} {
		if got, err := read(t, []byte(c.data), c.form); err != nil || got != c.want {
			t.Errorf("%s: %q, %v; want %q", c.name, got, err, c.want)
		}
	}
	for data, f := range map[string]grid.Form{"a\"b,\"c": {}, "x": {Encoding: "nothing"}, "y": {Decimal: "dot"},
		"PK\x03\x04nonsense": {}} {
		if got, err := read(t, []byte(data), f); err == nil {
			t.Errorf("%q is read as %q", data, got)
		}
	}
}

func TestCellsAsTheyAreWritten(t *testing.T) {
	point, err := grid.Open(nil, grid.Form{})
	if err != nil {
		t.Fatal(err)
	}
	comma, err := grid.Open(nil, grid.Form{Decimal: "comma", Dates: "dmy"})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		file *grid.File
		text string
		want string
	}{
		{point, "1234.5", "123450"}, {point, "1,234.50", "123450"}, {point, "-0.05", "-5"}, {point, "+7", "700"},
		{point, "1 234.5", "123450"}, {point, "−3", "-300"}, {point, ".5", "50"}, {point, "12,50", ""}, {point, "1.234,50",
			""},
		{point, "1.234", ""}, {point, "12a", ""}, {point, "", ""}, {point, "1e3", ""},
		{comma, "1.234,50", "123450"}, {comma, "1234,5", "123450"}, {comma, "12.50", ""}, {comma, "1.234", "123400"},
		{comma, "1'234,5", "123450"},
	} {
		got := ""
		if n, err := c.file.Number(c.text, 2); err == nil {
			got = fmt.Sprint(n)
		}
		if got != c.want {
			t.Errorf("%q is the number %q, want %q", c.text, got, c.want)
		}
	}
	for text, want := range map[string]string{"2.9.2026": "2026-09-02", "02/09/2026": "2026-09-02", "31.2.2026": "",
		"2026-09-02": "", "2.9.26 10:00": "2026-09-02"} {
		got := ""
		if d, err := comma.Day(text); err == nil {
			got = d.String()
		}
		if got != want {
			t.Errorf("%q is the day %q, want %q", text, got, want)
		}
	}
	for text, want := range map[string]string{"2026-09-02T10:00:00+02:00": "2026-09-02T08:00:00Z",
		"2.9.2026 10:15": "2026-09-02T10:15:00Z", "2026-09-02 10:00:00": "2026-09-02T10:00:00Z", "soon": ""} {
		got := ""
		if at, err := comma.Moment(text); err == nil {
			got = at.Format(time.RFC3339)
		}
		if got != want {
			t.Errorf("%q is the moment %q, want %q", text, got, want)
		}
	}
	for text, want := range map[string]string{"Yes": "true", "ja": "true", "0": "false", "nein": "false", "maybe": ""} {
		got := ""
		if is, err := point.Flag(text); err == nil {
			got = fmt.Sprint(is)
		}
		if got != want {
			t.Errorf("%q is %q, want %q", text, got, want)
		}
	}
}

// TestWorkbooksHoldNumbersAndDays reads what no text is, whatever form is declared.
func TestWorkbooksHoldNumbersAndDays(t *testing.T) {
	book := excelize.NewFile()
	for cell, v := range map[string]any{"A1": "Day", "B1": "Amount", "A2": time.Date(2026, 9, 2, 0, 0, 0, 0, time.UTC),
		"B2": 1234.5, "A3": "3.9.2026", "B3": "1.234,50"} {
		if err := book.SetCellValue("Sheet1", cell, v); err != nil {
			t.Fatal(err)
		}
	}
	var data bytes.Buffer
	if err := book.Write(&data); err != nil {
		t.Fatal(err)
	}
	file, err := grid.Open(data.Bytes(), grid.Form{Decimal: "comma", Dates: "dmy"})
	if err != nil || !file.Workbook() {
		t.Fatal(err)
	}
	defer file.Close()
	var got []string
	err = file.Each("Sheet1", func(place grid.Place, row []string) error {
		if row[0] == "Day" {
			return nil
		}
		day, err := file.Day(row[0])
		if err != nil {
			return err
		}
		n, err := file.Number(row[1], 2)
		got = append(got, fmt.Sprintf("%s %s %d", place, day, n))
		return err
	})
	if want := "sheet Sheet1, row 2 2026-09-02 123450; sheet Sheet1, row 3 2026-09-03 123450"; err != nil ||
		strings.Join(got, "; ") != want {
		t.Errorf("read as %v, %v", got, err)
	}
}
