package grid

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/source/cells"
)

var spared = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "−", "-")

// shapes are how numbers are written with a decimal sign: in groups of three, or without any.
var shapes = map[string]*regexp.Regexp{
	"point": regexp.MustCompile(`^[-+]?(\d{1,3}(,\d{3})+|\d*)(\.\d*)?$`),
	"comma": regexp.MustCompile(`^[-+]?(\d{1,3}(\.\d{3})+|\d*)(,\d*)?$`),
}

// Number reads a number with at most so many places, in the smallest of them: with the
// decimal sign of the form, and the other as what may stand between thousands, and nowhere
// else. Those of a workbook, and of a file that names its columns, may be binary fractions.
func (f *File) Number(text string, scale int32) (int64, error) {
	if f.book != nil || f.named != nil {
		v, err := strconv.ParseFloat(text, 64)
		scaled := v * math.Pow10(int(scale))
		if whole := math.Round(scaled); err == nil && math.Abs(whole) < 1<<53 && math.Abs(scaled-whole) < 1e-4 {
			return int64(whole), nil
		}
	}
	between, decimal, sign := ",", ".", "point"
	if f.form.Decimal == "comma" {
		between, decimal, sign = ".", ",", "comma"
	}
	if n, ok := cells.Digits(text, decimal[0], scale); ok {
		return n, nil
	}
	if plain := spared.Replace(text); shapes[sign].MatchString(plain) {
		plain = strings.ReplaceAll(strings.ReplaceAll(plain, between, ""), decimal, ".")
		if n, err := frame.ParseNumber(strings.TrimPrefix(plain, "+"), scale); err == nil {
			return n, nil
		}
	}
	if scale == 0 {
		return 0, fmt.Errorf("%q is no whole number", text)
	}
	return 0, fmt.Errorf("%q is no number with at most %d decimals", text, scale)
}

var layouts = map[string][]string{
	"":    {time.DateOnly, "20060102"},
	"iso": {time.DateOnly, "20060102"},
	"dmy": {"2.1.2006", "2/1/2006", "2-1-2006", "2.1.06"},
	"mdy": {"1/2/2006", "1-2-2006", "1/2/06"},
}

var written = map[string]string{"": "2026-10-14", "iso": "2026-10-14", "dmy": "14.10.2026", "mdy": "10/14/2026"}

// Day reads a day as the form says that it is written. Those of a workbook are numbers of
// days, or texts.
func (f *File) Day(text string) (period.Day, error) {
	if at, ok := f.serial(text); ok {
		return period.DayOf(at, time.UTC), nil
	}
	if f.form.Dates == "" || f.form.Dates == "iso" {
		if day, err := cells.Day([]byte(text)); err == nil {
			return period.Day(day), nil
		}
	}
	first, _, _ := strings.Cut(strings.Replace(text, "T", " ", 1), " ") // without a time
	for _, layout := range layouts[f.form.Dates] {
		if t, err := time.Parse(layout, first); err == nil {
			return period.DayOf(t, time.UTC), nil
		}
	}
	return 0, fmt.Errorf("%q is no day; they are declared to be written as %s", text, written[f.form.Dates])
}

// Moment reads a moment: in ISO 8601, or a day with a time behind it, in UTC.
func (f *File) Moment(text string) (time.Time, error) {
	if at, ok := f.serial(text); ok {
		return at.Round(time.Second), nil
	}
	text = strings.TrimSpace(text)
	for _, layout := range []string{time.RFC3339Nano, "2006-01-02 15:04:05Z07:00", "2006-01-02T15:04:05",
		"2006-01-02 15:04:05", "2006-01-02 15:04"} {
		if t, err := time.Parse(layout, text); err == nil {
			return t.UTC(), nil
		}
	}
	for _, day := range layouts[f.form.Dates] {
		for _, clock := range []string{" 15:04:05", " 15:04"} {
			if t, err := time.Parse(day+clock, text); err == nil {
				return t, nil
			}
		}
	}
	return time.Time{}, fmt.Errorf("%q is no moment such as 2026-10-14 09:30", text)
}

// serial reads a day or moment as workbooks hold it.
func (f *File) serial(text string) (time.Time, bool) {
	if f.book == nil {
		return time.Time{}, false
	}
	n, err := strconv.ParseFloat(text, 64)
	if err != nil || n <= 1 || n >= 1e6 {
		return time.Time{}, false
	}
	at, err := excelize.ExcelDateToTime(n, f.from1904)
	return at, err == nil
}

// Flag reads yes or no, as people and programs write it.
func (f *File) Flag(text string) (bool, error) {
	switch strings.ToLower(strings.TrimSpace(text)) {
	case "1", "yes", "y", "true", "t", "x", "ja", "oui":
		return true, nil
	case "0", "no", "n", "false", "f", "-", "nein", "non":
		return false, nil
	}
	return false, fmt.Errorf("%q is neither yes nor no", text)
}
