// Package shown writes values, headings and labels as people read them.
package shown

import (
	"bytes"
	"fmt"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
)

// Text writes a value for people: digits in groups of three, a minus sign as
// wide as a digit, days as 30 Sep 2026, moments in the given zone, whose short
// name stands with them. It is ""
// where there is no value.
func Text(v frame.Value, zone *time.Location) string {
	if v.Null {
		return ""
	}
	if v.Kind == frame.Text || v.Text != "" {
		return v.Text
	}
	switch v.Kind {
	case frame.Date:
		if u, ok := period.UnitNamed(v.Grain); ok && v.Grain != "" {
			return grained(u, period.Day(v.Int()))
		}
		return frame.DayTime(v.Int()).Format("2 Jan 2006")
	case frame.Timestamp:
		return time.UnixMicro(v.Int()).In(zone).Format("2 Jan 2006 15:04 MST")
	case frame.Flag:
		return v.String()
	}
	return Grouped(v.Number.String())
}

// grained names the period that begins with a day, briefly.
func grained(u period.Unit, first period.Day) string {
	t := first.Time()
	switch u {
	case period.Weeks:
		y, w := t.ISOWeek()
		return fmt.Sprintf("Week %d, %d", w, y)
	case period.Months:
		return t.Format("Jan 2006")
	case period.Quarters:
		return fmt.Sprintf("Q%d %d", (int(t.Month())+2)/3, t.Year())
	}
	return period.Period{Unit: u, Range: period.Range{First: first}}.String()
}

// Key writes the value that a group stands for.
func Key(v frame.Value, zone *time.Location) string {
	if v.Null {
		return "(none)"
	}
	if v.Kind == frame.Text && v.Text == "" {
		return "(empty)"
	}
	return Text(v, zone)
}

// Grouped puts a comma between each three digits before the point.
func Grouped(plain string) string {
	return strings.Replace(string(AppendGrouped(nil, []byte(plain))), "-", "−", 1)
}

// AppendGrouped is [Grouped] with an ordinary minus sign.
func AppendGrouped(to, plain []byte) []byte {
	if len(plain) > 0 && plain[0] == '-' {
		to, plain = append(to, '-'), plain[1:]
	}
	whole := bytes.IndexByte(plain, '.')
	if whole < 0 {
		whole = len(plain)
	}
	for i, d := range plain[:whole] {
		if i > 0 && (whole-i)%3 == 0 {
			to = append(to, ',')
		}
		to = append(to, d)
	}
	return append(to, plain[whole:]...)
}

// Heading is a column's label with its unit or currency: Net weight, kg.
func Heading(c report.Column) string {
	switch {
	case c.Unit != "":
		return c.Label + ", " + c.Unit
	case c.Kind == frame.Money:
		return c.Label + ", " + c.Currency
	}
	return c.Label
}

// RightAligned tells whether a column's cells end at the right.
func RightAligned(c report.Column) bool { return c.Kind.Numeric() }

// Uncapitalised writes a label as it stands within a sentence.
func Uncapitalised(label string) string { return firstAs(label, unicode.ToLower) }

// Capitalised writes a label as it begins a sentence.
func Capitalised(label string) string { return firstAs(label, unicode.ToUpper) }

func firstAs(label string, change func(rune) rune) string {
	first, size := utf8.DecodeRuneInString(label)
	if size == 0 {
		return ""
	}
	return string(change(first)) + label[size:]
}
