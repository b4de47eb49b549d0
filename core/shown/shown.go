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

// Text writes a value for people, in the form: digits in groups of three, a minus
// sign as wide as a digit, days, moments in its zone, whose short name stands with
// them. It is "" where there is no value.
func (f Form) Text(v frame.Value) string {
	if v.Null {
		return ""
	}
	if v.Kind == frame.Text || v.Text != "" {
		return v.Text
	}
	switch v.Kind {
	case frame.Date:
		if u, ok := period.UnitNamed(v.Grain); ok && v.Grain != "" {
			return f.grained(u, period.Day(v.Int()))
		}
		return frame.DayTime(v.Int()).Format(f.day())
	case frame.Timestamp:
		return f.Moment(time.UnixMicro(v.Int()))
	case frame.Flag:
		return v.String()
	}
	return f.Grouped(v.Number.String())
}

// Moment writes a moment in the form's zone, whose short name stands with it.
func (f Form) Moment(at time.Time) string {
	zone := f.Zone
	if zone == nil {
		zone = time.UTC
	}
	return at.In(zone).Format(f.day() + " 15:04 MST")
}

// grained names the period that begins with a day, briefly.
func (f Form) grained(u period.Unit, first period.Day) string {
	t := first.Time()
	switch u {
	case period.Days:
		if f.day() != words {
			return t.Format(f.day())
		}
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
func (f Form) Key(v frame.Value) string {
	if v.Null {
		return "(none)"
	}
	if v.Kind == frame.Text && v.Text == "" {
		return "(empty)"
	}
	return f.Text(v)
}

// Grouped writes a number's digits in groups of three.
func (f Form) Grouped(plain string) string {
	return strings.Replace(string(f.AppendGrouped(nil, []byte(plain))), "-", "−", 1)
}

// AppendGrouped is [Form.Grouped] with an ordinary minus sign.
func (f Form) AppendGrouped(to, plain []byte) []byte {
	if len(plain) > 0 && plain[0] == '-' {
		to, plain = append(to, '-'), plain[1:]
	}
	whole := bytes.IndexByte(plain, '.')
	if whole < 0 {
		whole = len(plain)
	}
	marks := f.marks()
	for i, d := range plain[:whole] {
		if i > 0 && (whole-i)%3 == 0 {
			to = append(to, marks.group...)
		}
		to = append(to, d)
	}
	if whole < len(plain) {
		to = append(append(to, marks.point), plain[whole+1:]...)
	}
	return to
}

// Ungrouped writes a number as programs read it that have the form: its point alone.
func (f Form) Ungrouped(plain string) string {
	return strings.Replace(plain, ".", string(f.marks().point), 1)
}

// Grouped writes a number in the house's form: 1,234.50.
func Grouped(plain string) string { return Form{}.Grouped(plain) }

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
