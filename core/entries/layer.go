// Package entries lays what people typed in over the rows that it belongs to: each value belongs to
// the key of a row, and stands there however often the rows are read anew.
package entries

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
	"mantilla/core/report"
)

// Layer is what people typed in beside the rows of a dataset, as of a moment.
type Layer struct {
	Revision int64     // the number of the last entry; 0 where there is none
	At       time.Time // of the last entry
	Now      Values
	Before   Values // at the end of the last month
}

// Values are what was typed, as [Parse] writes it, by column and by the key of the row.
type Values map[string]map[string]string

// Over lays a layer over the rows of a dataset: both come back as they are read, with the columns
// of [report.Dataset.Typed].
func (l *Layer) Over(rows *frame.Frame, d *report.Dataset) (*frame.Frame, *report.Dataset) {
	typed := d.Typed()
	if typed == d {
		return rows, d
	}
	var added []report.Column
	var fields frame.Schema
	for _, c := range typed.Columns {
		if c.TypedOf != "" {
			added, fields = append(added, c), append(fields, c.Field())
		}
	}
	key := make([]int, len(d.Key))
	for i, id := range d.Key {
		key[i] = rows.Schema().Index(id)
	}
	return rows.With(fields, func(ctx context.Context, batch, col int) (*frame.Column, error) {
		c := &added[col]
		values := l.Now[c.TypedOf]
		if c.IsBefore() {
			values = l.Before[c.TypedOf]
		}
		cells := func(*frame.Batch, int) string { return "" }
		from, err := rows.Batch(ctx, batch, key)
		if err != nil {
			return nil, err
		}
		if from = from.Columns(key); len(values) > 0 {
			cells = func(b *frame.Batch, row int) string { return values[KeyOf(b, row)] }
		}
		return column(c, from, cells)
	}), typed
}

// column makes the column of a batch of what cells says of its rows; "" for no value.
func column(c *report.Column, b *frame.Batch, cells func(*frame.Batch, int) string) (made *frame.Column, err error) {
	field := c.Field()
	out := frame.NewBuilder(frame.Schema{field}, b.Rows+1, func(r arrow.RecordBatch) (err error) {
		made, err = frame.Decode(r.Column(0), nil)
		return err
	})
	for row := range b.Rows {
		if text := cells(b, row); text != "" {
			if err := put(out, field, text); err != nil {
				return nil, fmt.Errorf("what was typed into %s: %w", c.Label, err)
			}
		}
		if err := out.EndRow(); err != nil {
			return nil, err
		}
	}
	err = out.Close() // which hands the record on
	return made, err
}

// put writes a value as [Parse] wrote it.
func put(out *frame.Builder, field frame.Field, text string) error {
	switch field.Kind {
	case frame.Text:
		out.String(0, text)
		return nil
	case frame.Date:
		day, err := period.ParseDay(text)
		if err != nil {
			return err
		}
		return out.Int(0, int64(day))
	}
	n, err := frame.ParseNumber(text, field.Scale)
	if err != nil {
		return err
	}
	return out.Int(0, n)
}

// KeyOf is the key of a row in a batch of the key's columns.
func KeyOf(b *frame.Batch, row int) string {
	parts := make([]string, len(b.Schema()))
	for col, field := range b.Schema() {
		switch {
		case b.Null(col, row):
		case field.Kind == frame.Text:
			parts[col] = b.Text(col, row)
		case field.Kind == frame.Date:
			parts[col] = period.Day(b.Int(col, row)).String()
		case field.Kind.Numeric():
			parts[col] = frame.Exact(b.Int(col, row), field.Scale).String()
		default:
			parts[col] = strconv.FormatInt(b.Int(col, row), 10)
		}
	}
	return Key(parts)
}

// Key is a key of parts.
func Key(parts []string) string {
	text, _ := json.Marshal(parts) // texts can always be written
	return string(text)
}

// Parts are the parts of a key.
func Parts(key string) (parts []string) {
	_ = json.Unmarshal([]byte(key), &parts) // it was written by [Key]
	return parts
}

// longest is how many characters a text may have that is typed in.
const longest = 300

// Parse reads what is typed into a column, and writes it as it is kept: "" for nothing, which
// brings the default back. Days are read by the calendar.
func Parse(c *report.Column, typed string, calendar period.Calendar) (string, error) {
	e, typed := c.Entry, strings.TrimSpace(typed)
	if typed == "" {
		return "", nil
	}
	switch {
	case len(e.Options) > 0:
		for _, o := range e.Options {
			if strings.EqualFold(o, typed) {
				return o, nil
			}
		}
		return "", fmt.Errorf("%q is none of %s", typed, nearest.Or(e.Options))
	case c.Kind == frame.Text:
		if len([]rune(typed)) > longest {
			return "", fmt.Errorf("a text has at most %d characters here, not %d", longest, len([]rune(typed)))
		}
		return typed, nil
	case c.Kind == frame.Date:
		day, err := calendar.ParseDay(typed)
		if err != nil {
			return "", err
		}
		return day.String(), nil
	}
	plain := strings.NewReplacer(",", "", " ", "", "\u00a0", "", "−", "-").Replace(typed)
	n, err := frame.ParseNumber(plain, c.Scale)
	if err != nil {
		return "", err
	}
	for _, bound := range []struct {
		text string
		sign int
		says string
	}{{e.Least, -1, "least"}, {e.Most, 1, "most"}} {
		if bound.text == "" {
			continue
		}
		limit, err := frame.ParseNumber(bound.text, c.Scale)
		if err == nil && (n-limit)*int64(bound.sign) > 0 {
			return "", fmt.Errorf("%s is not possible: %s is the %s", typed, bound.text, bound.says)
		}
	}
	return frame.Exact(n, c.Scale).String(), nil
}

// Columns are the columns of a dataset that people fill in.
func Columns(d *report.Dataset) (out []*report.Column) {
	for i := range d.Columns {
		if d.Columns[i].Entry != nil {
			out = append(out, &d.Columns[i])
		}
	}
	return slices.Clip(out)
}
