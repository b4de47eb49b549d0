package render

import (
	"mantilla/core/frame"
	"mantilla/core/report"
)

// writeImport writes the file that a definition declares for another program:
// its columns under its headings, and where it says so a line for each of
// several columns instead of a line for each row.
func writeImport(j *job) error {
	f := j.document.Import
	w := &csvWriter{j, csvLines{separator: separators[f.Separator], comma: f.Decimal == "comma", raw: true}}
	if f.Headings {
		w.texts(headings(f))
	}
	kept, names := len(f.Columns), make([]frame.Value, len(f.Unpivot))
	for i, id := range f.Unpivot {
		names[i] = frame.Value{Kind: frame.Text, Text: j.document.Sheets[0].LabelOf(id)}
	}
	err := j.document.Sheets[0].Grid().Each(j.ctx, func(cells []frame.Value) error {
		if len(f.Unpivot) == 0 {
			return w.line(cells)
		}
		line := append(make([]frame.Value, 0, kept+2), cells[:kept]...)
		for i, v := range cells[kept:] {
			if v.Null {
				continue // a line without a value says nothing
			}
			if err := w.line(append(line[:kept], names[i], v)); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return w.flush()
}

func headings(f *report.Import) (out []string) {
	for _, c := range f.Columns {
		out = append(out, c.As)
	}
	if len(f.Unpivot) > 0 {
		out = append(out, f.Name, f.Value)
	}
	return out
}
