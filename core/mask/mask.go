// Package mask hides what is personal from who may not see it: in the rows themselves, before anything is
// filtered, grouped or searched, so that no figure or list can tell what is hidden.
package mask

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base32"
	"strings"
	"unicode/utf8"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/report"
)

// Hidden is what stands in a text cell that is not shown at all. Cells of other kinds have no value then.
const Hidden = "•••"

// Over hides columns, which are named with how. The key makes pseudonyms: the same for the same text in
// every result, and nothing to who has not the key.
func Over(rows *frame.Frame, hidden map[string]string, key []byte) *frame.Frame {
	if len(hidden) == 0 {
		return rows
	}
	schema := rows.Schema()
	how := make([]string, len(schema))
	for i, field := range schema {
		how[i] = hidden[field.Name]
	}
	lengths := make([]int, rows.Batches())
	for i := range lengths {
		from, to := rows.Span(i)
		lengths[i] = to - from
	}
	load := func(ctx context.Context, batch, col int) (*frame.Column, error) {
		c, err := rows.Column(ctx, batch, col)
		if err != nil || how[col] == "" {
			return c, err
		}
		return column(c, schema[col], how[col], key)
	}
	return frame.Lazy(schema, lengths, load, func(batch, col int) (frame.Stats, bool) {
		if how[col] != "" {
			return frame.Stats{}, false
		}
		return rows.Stats(batch, col)
	})
}

// Columns are the columns of a dataset that are hidden from somebody, with how; the codes of hidden names
// are hidden like them. What is computed of hidden columns when it is read is computed of what is shown.
func Columns(d *report.Dataset, clear func(*report.Personal) bool) map[string]string {
	hidden := map[string]string{}
	for i := range d.Columns {
		c := &d.Columns[i]
		if p := c.Personal; p != nil && p.Mask != "" && c.Formula == "" && !clear(p) {
			hidden[c.ID] = p.Mask
			if c.Code != "" {
				hidden[c.Code] = coded(d.Column(c.Code), p.Mask)
			}
		}
	}
	return hidden
}

// coded is how a code is hidden whose name is: codes that are no texts have no pseudonym.
func coded(c *report.Column, by string) string {
	if c == nil || c.Kind != frame.Text || by == report.MaskPart {
		return report.MaskWhole
	}
	return by
}

// column makes the hidden column of a batch.
func column(c *frame.Column, field frame.Field, by string, key []byte) (made *frame.Column, err error) {
	out := frame.NewBuilder(frame.Schema{field}, c.Rows()+1, func(r arrow.RecordBatch) (err error) {
		made, err = frame.Decode(r.Column(0), nil)
		return err
	})
	known := map[string]string{}
	for row := range c.Rows() {
		if field.Kind == frame.Text && !c.Null(row) {
			text := c.Text(row)
			hidden, is := known[text]
			if !is {
				hidden = Text(text, by, key)
				known[text] = hidden
			}
			out.String(0, hidden)
		}
		if err := out.EndRow(); err != nil {
			return nil, err
		}
	}
	err = out.Close() // which hands the record on
	return made, err
}

// Text hides a text: wholly; partly, which leaves the first letter of each word; or by a pseudonym, which
// is the beginning of an HMAC with SHA-256 (RFC 2104) in letters and digits (RFC 4648, base 32).
func Text(text, by string, key []byte) string {
	switch {
	case text == "":
		return ""
	case by == report.MaskPart:
		words := strings.Fields(text)
		for i, w := range words {
			_, first := utf8.DecodeRuneInString(w)
			words[i] = w[:first] + "…"
		}
		return strings.Join(words, " ")
	case by == report.MaskPseudonym:
		of := hmac.New(sha256.New, key)
		of.Write([]byte(text))
		return "alias-" + strings.ToLower(base32.StdEncoding.EncodeToString(of.Sum(nil)[:5]))
	}
	return Hidden
}
