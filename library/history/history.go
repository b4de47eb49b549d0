package history

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/core/series"
	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/reading"
	"mantilla/model"
)

// Wish is the history that is to be read.
type Wish struct {
	Control string
	Report  string   // where the control runs several
	Like    int64    // a result whose series is read; 0 for that of the last
	Dataset string   // "" for that of the view which opens first
	Key     []string // columns that find a row in the next capture; none for the dataset's own
	Track   []string // columns whose change begins another state; none for what the first view groups by
	Since   string   // days; "" for no bound
	Until   string
}

// Read puts in the queue the history of a run control, which becomes a result of its own.
func (a *Access) Read(ctx context.Context, w Wish) (model.Run, error) {
	run := model.Run{Making: &model.Making{How: model.HowHistory, Key: w.Key}}
	if err := a.May(access.Run); err != nil {
		return run, err
	}
	s, err := a.Captures(ctx, w.Control, w.Report, w.Like)
	if err != nil {
		return run, err
	}
	captures, err := s.between(w.Since, w.Until, a.room.org.Zone)
	if err != nil {
		return run, err
	}
	run.Making.Series = &model.Series{Control: w.Control, Track: w.Track}
	var last *reading.Result
	for _, c := range captures {
		day := period.DayOf(c.At, a.room.org.Zone).String()
		if c.Result == 0 {
			run.Making.Series.Gaps = append(run.Making.Series.Gaps, model.Gap{Day: day, Reason: c.Reason})
			continue
		}
		run.Making.Series.Days = append(run.Making.Series.Days, day)
		run.Making.Of = append(run.Making.Of, model.MadeOf{Result: c.Result, Report: s.Report, Dataset: w.Dataset})
	}
	if last, err = a.reading.Result(ctx, run.Making.Of[len(run.Making.Of)-1].Result); err != nil {
		return run, err
	}
	if _, err := layoutOf(run.Making, last.Definition); err != nil {
		return run, err
	}
	run.Report, run.Title, run.Version, run.Reach = s.Report, "History: "+last.Title, last.Manifest.Version,
		last.Manifest.Reach
	run.Sentence = fmt.Sprintf("%d captures of %s", len(run.Making.Of), w.Control)
	return a.capture.StartMaking(ctx, run)
}

// layoutOf lays out a history by the definition of its last capture; it names the dataset, the key
// and what is tracked where they were left out.
func layoutOf(m *model.Making, d *report.Definition) (series.Layout, error) {
	id := m.Of[0].Dataset
	if id == "" {
		id = d.View(d.Page[0]).Of
	}
	set := d.Dataset(id)
	if set == nil {
		var known []string
		for _, s := range d.Datasets {
			known = append(known, s.ID)
		}
		return series.Layout{}, model.NoSuch("dataset", id, known)
	}
	if len(m.Series.Track) == 0 {
		m.Series.Track = grouped(d, set)
	}
	l, err := series.Lay(set, m.Key, m.Series.Track)
	if err == nil {
		err = l.Check()
	}
	if err != nil {
		return l, model.Refuse("track", "%w", err)
	}
	for i := range m.Of {
		m.Of[i].Dataset = id
	}
	m.Key = l.Key
	return l, nil
}

// grouped is the first column by which a view of the page groups the rows of a dataset.
func grouped(d *report.Definition, set *report.Dataset) []string {
	for _, id := range d.Page {
		v := d.View(id)
		if v.Of != set.ID {
			continue
		}
		for _, level := range slices.Concat(v.Levels, v.Down, v.Across) {
			if c := set.Column(level); c != nil && c.Formula == "" && !slices.Contains(set.Key, level) {
				return []string{level}
			}
		}
	}
	return nil
}

// Make is the work of a run that reads a history; a [capture.Maker]. Captures are read one after
// the other, and only the last one's rows are held.
func (room *Room) Make(ctx context.Context, run *model.Run, keep capture.Keeper, tick func(int64) error) (
	*report.Definition, error) {
	read, m := room.reading.As(room.people.AsService()), run.Making
	last, err := read.Result(ctx, m.Of[len(m.Of)-1].Result)
	if err != nil {
		return nil, err
	}
	l, err := layoutOf(m, last.Definition)
	if err != nil {
		return nil, err
	}
	states, course := l.StateRows(), l.CourseRows()
	var h *series.History
	keep.Dataset(series.States)
	err = capture.Ahead(ctx, keep, states.Schema(), tick, func(ctx context.Context, out *frame.Builder) (err error) {
		if h, err = room.pass(ctx, read, m, l, out); err == nil {
			err = h.End(ctx, out)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	keep.Dataset(series.Course)
	err = capture.Ahead(ctx, keep, course.Schema(), tick, func(_ context.Context, out *frame.Builder) error {
		return h.Course(out)
	})
	if err != nil {
		return nil, err
	}
	set := last.Definition.Dataset(m.Of[0].Dataset)
	run.Sentence = fmt.Sprintf("%d results of the run control %s, from R-%06d to R-%06d; rows are "+
		"found by %s, their state is %s.",
		len(m.Of), m.Series.Control, m.Of[0].Result, last.Number, strings.Join(set.Labels(m.Key), ", "),
		strings.Join(set.Labels(m.Series.Track), ", "))
	d := last.Definition
	return l.Definition(report.Definition{ID: run.Report, Title: run.Title, Category: d.Category, Depth: d.Depth,
		About: "What the rows of a series of results were, since when and until when."}, h.Say()), nil
}

// pass reads the captures in their order, with the gaps between them.
func (room *Room) pass(ctx context.Context, read *reading.Access, m *model.Making, l series.Layout,
	out *frame.Builder) (h *series.History, err error) {
	gaps := m.Series.Gaps
	for i := range m.Of {
		of, day := &m.Of[i], m.Series.Days[i]
		r, err := read.Result(ctx, of.Result)
		if err != nil {
			return nil, fmt.Errorf("R-%06d: %w", of.Result, err)
		}
		of.Seal = r.Manifest.Seal
		set := r.Definition.Dataset(of.Dataset)
		if set == nil || r.FailedOf(of.Dataset) != "" {
			return nil, fmt.Errorf("R-%06d has no rows of %s; begin after it", r.Number, of.Dataset)
		}
		if err := l.Alike(set); err != nil {
			return nil, fmt.Errorf("R-%06d cannot stand in this history: %w; begin after it", r.Number, err)
		}
		rows, err := read.Read(ctx, r, of.Dataset+".rows", ask.Changes{})
		if err != nil {
			return nil, err
		}
		batches, schema, err := rows.Batches(ctx, l.Columns())
		if err != nil {
			return nil, err
		}
		if h == nil {
			h = l.Begin(schema)
		}
		for ; len(gaps) > 0 && gaps[0].Day < day; gaps = gaps[1:] {
			if err := miss(h, gaps[0]); err != nil {
				return nil, err
			}
		}
		at, err := period.ParseDay(day)
		if err != nil {
			return nil, err
		}
		if err := h.Add(ctx, at, fmt.Sprintf("R-%06d", r.Number), batches, out); err != nil {
			return nil, fmt.Errorf("R-%06d: %w", r.Number, err)
		}
	}
	for _, g := range gaps {
		if err := miss(h, g); err != nil {
			return nil, err
		}
	}
	return h, nil
}

func miss(h *series.History, g model.Gap) error {
	day, err := period.ParseDay(g.Day)
	if err == nil {
		h.Miss(day, g.Reason)
	}
	return err
}
