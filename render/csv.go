package render

import (
	"bytes"
	"strings"
	"unicode/utf8"

	"mantilla/core/frame"
)

// csvLines makes lines of comma-separated values as RFC 4180 has them, each
// ended by CR LF. It differs from encoding/csv in that it quotes straight from
// the columns without making a string of every cell, tells an empty text from a
// cell without a value, and defuses formulas.
type csvLines struct {
	separator byte
	comma     bool // the decimal sign
	raw       bool
	out       []byte
	defused   int // texts that a spreadsheet would have run
}

// csvWriter writes such lines into a file.
type csvWriter struct {
	*job
	csvLines
}

func writeCSV(j *job) error {
	form := j.options.Table
	w := &csvWriter{j, csvLines{separator: separators[form.Separator], comma: form.Decimal == "comma", raw: form.Raw}}
	if form.Mark {
		w.out = append(w.out, "\ufeff"...)
	}
	s := j.document.Sheets[0]
	if j.options.Told {
		for _, text := range []string{j.document.Title, j.document.Says(), j.document.Number} {
			w.out = append(w.appendText(w.out, text), '\r', '\n')
		}
		w.out = append(w.out, '\r', '\n')
	}
	if form.Headings != "none" {
		var names []string
		for _, c := range s.Grid().Columns {
			if form.Headings == "names" {
				c.Heading = c.ID
			}
			names = append(names, c.Heading)
		}
		w.texts(names)
	}
	if err := w.flush(); err != nil {
		return err
	}
	if s.Flat() {
		return inOrder(j.ctx, s.Each, w.batch, w.part)
	}
	if err := s.Grid().Each(j.ctx, w.line); err != nil {
		return err
	}
	return w.flush()
}

const flushed = 1 << 16

func (w *csvWriter) flush() error {
	_, err := w.to.Write(w.out)
	w.out = w.out[:0]
	w.done.Defused += w.defused
	w.defused = 0
	return err
}

// part is the lines of a batch.
type part struct {
	text    []byte
	rows    int
	defused int
}

// batch writes the lines of a batch into memory.
func (w *csvWriter) batch(b *frame.Batch) (part, error) {
	own := csvLines{separator: w.separator, comma: w.comma, raw: w.raw, out: make([]byte, 0, b.Rows*len(b.Schema())*10)}
	own.rows(b)
	return part{own.out, b.Rows, own.defused}, nil
}

func (w *csvWriter) part(p part) error {
	if _, err := w.to.Write(p.text); err != nil {
		return err
	}
	w.done.Defused += p.defused
	return w.lines(p.rows)
}

func (w *csvLines) rows(b *frame.Batch) {
	for row := range b.Rows {
		for col, field := range b.Schema() {
			if col > 0 {
				w.out = append(w.out, w.separator)
			}
			switch {
			case b.Null(col, row):
			case field.Kind == frame.Text:
				w.out = w.appendText(w.out, b.Text(col, row))
			default:
				w.out = w.appendNumber(w.out, field.Kind, field.Scale, b.Int(col, row))
			}
		}
		w.out = append(w.out, '\r', '\n')
	}
}

// line writes a line of a grid.
func (w *csvWriter) line(cells []frame.Value) error {
	for i, v := range cells {
		if i > 0 {
			w.out = append(w.out, w.separator)
		}
		switch {
		case v.Null:
		case v.Kind == frame.Text || v.Text != "":
			w.out = w.appendText(w.out, v.Text)
		default:
			w.out = w.withSign(append(w.out, v.String()...), len(w.out), v.Kind)
		}
	}
	w.out = append(w.out, '\r', '\n')
	if len(w.out) < flushed {
		return w.lines(1)
	}
	if err := w.flush(); err != nil {
		return err
	}
	return w.lines(1)
}

func (w *csvLines) appendNumber(out []byte, kind frame.Kind, scale int32, v int64) []byte {
	return w.withSign(frame.AppendPlain(out, kind, scale, v), len(out), kind)
}

// withSign sets the decimal sign of a number that begins at a place.
func (w *csvLines) withSign(out []byte, from int, kind frame.Kind) []byte {
	if w.comma && kind.Numeric() {
		if at := bytes.IndexByte(out[from:], '.'); at >= 0 {
			out[from+at] = ','
		}
	}
	return out
}

// texts writes a line of texts.
func (w *csvLines) texts(cells []string) {
	for i, text := range cells {
		if i > 0 {
			w.out = append(w.out, w.separator)
		}
		w.out = w.appendText(w.out, text)
	}
	w.out = append(w.out, '\r', '\n')
}

// Runs tells whether a spreadsheet could take a text for a formula: a sign of one
// begins it, also in its full width, or after a tab, a line break or spaces.
func Runs(text string) bool {
	begins := strings.TrimLeft(text, " \u00a0\u3000\t\r\n")
	if begins == "" {
		return false
	}
	if r, _ := utf8.DecodeRuneInString(begins); strings.ContainsRune("=+-@\uff1d\uff0b\uff0d\uff20", r) {
		return true
	}
	return text[0] == '\t' || text[0] == '\r' || text[0] == '\n'
}

// appendText appends a text, in quotes where RFC 4180 asks for them. An empty
// text is quoted to tell it from a cell without a value. A text that a
// spreadsheet would run as a formula gets an apostrophe before it (OWASP, CSV
// Injection).
func (w *csvLines) appendText(out []byte, text string) []byte {
	fused := !w.raw && Runs(text)
	special := len(text) == 0
	for i := 0; i < len(text) && !special; i++ {
		special = text[i] == w.separator || text[i] == '"' || text[i] == '\n' || text[i] == '\r'
	}
	if special {
		out = append(out, '"')
	}
	if fused {
		out = append(out, '\'')
		w.defused++
	}
	if !special {
		return append(out, text...)
	}
	for i := range len(text) {
		if text[i] == '"' {
			out = append(out, '"')
		}
		out = append(out, text[i])
	}
	return append(out, '"')
}
