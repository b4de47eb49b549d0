package render

import (
	"bufio"
	"encoding/json"

	"mantilla/core/frame"
	"mantilla/core/sheet"
)

// jsonWriter writes cells as JSON: numbers with all their places, days and
// moments as ISO 8601 has them.
type jsonWriter struct {
	*job
	out *bufio.Writer
	err error
}

func (w *jsonWriter) raw(text string) {
	if w.err == nil {
		_, w.err = w.out.WriteString(text)
	}
}

func (w *jsonWriter) value(v any) {
	text, err := json.Marshal(v)
	if w.err == nil {
		w.err = err
	}
	w.raw(string(text))
}

func (w *jsonWriter) cell(v frame.Value) {
	switch {
	case v.Null:
		w.raw("null")
	case v.Text != "" || v.Kind == frame.Text:
		w.value(v.Text)
	case v.Kind == frame.Flag:
		w.value(v.Int() != 0)
	case v.Kind.Numeric():
		w.raw(v.Number.String())
	default:
		w.value(v.String())
	}
}

// column is what a file tells about a column.
type column struct {
	ID       string `json:"id"`
	Heading  string `json:"heading"`
	Kind     string `json:"kind"`
	Currency string `json:"currency,omitempty"`
}

func columnsOf(s *sheet.Sheet) []column {
	out := []column{}
	for _, c := range s.Grid().Columns {
		x := column{ID: c.ID, Heading: c.Heading, Kind: c.Field.Kind.String()}
		if c.Field.Kind == frame.Money {
			x.Currency = c.Field.Currency
		}
		out = append(out, x)
	}
	return out
}

func writeJSON(j *job) error {
	w := &jsonWriter{job: j, out: bufio.NewWriterSize(j.to, flushed)}
	d := j.document
	w.raw(`{"result":`)
	w.value(d.Number)
	w.raw(`,"report":`)
	w.value(d.Title)
	w.raw(`,"sentence":`)
	w.value(d.Says())
	values := map[string]string{}
	for _, v := range d.Values {
		values[v.Parameter] = v.Resolved
	}
	w.raw(`,"values":`)
	w.value(values)
	w.raw(`,"seal":`)
	w.value(d.Seal)
	w.raw(`,"extract":`)
	w.value(d.SealSays() != d.Seal)
	w.raw(`,"views":[`)
	for i, s := range d.Sheets {
		if i > 0 {
			w.raw(",")
		}
		w.raw("\n{\"view\":")
		w.value(s.View.ID)
		w.raw(`,"title":`)
		w.value(s.View.Title)
		w.raw(`,"done":`)
		w.value(s.Told())
		w.raw(`,"of_rows":`)
		w.value([2]int{s.Rows, s.Of})
		w.raw(`,"columns":`)
		w.value(columnsOf(s))
		w.raw(`,"rows":[`)
		first := true
		err := s.Grid().Each(j.ctx, func(cells []frame.Value) error {
			w.raw(map[bool]string{true: "\n", false: ",\n"}[first])
			first = false
			w.cells(cells)
			return w.counted()
		})
		if err != nil {
			return err
		}
		w.raw("]}")
	}
	w.raw("\n]}\n")
	return w.end()
}

func (w *jsonWriter) cells(cells []frame.Value) {
	w.raw("[")
	for i, v := range cells {
		if i > 0 {
			w.raw(",")
		}
		w.cell(v)
	}
	w.raw("]")
}

func (w *jsonWriter) counted() error {
	if w.err != nil {
		return w.err
	}
	return w.lines(1)
}

func (w *jsonWriter) end() error {
	if w.err != nil {
		return w.err
	}
	return w.out.Flush()
}

// writeNDJSON writes an object for each line, named by the columns' ids.
func writeNDJSON(j *job) error {
	w := &jsonWriter{job: j, out: bufio.NewWriterSize(j.to, flushed)}
	s := j.document.Sheets[0]
	var names []string
	for _, c := range s.Grid().Columns {
		name, _ := json.Marshal(c.ID)
		names = append(names, string(name)+":")
	}
	err := s.Grid().Each(j.ctx, func(cells []frame.Value) error {
		w.raw("{")
		for i, v := range cells {
			if i > 0 {
				w.raw(",")
			}
			w.raw(names[i])
			w.cell(v)
		}
		w.raw("}\n")
		return w.counted()
	})
	if err != nil {
		return err
	}
	return w.end()
}
