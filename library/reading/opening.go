package reading

import (
	"context"
	"errors"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/sheet"
	"mantilla/model"
)

// Opened is a figure opened: the view, filters and further columns with which its rows
// are read, and the figure computed anew of them. Alone tells that it is not computed
// anew: of what does not add up there are only the rows.
type Opened struct {
	sheet.Opening
	View  string
	Add   []string
	Alone bool
}

// OpenFigure opens a figure into the rows that made it: those of its dataset or, where
// the source grouped them, those of the dataset that lies behind. A fault is of "path".
func (a *Access) OpenFigure(ctx context.Context, r *Result, view string, asked ask.Changes,
	at sheet.Cell) (*Opened, error) {
	read, err := a.Read(ctx, r, view, asked)
	if err != nil {
		return nil, err
	}
	laid, err := read.Lay(ctx)
	if err != nil {
		return nil, err
	}
	c := laid.Dataset.Column(at.Column)
	if read.Dataset.Behind != nil && (c == nil || c.Companion == 0) {
		return a.openBehind(ctx, r, read, laid, at)
	}
	if at.Row != nil {
		return nil, model.Refuse("row", "the rows of %s are rows of the source; there is nothing behind them",
			read.Dataset.ID)
	}
	o, err := laid.Open(ctx, at)
	if err != nil {
		return nil, faultOfPath(err)
	}
	out := &Opened{Opening: *o, View: read.Dataset.ID + ".rows", Add: read.Changes.Add}
	out.Filters = append(ask.Given(read.Changes.Filters), o.Filters...)
	return out, nil
}

// openBehind opens a figure into rows of the dataset behind.
func (a *Access) openBehind(ctx context.Context, r *Result, read *Reading, laid *sheet.Sheet,
	at sheet.Cell) (*Opened, error) {
	behind, err := laid.Behind(ctx, at)
	if err != nil {
		return nil, faultOfPath(err)
	}
	of := read.Dataset.Behind.Of
	if reason := r.FailedOf(of); reason != "" {
		return nil, model.Refuse("path", "the rows behind it could not be read: %s", reason)
	}
	if err := a.hiddenAlike(read.Dataset, r.Definition.Dataset(of), behind.Filters); err != nil {
		return nil, err
	}
	view := of + ".rows"
	rows, err := a.Sheet(ctx, r, view, ask.Changes{Filters: behind.Filters, Entries: read.Changes.Entries})
	if err != nil {
		return nil, err
	}
	in := sheet.Cell{}
	if behind.Compared && rows.IsFigure(at.Column) {
		in.Column = at.Column
	}
	o, err := rows.Open(ctx, in)
	if err != nil {
		return nil, faultOfPath(err)
	}
	out := &Opened{Opening: *o, View: view, Alone: in.Column == ""}
	out.Filters, out.Says, out.Label, out.Column = behind.Filters, behind.Says, behind.Label, at.Column
	out.Before = behind.Before
	if out.Alone {
		out.After = frame.Value{Null: true}
	}
	return out, nil
}

// faultOfPath names the path as what is wrong, but for what was stopped.
func faultOfPath(err error) error {
	if errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return &model.Refused{Part: "path", Err: err}
}
