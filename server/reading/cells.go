package reading

import (
	"context"
	"encoding/csv"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/frame"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/render"
	"mantilla/server/answer"
)

// PickCells answers GET /results/{result}/views/{view}/cells.
func (s Results) PickCells(ctx context.Context, r handlers.PickCellsRequestObject) (handlers.PickCellsResponseObject,
	error) {
	x, read, err := s.reading(ctx, r.Result, r.View)
	if err != nil {
		return nil, err
	}
	laid, err := read.Lay(ctx)
	if err != nil {
		return nil, err
	}
	pick, err := laid.Pick(ctx, sheet.Rect{First: answer.Value(r.Params.First), Count: r.Params.Count,
		Left: answer.Value(r.Params.FirstColumn), Width: r.Params.ColumnCount})
	if err != nil {
		return nil, err
	}
	return handlers.PickCells200JSONResponse(picked(pick, x.Form())), nil
}

func picked(p sheet.Pick, form shown.Form) api.PickedCells {
	out := api.PickedCells{Cells: p.Cells, Mixed: p.Mixed, Columns: []api.PickedColumn{}, Text: spread(p, form)}
	for i, c := range p.Columns {
		out.Columns = append(out.Columns, api.PickedColumn{Heading: p.Heads[len(p.Heads)-len(p.Columns)+i],
			Filled: c.Filled, Sum: cell(c.Sum, form, false), Average: cell(c.Average, form, false),
			Least: cell(c.Least, form, false), Most: cell(c.Most, form, false)})
	}
	return out
}

// spread writes headings and lines as a spreadsheet takes them from the clipboard.
func spread(p sheet.Pick, form shown.Form) string {
	var b strings.Builder
	w := csv.NewWriter(&b)
	w.Comma = '\t'
	_ = w.Write(p.Heads) // what is written to memory does not fail
	for _, line := range p.Grid {
		texts := make([]string, len(line))
		for i, v := range line {
			texts[i] = plain(v, form)
		}
		_ = w.Write(texts)
	}
	w.Flush()
	return b.String()
}

// plain is a value as programs read it that write numbers as the person does. No text is
// taken for a formula.
func plain(v frame.Value, form shown.Form) string {
	t := v.String()
	if v.Kind.Numeric() {
		return form.Ungrouped(t)
	}
	if v.Kind == frame.Text && render.Runs(t) {
		return "'" + t
	}
	return t
}
