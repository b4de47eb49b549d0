package keeping

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/changes"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/capture"
	"mantilla/library/reading"
	"mantilla/model"
)

// Side is one of two results that are compared: one that is there, or one of a report that is
// run for it.
type Side struct {
	Result  int64
	Report  string // where there is no result
	Version int    // of the report, by its number; 0 for that of now
	Typed   map[string]string
	Dataset string // "" for that of the view which opens first
	Moved   string // of a result: its report is run with its days moved so: year before, previous period
}

// Comparison is what is to be compared. Key are the columns that find a row on the other side;
// none for the dataset's own.
type Comparison struct {
	Before, After Side
	Key           []string
}

// Compare puts in the queue what changed from one result to another, which becomes a result of
// its own. It is about as many units as both sides together.
func (a *Access) Compare(ctx context.Context, c Comparison) (model.Run, error) {
	if err := a.May(access.Run); err != nil {
		return model.Run{}, err
	}
	run := model.Run{Making: &model.Making{How: model.HowCompare, Key: c.Key}}
	var halves [2]half
	for i, side := range []Side{c.Before, c.After} {
		var err error
		if halves[i], err = a.look(ctx, side); err != nil {
			return run, fmt.Errorf("the %s side: %w", sideName(i), err)
		}
		run.Making.Of = append(run.Making.Of, halves[i].of)
	}
	before, after := &halves[0], &halves[1]
	if before.result != nil && after.result != nil {
		if _, err := layoutOf(run.Making, before.result.Definition, after.result.Definition); err != nil {
			return run, err
		}
	}
	for i, h := range halves { // nothing is run before both sides are known to be right
		if h.result != nil {
			continue
		}
		started, err := a.capture.StartRun(ctx, h.ask)
		if err != nil {
			return run, fmt.Errorf("the %s side: %w", sideName(i), err)
		}
		run.Making.Of[i].Run = started.Number
	}
	run.Report, run.Title, run.Version = after.run.Report, "What changed: "+after.run.Title, after.run.Version
	run.Reach, run.Sentence = together(before.run.Reach, after.run.Reach), "From "+before.name+" to "+after.name
	return a.capture.StartMaking(ctx, run)
}

func sideName(i int) string {
	if i == 0 {
		return "earlier"
	}
	return "later"
}

// half is one side of a comparison: a result that is there, or the run that it will be of.
type half struct {
	of     model.MadeOf
	name   string
	run    model.Run       // its report, version and reach
	result *reading.Result // nil where it is run for the comparison
	ask    capture.Ask
}

// look finds the result of a side, or checks the values that its report is to be run with.
func (a *Access) look(ctx context.Context, side Side) (h half, err error) {
	if side.Moved != "" {
		if side, err = a.moved(ctx, side); err != nil {
			return h, err
		}
	}
	if side.Result == 0 {
		h.ask = capture.Ask{Report: side.Report, Typed: side.Typed, Version: side.Version}
		if h.run, err = a.asking.Plan(ctx, side.Report, side.Typed, asking.With{Version: side.Version}); err != nil {
			return h, err
		}
		h.name = strings.TrimSuffix(h.run.Sentence, ".")
		if side.Version > 0 {
			h.name = fmt.Sprintf("version %d, %s", side.Version, h.name)
		}
		h.of = model.MadeOf{Report: h.run.Report, Dataset: side.Dataset}
		return h, nil
	}
	r, err := a.reading.Result(ctx, side.Result)
	if err != nil {
		return h, err
	}
	if r.Manifest.Made != nil {
		return h, model.Refuse("result", "R-%06d is made of other results itself; compare those", r.Number)
	}
	h.result, h.name = r, said(r)
	h.run = model.Run{Report: r.Report, Title: r.Title, Version: r.Manifest.Version, Reach: r.Manifest.Reach}
	h.of = model.MadeOf{Result: r.Number, Report: r.Report, Dataset: side.Dataset}
	return h, nil
}

// moved is the side of the same report and values as a result's, with its days moved.
func (a *Access) moved(ctx context.Context, side Side) (Side, error) {
	r, err := a.reading.Result(ctx, side.Result)
	if err != nil {
		return side, err
	}
	calendar := a.room.org.Calendar()
	typed, some := maps.Clone(r.Manifest.Typed), false
	for _, v := range r.Values {
		if v.Parameter.Type != param.Range && v.Parameter.Type != param.Period || !v.Given {
			continue
		}
		days, err := calendar.Moved(v.Range, side.Moved)
		if err != nil {
			return side, model.Refuse("moved", "%s: %w", v.Parameter.Label, err)
		}
		if typed == nil {
			typed = map[string]string{}
		}
		typed[v.Parameter.ID], some = calendar.Name(days), true
	}
	if !some {
		return side, model.Refuse("moved", "%s has no days that could be moved; choose another result", r.Title)
	}
	return Side{Report: r.Report, Typed: typed, Dataset: side.Dataset}, nil
}

// said names a result.
func said(r *reading.Result) string {
	return fmt.Sprintf("R-%06d (%s)", r.Number, strings.TrimSuffix(r.Sentence, "."))
}

// together is the reach of the rows of two results.
func together(a, b report.Reach) report.Reach {
	if !a.Limited || !b.Limited {
		return report.Reach{}
	}
	units := slices.Concat(a.Units, b.Units)
	slices.Sort(units)
	return report.Reach{Limited: true, Units: slices.Compact(units)}
}

// layoutOf lays out a comparison; it names the datasets and the key where they were left out.
func layoutOf(m *model.Making, before, after *report.Definition) (changes.Layout, error) {
	var sets [2]*report.Dataset
	for i, d := range []*report.Definition{before, after} {
		of := &m.Of[i]
		if of.Dataset == "" {
			of.Dataset = d.View(d.Page[0]).Of
		}
		if sets[i] = d.Dataset(of.Dataset); sets[i] == nil {
			var known []string
			for _, set := range d.Datasets {
				known = append(known, set.ID)
			}
			return changes.Layout{}, model.NoSuch("dataset", of.Dataset, known)
		}
	}
	if len(m.Key) == 0 {
		m.Key = keyOf(sets[0], sets[1])
	}
	l, err := changes.Compare(sets[0], sets[1], m.Key)
	if err != nil {
		return l, model.Refuse("key", "%w", err)
	}
	return l, nil
}

// keyOf is what finds a row of one dataset in another: the key of the datasets, or where they
// have none every column that is no figure.
func keyOf(before, after *report.Dataset) []string {
	if len(after.Key) > 0 && slices.Equal(before.Key, after.Key) {
		return after.Key
	}
	var key []string
	for _, c := range after.Columns {
		if other := before.Column(c.ID); other != nil && !c.Kind.Numeric() && c.Total == frame.NoTotal && c.Formula == "" &&
			c.Kind != frame.Timestamp {
			key = append(key, c.ID)
		}
	}
	return key
}

// Make is the work of a run that makes a result of others; a [capture.Maker].
func (room *Room) Make(ctx context.Context, run *model.Run, keep capture.Keeper, tick func(int64) error) (
	*report.Definition, error) {
	read := room.reading.As(room.people.AsService())
	var sides [2]*reading.Result
	for i := range run.Making.Of {
		of := &run.Making.Of[i]
		if of.Run > 0 {
			number, err := read.ResultOf(ctx, of.Run)
			if err != nil {
				return nil, fmt.Errorf("the %s side: %w", sideName(i), err)
			}
			of.Result, of.Run = number, 0
		}
		r, err := read.Result(ctx, of.Result)
		if err != nil {
			return nil, fmt.Errorf("the %s side: %w", sideName(i), err)
		}
		sides[i], of.Seal = r, r.Manifest.Seal
	}
	l, err := layoutOf(run.Making, sides[0].Definition, sides[1].Definition)
	if err != nil {
		return nil, err
	}
	run.Sentence = fmt.Sprintf("From %s to %s; rows are found by %s.", said(sides[0]), said(sides[1]),
		strings.Join(sides[1].Definition.Dataset(run.Making.Of[1].Dataset).Labels(l.Key), ", "))
	shape, err := room.write(ctx, read, run.Making, sides, l, keep, tick)
	if err != nil {
		return nil, err
	}
	if err := room.alert(ctx, run, sides[0], shape.Counts()); err != nil {
		return nil, err
	}
	after := sides[1].Definition
	return shape.Definition(report.Definition{ID: run.Report, Title: run.Title, Category: after.Category,
		Depth: after.Depth,
		About: "What changed from one result to another."}), nil
}

// write finds the rows of both sides and keeps what became of them.
func (room *Room) write(ctx context.Context, read *reading.Access, m *model.Making, sides [2]*reading.Result,
	l changes.Layout, keep capture.Keeper, tick func(int64) error) (*changes.Shape, error) {
	var rows [2]changes.Side
	var schema frame.Schema
	for i, r := range sides {
		if reason := r.FailedOf(m.Of[i].Dataset); reason != "" {
			return nil, fmt.Errorf("the %s side has no such rows: %s", sideName(i), reason)
		}
		of, err := read.Read(ctx, r, m.Of[i].Dataset+".rows", ask.Changes{})
		if err != nil {
			return nil, err
		}
		if rows[i], schema, err = of.Batches(ctx, l.Columns()); err != nil {
			return nil, err
		}
	}
	match, err := changes.Find(ctx, rows[0], rows[1], schema, len(l.Key))
	if err != nil {
		return nil, err
	}
	shape := l.Shape(match.Counts)
	for _, set := range []string{changes.ChangedRows, changes.AllRows} {
		keep.Dataset(set)
		err := capture.Ahead(ctx, keep, shape.Rows.Schema(), tick, func(ctx context.Context, out *frame.Builder) error {
			return match.Write(ctx, &shape, set == changes.AllRows, out)
		})
		if err != nil {
			return nil, err
		}
	}
	return &shape, nil
}
