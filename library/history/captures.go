package history

import (
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"mantilla/core/period"
	"mantilla/model"
)

// Capture is a result of a series, or a moment of which nothing was kept.
type Capture struct {
	At       time.Time
	Result   int64 // 0 where nothing was kept
	Sentence string
	Rows     int64
	Reason   string // why nothing was kept
}

// Series are the captures of a run control and a report of it, the earliest first.
type Series struct {
	Control  string
	Report   string
	Captures []Capture
	Other    int     // results of other values or other units, which are not part of it
	Kinds    []Alike // the series that there are: of a control that is split, one for each part
}

// Alike are the results of a run control that answer one question: the newest, what it says, and
// how many there are.
type Alike struct {
	Result   int64
	Sentence string
	Kept     int
}

// mostCaptures is how many captures a history has at most: three years of daily ones.
const mostCaptures = 1100

// Captures lists the captures of a run control: of the report that it runs, or of that which is
// named where it runs several. Results belong to one series that answer the same question as one
// of them, the last where like is 0: with the same values as they were typed, and for the same
// units.
func (a *Access) Captures(ctx context.Context, control, report string, like int64) (s Series, err error) {
	if report, err = a.reportOf(ctx, control, report); err != nil {
		return s, err
	}
	s = Series{Control: control, Report: report}
	found, err := a.reading.Results(ctx, model.ResultWish{Control: control, Report: report, Limit: mostCaptures})
	if err != nil {
		return s, err
	}
	found = slices.DeleteFunc(found, func(r model.Result) bool { return r.Manifest.Made != nil })
	first := 0
	if like != 0 {
		if first = slices.IndexFunc(found, func(r model.Result) bool { return r.Number == like }); first < 0 {
			return s, model.Refuse("like", "R-%06d is no result of %s that %s ran", like, report, control)
		}
	}
	s.Kinds = kinds(found)
	days := map[period.Day]bool{}
	for i, r := range found {
		if !alike(found[first], r) {
			s.Other++
			continue
		}
		at := found[i].Manifest.StartedAt
		days[period.DayOf(at, a.room.org.Zone)] = true
		s.Captures = append(s.Captures, Capture{At: at, Result: r.Number, Sentence: r.Sentence, Rows: r.Rows})
	}
	gaps, err := a.room.records.Gaps(ctx, control, report)
	if err != nil {
		return s, err
	}
	for _, g := range gaps {
		if len(s.Captures) > 0 && !days[period.DayOf(g.Moment, a.room.org.Zone)] {
			s.Captures = append(s.Captures, Capture{At: g.Moment, Reason: g.Reason})
		}
	}
	slices.SortStableFunc(s.Captures, func(a, b Capture) int { return a.At.Compare(b.At) })
	for len(s.Captures) > 0 && s.Captures[0].Result == 0 { // what came before the first is no gap
		s.Captures = s.Captures[1:]
	}
	return s, nil
}

// kinds are the series that results belong to, in the order of their newest.
func kinds(found []model.Result) (out []Alike) {
	var newest []model.Result
	for _, r := range found {
		i := slices.IndexFunc(newest, func(n model.Result) bool { return alike(n, r) })
		if i < 0 {
			newest = append(newest, r)
			out = append(out, Alike{Result: r.Number, Sentence: r.Sentence, Kept: 1})
			continue
		}
		out[i].Kept++
	}
	return out
}

// alike tells whether two results answer the same question.
func alike(a, b model.Result) bool {
	typed := func(r model.Result) map[string]string {
		out := map[string]string{}
		for _, f := range r.Manifest.Facts {
			out[f.Parameter] = f.Typed
		}
		return out
	}
	return maps.Equal(typed(a), typed(b)) && a.Manifest.Reach.Limited == b.Manifest.Reach.Limited &&
		slices.Equal(a.Manifest.Reach.Units, b.Manifest.Reach.Units)
}

// reportOf is the report of a run control, which must be one that it runs.
func (a *Access) reportOf(ctx context.Context, control, report string) (string, error) {
	c, err := a.controls.Control(ctx, control)
	if err != nil {
		return "", err
	}
	var runs []string
	for _, s := range c.Steps {
		if !slices.Contains(runs, s.Report) {
			runs = append(runs, s.Report)
		}
	}
	switch {
	case report == "" && len(runs) == 1:
		return runs[0], nil
	case report == "":
		return "", model.Refuse("report", "%s runs several reports; say which: %s", control, strings.Join(runs, ", "))
	case !slices.Contains(runs, report):
		return "", model.NoSuch("report of "+control, report, runs)
	}
	return report, nil
}

// On is the capture that tells how it was on a day: the last until then.
func (a *Access) On(ctx context.Context, control, report string, like int64, day string) (c Capture, err error) {
	on, err := period.ParseDay(day)
	if err != nil {
		return c, model.Refuse("on", "%w", err)
	}
	s, err := a.Captures(ctx, control, report, like)
	if err != nil {
		return c, err
	}
	for _, of := range s.Captures {
		if of.Result > 0 && period.DayOf(of.At, a.room.org.Zone) <= on {
			c = of
		}
	}
	if c.Result == 0 {
		return c, model.Refuse("on", "nothing was kept of %s until %s", control, on.Long())
	}
	return c, nil
}

// between are the captures of a series from one day to another; "" for no bound.
func (s Series) between(since, until string, zone *time.Location) ([]Capture, error) {
	within := func(period.Day) bool { return true }
	for _, bound := range []struct {
		part, text string
		keeps      func(day, bound period.Day) bool
	}{{"since", since, func(d, b period.Day) bool { return d >= b }}, {"until", until, func(d, b period.Day) bool {
		return d <= b
	}}} {
		if bound.text == "" {
			continue
		}
		b, err := period.ParseDay(bound.text)
		if err != nil {
			return nil, model.Refuse(bound.part, "%w", err)
		}
		before := within
		within = func(d period.Day) bool { return before(d) && bound.keeps(d, b) }
	}
	var out []Capture
	for _, c := range s.Captures {
		if within(period.DayOf(c.At, zone)) && (c.Result > 0 || len(out) > 0) {
			out = append(out, c)
		}
	}
	kept := 0
	for _, c := range out {
		if c.Result > 0 {
			kept++
		}
	}
	if kept < 2 {
		return nil, model.Refuse("control", "a history needs two results of %s at least, and %d are kept of the time",
			s.Control, kept)
	}
	return out, nil
}
