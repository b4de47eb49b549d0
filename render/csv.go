// Package render writes a sheet in the formats that people take away. Every
// writer streams: the rows of a sheet are never in memory together.
package render

import (
	"encoding/csv"
	"fmt"
	"io"

	"mantilla/core/frame"
	"mantilla/core/sheet"
)

// CSV writes a sheet as RFC 4180 comma-separated values: a line of headings,
// then the rows in plain form, every line ended by CR LF. It differs from
// encoding/csv in that it quotes straight from the columns without making a
// string of every cell.
//
// A sheet of groups, a crosstab or a chart is written as its grid; see
// [sheet.Sheet.Grid].
func CSV(w io.Writer, s *sheet.Sheet) error {
	if !s.Flat() {
		return gridCSV(w, s)
	}
	var line []byte
	for i, c := range s.Columns {
		if i > 0 {
			line = append(line, ',')
		}
		line = appendQuoted(line, sheet.Heading(c.Column))
	}
	line = append(line, '\r', '\n')
	if _, err := w.Write(line); err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	err := s.Each(func(b *frame.Batch) error {
		out := line[:0]
		for row := range b.Rows {
			out = appendRow(out, b, row)
			if len(out) >= 1<<16 {
				if _, err := w.Write(out); err != nil {
					return err
				}
				out = out[:0]
			}
		}
		_, err := w.Write(out)
		line = out
		return err
	})
	if err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	return nil
}

func appendRow(out []byte, b *frame.Batch, row int) []byte {
	for col, field := range b.Schema() {
		if col > 0 {
			out = append(out, ',')
		}
		switch {
		case b.Null(col, row):
		case field.Kind == frame.Text:
			out = appendQuoted(out, b.Text(col, row))
		default:
			out = frame.AppendPlain(out, field.Kind, field.Scale, b.Int(col, row))
		}
	}
	return append(out, '\r', '\n')
}

// appendQuoted appends a text, in quotes where RFC 4180 asks for them. An
// empty text is quoted to tell it from a cell without a value.
func appendQuoted(out []byte, text string) []byte {
	special := len(text) == 0
	for i := 0; i < len(text) && !special; i++ {
		special = text[i] == ',' || text[i] == '"' || text[i] == '\n' || text[i] == '\r'
	}
	if !special {
		return append(out, text...)
	}
	out = append(out, '"')
	for i := range len(text) {
		if text[i] == '"' {
			out = append(out, '"')
		}
		out = append(out, text[i])
	}
	return append(out, '"')
}

// gridCSV writes what is not rows alone.
func gridCSV(w io.Writer, s *sheet.Sheet) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	grid := s.Grid()
	row := make([]string, len(grid.Columns))
	for i, c := range grid.Columns {
		row[i] = c.Heading
	}
	err := out.Write(row)
	if err == nil {
		err = grid.Each(func(cells []frame.Value) error {
			for i, v := range cells {
				row[i] = v.String()
			}
			return out.Write(row)
		})
	}
	if out.Flush(); err == nil {
		err = out.Error()
	}
	if err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	return nil
}
