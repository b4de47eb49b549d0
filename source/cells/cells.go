// Package cells reads days, moments and numbers as sources write them in texts, and
// decimals to the places of a column.
package cells

import (
	"bytes"
	"fmt"
	"math/big"
	"strconv"
	"strings"
	"time"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
)

// NotDay says that a text is no day.
func NotDay(text string) error { return fmt.Errorf("%q is not a day such as 2026-09-30", text) }

// NotMoment says that a text is no moment.
func NotMoment(text string) error {
	return fmt.Errorf("%q is not a moment such as 2026-09-30T14:05:00Z", text)
}

// Day reads 2026-09-30, also with the first moment of the day behind it, as some
// programs write days: days since 1970-01-01. It does not allocate.
func Day(text []byte) (int64, error) {
	if len(text) > 10 && midnight(string(text[10:])) {
		text = text[:10]
	}
	if day, ok := plainDay(text); ok {
		return day, nil
	}
	return 0, NotDay(string(text))
}

// midnight tells whether what follows a day is its first moment.
func midnight(rest string) bool {
	if rest[0] != 'T' && rest[0] != ' ' {
		return false
	}
	rest = strings.TrimSuffix(rest[1:], "Z")
	return strings.HasPrefix(rest, "00:00") && strings.Trim(rest, "0:.") == ""
}

func plainDay(text []byte) (int64, bool) {
	if len(text) != 10 || text[4] != '-' || text[7] != '-' {
		return 0, false
	}
	year, ok1 := digits(text[:4])
	month, ok2 := digits(text[5:7])
	day, ok3 := digits(text[8:])
	if !ok1 || !ok2 || !ok3 || month < 1 || month > 12 || day < 1 {
		return 0, false
	}
	d := int64(civil(year, month, day))
	return d, day <= 28 || period.Day(d).Time().Day() == day
}

func digits(text []byte) (n int, ok bool) {
	for _, c := range text {
		if c < '0' || c > '9' {
			return 0, false
		}
		n = 10*n + int(c-'0')
	}
	return n, true
}

// civil counts the days from 1970-01-01 in the proleptic Gregorian calendar,
// in years that begin in March (Hinnant, chrono-Compatible Low-Level Date
// Algorithms, 2013). It agrees with [period.Date] and takes a tenth of the time.
func civil(year, month, day int) int {
	if month <= 2 {
		year, month = year-1, month+12
	}
	era := year / 400
	yearOfEra := year - era*400
	dayOfYear := (153*(month-3)+2)/5 + day - 1
	return era*146097 + yearOfEra*365 + yearOfEra/4 - yearOfEra/100 + dayOfYear - 719468
}

// Moment reads a moment in ISO 8601 or RFC 3339: microseconds since 1970 in UTC.
// Without an offset it is in UTC.
func Moment(text []byte) (int64, error) {
	if at, ok := plainMoment(text); ok {
		return at, nil
	}
	for _, layout := range moments {
		if t, err := time.Parse(layout, string(text)); err == nil {
			return t.UnixMicro(), nil
		}
	}
	return 0, NotMoment(string(text))
}

// plainMoment reads 2026-09-30T14:05:00Z, the commonest spelling, also with a
// space for the T or without the Z, in UTC, without allocating.
func plainMoment(text []byte) (int64, bool) {
	if len(text) == 20 && text[19] == 'Z' {
		text = text[:19]
	}
	if len(text) != 19 || text[10] != 'T' && text[10] != ' ' || text[13] != ':' || text[16] != ':' {
		return 0, false
	}
	day, ok := plainDay(text[:10])
	hour, ok1 := digits(text[11:13])
	minute, ok2 := digits(text[14:16])
	second, ok3 := digits(text[17:19])
	if !ok || !ok1 || !ok2 || !ok3 || hour > 23 || minute > 59 || second > 59 {
		return 0, false
	}
	return (day*86400 + int64(hour*3600+minute*60+second)) * 1_000_000, true
}

// moments are the further spellings of ISO 8601 and of RFC 3339 that are read;
// fractions of seconds may stand in any.
var moments = []string{time.RFC3339, "2006-01-02 15:04:05Z07:00", "2006-01-02T15:04:05", "2006-01-02 15:04:05",
	"2006-01-02T15:04Z07:00", "2006-01-02 15:04Z07:00",
	"2006-01-02T15:04", "2006-01-02 15:04", "2006-01-02T15:04:05Z0700", "2006-01-02 15:04:05 Z0700",
	"2006-01-02 15:04:05 Z07:00", "2006-01-02 15:04:05Z07", time.DateOnly}

// Digits reads a number of digits alone with a decimal sign, as most are written, to a number of
// places and without allocating; not ok where it is written otherwise, has more places, or may
// not fit.
func Digits[T string | []byte](text T, decimal byte, scale int32) (n int64, ok bool) {
	const most = 17 // digits, so that no count of them is too large
	places, seen, negative := int32(-1), 0, len(text) > 0 && text[0] == '-'
	for i := range len(text) {
		c := text[i]
		switch {
		case i == 0 && negative:
			continue
		case c == decimal && places < 0 && seen > 0:
			places = 0
			continue
		case c < '0' || c > '9' || seen == most:
			return 0, false
		}
		n, seen = 10*n+int64(c-'0'), seen+1
		if places >= 0 {
			places++
		}
	}
	if seen == 0 || places == 0 || places > scale {
		return 0, false
	}
	for places = max(places, 0); places < scale; places++ {
		if n >= 1e17 { // a cell holds 18 digits
			return 0, false
		}
		n *= 10
	}
	if negative {
		n = -n
	}
	return n, true
}

// Decimal reads a number with a point exactly, to the places of a column. An amount that
// has more places than money has is rounded half away from zero, as all amounts are.
func Decimal(text string, c *report.Column) (int64, error) {
	if n, ok := Digits(text, '.', c.Scale); ok {
		return n, nil
	}
	digits, err := frame.ParseNumber(text, c.Scale)
	if err != nil && c.Kind == frame.Money {
		return rounded(text, c.Scale, err)
	}
	return digits, err
}

func rounded(text string, scale int32, fault error) (int64, error) {
	exact, ok := new(big.Rat).SetString(strings.TrimSpace(text))
	if !ok || len(text) > 64 || strings.ContainsAny(text, "eE/_") {
		return 0, fault
	}
	return frame.ParseNumber(exact.FloatString(int(scale)), scale)
}

// Whole reads a whole number.
func Whole(text []byte) (int64, error) {
	if n, ok := Digits(text, '.', 0); ok {
		return n, nil
	}
	if n, err := strconv.ParseInt(string(text), 10, 64); err == nil {
		return n, nil
	}
	if whole, places, ok := bytes.Cut(text, []byte(".")); ok && len(bytes.Trim(places, "0")) == 0 {
		if n, err := strconv.ParseInt(string(whole), 10, 64); err == nil {
			return n, nil
		}
	}
	return 0, fmt.Errorf("%q is not a whole number; if the source holds numbers with a point, declare stored: decimal",
		text)
}

// Real reads a number in floating point as the shortest decimal that reads back to it,
// which is what was once written.
func Real(v float64, bits int, c *report.Column) (int64, error) {
	return Decimal(strconv.FormatFloat(v, 'f', -1, bits), c)
}

// Cut is a text as it is shown of a table: the first 200 characters.
func Cut(text []byte) *string {
	const longest = 200
	cut := []rune(string(text))
	if len(cut) > longest {
		cut = append(cut[:longest], '…')
	}
	shown := string(cut)
	return &shown
}

// Flag reads yes or no, as programs write it: 1 or 0.
func Flag(text []byte) (int64, error) {
	switch strings.ToLower(string(text)) {
	case "0", "f", "false", "n", "no":
		return 0, nil
	case "1", "t", "true", "y", "yes":
		return 1, nil
	}
	return 0, fmt.Errorf("%q is neither yes nor no", text)
}
