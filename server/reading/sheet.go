package reading

import (
	"mantilla/server/answer"

	"context"
	"math"
	"slices"

	"mantilla/api"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/library/reading"
)

// window is which part of a sheet is wanted, and whether its cells are for
// programs rather than for people.
type window struct {
	first, count              int
	firstColumn, columnsCount int
	plain                     bool
}

// cell is null where there is no value.
func cell(v frame.Value, form shown.Form, plain bool) *string {
	if v.Null {
		return nil
	}
	t := v.String()
	if !plain {
		t = form.Text(v)
	}
	return &t
}

// sheet writes a part of a sheet as the contract has it.
func (s Results) sheet(ctx context.Context, x *reading.Result, read *reading.Reading, laid *sheet.Sheet,
	w window) (api.Sheet, error) {
	out := s.about(read, laid)
	from := min(max(w.firstColumn, 0), len(laid.Columns))
	to := from + min(max(w.columnsCount, 0), len(laid.Columns)-from)
	out.First, out.FirstColumn = w.first, from
	for i, c := range laid.Columns[from:to] {
		out.Columns = append(out.Columns,
			api.Column{Id: c.ID, Label: c.Label, Heading: shown.Heading(c.Column), Kind: api.ColumnKind(c.Field.Kind.String()),
				Right:  shown.RightAligned(c.Column),
				Figure: answer.Truth(laid.IsFigure(c.ID)), Entry: answer.Truth(c.Entry != nil),
				Behind: answer.Truth(laid.Dataset.OpensBehind(c.Column)), Under: answer.Given(c.Under),
				Heads: answer.List(c.Heads), Path: c.Path,
				Measure: c.Measure, About: answer.Given(read.Meaning(c.Column)),
				Opens: opens(ctx, x, laid, c.Column)})
		if i+from < len(laid.Totals) {
			total := laid.Totals[i+from]
			t := api.Total{Op: total.Op.String()}
			if total.Op != frame.NoTotal {
				t.Text = cell(total.Value, x.Form(), w.plain)
			}
			out.Totals = append(out.Totals, t)
		}
	}
	if laid.Chart != nil {
		out.Chart = chart(laid, x.Form())
		return out, nil
	}
	lines, err := laid.Read(ctx, w.first, w.count)
	if err != nil {
		return out, err
	}
	texts := make([]string, 0, len(lines)*(to-from)) // one piece of memory for all cells
	for _, line := range lines {
		cells := make([]*string, to-from)
		for i, v := range line.Cells[from:to] {
			if v.Null {
				continue
			}
			if w.plain {
				texts = append(texts, v.String())
			} else {
				texts = append(texts, x.Form().Text(v))
			}
			cells[i] = &texts[len(texts)-1]
		}
		links := make([]string, len(line.Links))
		for i, v := range line.Links {
			links[i] = v.String()
		}
		out.Cells, out.Links = append(out.Cells, cells), append(out.Links, links)
		out.Marks = append(out.Marks, s.mark(laid, line, from, to))
	}
	return out, s.timeline(ctx, read, laid, lines, &out)
}

// Laid is the first lines of a sheet as the contract has it.
func (s Results) Laid(ctx context.Context, x *reading.Result, read *reading.Reading, laid *sheet.Sheet) (api.Sheet,
	error) {
	return s.sheet(ctx, x, read, laid, window{count: 100, columnsCount: 200})
}

// about tells what a sheet is without its lines.
func (s Results) about(read *reading.Reading, laid *sheet.Sheet) api.Sheet {
	v := laid.View
	out := api.Sheet{View: v.ID, Title: v.Title, Says: v.Says, Dataset: laid.Dataset.ID, Show: api.SheetShow(v.Show),
		Rows: laid.Rows, Of: laid.Of, Lines: laid.Lines, ColumnsOf: len(laid.Columns),
		Columns: []api.Column{}, Available: []api.Choice{}, Shown: answer.List(laid.Shown()), Levels: []api.Level{},
		Across: []api.Level{}, Down: answer.List(v.Down), Measures: answer.List(v.Cells), Stacked: answer.Truth(v.Stacked),
		Sort:    []string{},
		Filters: []api.Filtered{}, Cells: [][]*string{}, Links: [][]string{}, Marks: []api.LineMark{}, Totals: []api.Total{},
		Open: v.Open, Drawn: v.Drawn,
		Names: api.SheetNames(v.Names), Zeros: api.SheetZeros(v.Zeros), Told: laid.Told(), Pieces: []api.Piece{},
		Extract: laid.Extract(),
		Most:    v.Limit, Dropped: answer.List(read.Dropped), Blanks: answer.List(v.Blanks)}
	if read.Kept != nil {
		kept := keptView(*read.Kept)
		out.Kept, out.View, out.Title = &kept, kept.Id, kept.Name
	}
	coded := false
	for _, c := range laid.Dataset.Columns {
		choice := api.Choice{
			Id:      c.ID,
			Heading: shown.Heading(c),
			Kind:    c.Kind.String(),
			Figure:  laid.IsFigure(c.ID),
			Rows:    !c.AtGroups,
		}
		if read.Dataset.Column(c.ID) == nil {
			choice.Formula = answer.Given(c.Formula)
		}
		out.Available = append(out.Available, choice)
		coded = coded || c.Code != ""
	}
	out.Coded = answer.Truth(coded)
	for _, l := range laid.Levels {
		out.Levels = append(out.Levels, api.Level{Text: l.Text, Label: l.Label})
	}
	for _, l := range laid.AcrossLevels() {
		out.Across = append(out.Across, api.Level{Text: l.Text, Label: l.Label})
	}
	for _, k := range laid.Sort {
		sign := ""
		if k.Descending {
			sign = "-"
		}
		out.Sort = append(out.Sort, sign+k.Column)
	}
	for _, p := range laid.Pieces() {
		out.Pieces = append(out.Pieces, api.Piece{Says: p.Says, Part: answer.Given(p.Part), Text: answer.Given(p.Text)})
	}
	for _, f := range laid.Filters {
		out.Filters = append(out.Filters,
			api.Filtered{Text: f.Typed, Column: f.Column, Label: laid.LabelOf(f.Column), Test: f.Test, Value: f.Value})
	}
	return out
}

func (s Results) mark(laid *sheet.Sheet, line sheet.Line, from, to int) api.LineMark {
	m := api.LineMark{Kind: api.LineMarkKind(line.Kind)}
	if line.Tone != "" {
		tone := api.Tone(line.Tone)
		m.Tone = &tone
	}
	if line.Tones != nil {
		tones := slices.Clone(line.Tones[from:to])
		m.Tones = &tones
	}
	if line.Kind == sheet.RowLine {
		row := int(line.Row)
		m.Row = &row
		return m
	}
	name := laid.KeyText(line.Key)
	m.Name, m.Path, m.Level, m.Size = &name, &line.Path, &line.Level, &line.Size
	m.Open = answer.Truth(line.Open)
	if line.Measure > 0 || laid.View.Stacked {
		m.Measure = &line.Measure
	}
	return m
}

// opens says where a cell leads: parameters from the line by their place in
// its links, parameters of the run by their facts.
func opens(ctx context.Context, x *reading.Result, laid *sheet.Sheet, c report.Column) *api.Opens {
	if c.Opens == nil {
		return nil
	}
	out := api.Opens{
		Report:  answer.As(ctx).Catalog.CalledNow(c.Opens.Report),
		Address: c.Opens.Address,
		With:    map[string]int{},
		Fixed:   x.Fixed(c.Opens),
	}
	out.Readers = answer.Truth(answer.As(ctx).Reading.Followed(out.Report))
	for _, id := range c.Opens.Fields() {
		out.With[id] = slices.Index(laid.Links, id)
	}
	for _, f := range c.Opens.With {
		if at := slices.Index(laid.Links, f.From); at >= 0 {
			out.With[f.Parameter] = at
		}
	}
	return &out
}

// timeline adds the days of a timeline's bars.
func (s Results) timeline(ctx context.Context, read *reading.Reading, laid *sheet.Sheet, lines []sheet.Line,
	out *api.Sheet) error {
	v := laid.View
	if v.Show != report.Timeline {
		return nil
	}
	spans, from, to, err := laid.Spans(ctx, lines)
	if err != nil {
		return err
	}
	today := read.Today().String()
	out.Timeline = &api.Timeline{
		Start: v.Start,
		End:   v.End,
		Label: answer.Given(v.Label),
		From:  from.String(),
		To:    to.String(),
		Today: &today,
	}
	for i, span := range spans {
		days := []string{span[0].String(), span[1].String()}
		out.Marks[i].Span = &days
	}
	return nil
}

func chart(laid *sheet.Sheet, form shown.Form) *api.Chart {
	c := laid.Chart
	out := api.Chart{Form: api.ChartForm(c.Form), X: api.Axis{Label: c.X.Label, Kind: c.X.Field.Kind.String()},
		Y: api.Axis{Label: c.Y.Label, Kind: c.Y.Field.Kind.String()}, Of: c.Of,
		Series: []api.Series{}, Points: []api.Point{}}
	out.Places, out.Marks = answer.List(out.Places), answer.List(out.Marks)
	for _, p := range c.Places {
		out.Places = append(out.Places, struct {
			Name string `json:"name"`
			Path string `json:"path"`
		}{p.Name, p.Path})
	}
	for _, x := range c.Series {
		series := api.Series{Id: x.ID, Label: x.Label, Path: x.Path}
		for _, v := range x.Figures {
			series.Texts = append(series.Texts, cell(v, form, false))
			if v.Null {
				series.Values = append(series.Values, nil)
				continue
			}
			n := number64(v)
			series.Values = append(series.Values, &n)
		}
		series.Texts, series.Values = answer.List(series.Texts), answer.List(series.Values)
		out.Series = append(out.Series, series)
	}
	for _, p := range c.Points {
		out.Points = append(out.Points,
			api.Point{
				Row:   int(p.Row),
				X:     number64(p.X),
				Y:     number64(p.Y),
				XText: form.Text(p.X),
				YText: form.Text(p.Y),
				Name:  p.Name,
			})
	}
	for _, m := range c.Marks {
		if m.Value.Null {
			continue
		}
		out.Marks = append(out.Marks, struct {
			Label string  `json:"label"`
			Text  string  `json:"text"`
			Value float64 `json:"value"`
		}{m.Label, form.Text(m.Value), number64(m.Value)})
	}
	return &out
}

// number64 is a figure as near as a drawing needs it.
func number64(v frame.Value) float64 {
	return v.Number.Digits.ToFloat64(0) / math.Pow10(int(v.Number.Scale))
}
