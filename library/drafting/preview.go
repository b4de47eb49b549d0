package drafting

import (
	"context"

	"mantilla/core/sheet"
	"mantilla/library/capture"
	"mantilla/library/reading"
)

// Preview is the first rows of a draft, laid out in one of its views. It is no result:
// nothing of it is kept.
type Preview struct {
	Sheet  *sheet.Sheet
	Result *reading.Result  // what a result of it would be
	Read   *reading.Reading // of the view
	Rows   capture.Preview
}

// Preview reads the first rows of a draft under values and lays a view of it out; "" is
// the view that opens first. Rows are cut as those of a run are. It ends with its
// context.
func (a *Access) Preview(ctx context.Context, number int64, view string, values map[string]string) (*Preview, error) {
	d, err := a.Draft(ctx, number)
	if err != nil {
		return nil, err
	}
	right, err := a.catalog.CheckReport(ctx, []byte(d.Text))
	if err != nil {
		return nil, err
	}
	if view == "" {
		view = right.Page[0]
	}
	rows, err := a.capture.Preview(ctx, capture.Ask{Report: d.ReportID(), Typed: values}, view)
	if err != nil {
		return nil, err
	}
	result, read, err := a.reading.Preview(rows.Definition, rows.Values, rows.Frame, view)
	if err != nil {
		return nil, err
	}
	result.Manifest.Sentence = rows.Sentence
	laid, err := read.Lay(ctx)
	if err != nil {
		return nil, err
	}
	return &Preview{laid, result, read, rows}, nil
}
