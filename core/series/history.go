package series

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/changes"
	"mantilla/core/frame"
	"mantilla/core/period"
)

// What a state can have come from, and what can have become of it.
const (
	cameFirst   = "at first" // it was there in the first capture
	cameEntered = "entered"
	changedInto = "changed"
	wentStill   = "still"
	wentLeft    = "left"
)

// History is a history under way, of captures that are added in their order.
type History struct {
	Layout
	schema frame.Schema // of the columns that are read
	places []int        // of those that are compared

	times  []moment
	rows   changes.Side // of the last capture
	match  changes.Side // their compared columns
	states [][]state    // by batch and row of the last capture
	course []coursed
	known  map[string]value // states that ever stood in the course
	order  []string         // in the order in which they came
	said   Said
}

// Said counts what a history came to.
type Said struct{ Captures, Gaps, Rows, Entered, Changed, Left int }

// moment is a capture, or one that is missing.
type moment struct {
	day     period.Day
	capture string // "" for one that is missing
	missed  string // why it is missing
}

// state is the state of a row of the last capture.
type state struct {
	since  int32 // place among the captures
	came   string
	before value
}

// value is one cell, of text or of number.
type value struct {
	is   bool
	n    int64
	text string
}

// coursed is a line of the course.
type coursed struct {
	at    int // place among the captures
	state value
	rows  int64
	sums  []value // by the layout's sums
}

// Begin begins a history of columns that are read with a schema.
func (l Layout) Begin(schema frame.Schema) *History {
	h := &History{Layout: l, schema: schema, known: map[string]value{}}
	for i := range l.Compared() {
		h.places = append(h.places, i)
	}
	return h
}

// Miss says that a capture is missing. It comes in its order among those that are there.
func (h *History) Miss(day period.Day, why string) {
	h.times, h.said.Gaps = append(h.times, moment{day: day, missed: why}), h.said.Gaps+1
}

// Add adds a capture, and writes the states that ended with it.
func (h *History) Add(ctx context.Context, day period.Day, capture string, rows changes.Side,
	out *frame.Builder) error {
	compared := make(changes.Side, len(rows))
	for i, b := range rows {
		compared[i] = b.Columns(h.places)
	}
	at, first := len(h.times), h.said.Captures == 0
	h.times = append(h.times, moment{day: day, capture: capture})
	match, err := changes.Find(ctx, h.match, compared, h.schema[:len(h.places)], len(h.Key))
	if err != nil {
		return err
	}
	states := make([][]state, len(rows))
	for i, b := range rows {
		states[i] = make([]state, b.Rows)
	}
	err = match.Each(func(became string, was, is changes.Row) error {
		switch became {
		case changes.Same:
			states[is.Batch][is.Row] = h.states[was.Batch][was.Row]
		case changes.New:
			came := cameEntered
			if first {
				came = cameFirst
			} else {
				h.said.Entered++
			}
			states[is.Batch][is.Row] = state{since: int32(at), came: came}
		case changes.Changed:
			h.said.Changed++
			states[is.Batch][is.Row] = state{int32(at), changedInto, h.cell(h.rows[was.Batch], len(h.Key), was.Row)}
			return h.write(out, was, at, changedInto)
		case changes.Gone:
			h.said.Left++
			return h.write(out, was, at, wentLeft)
		}
		return nil
	})
	if err != nil {
		return err
	}
	h.rows, h.match, h.states = rows, compared, states
	h.said.Captures, h.said.Rows = h.said.Captures+1, rows.Rows()
	return h.sum(ctx, at)
}

// End writes the states that last.
func (h *History) End(ctx context.Context, out *frame.Builder) error {
	for i, b := range h.rows {
		if err := context.Cause(ctx); err != nil {
			return err
		}
		for row := range b.Rows {
			if err := h.write(out, changes.Row{Batch: i, Row: row}, len(h.times), wentStill); err != nil {
				return err
			}
		}
	}
	return nil
}

// cell reads a cell of a batch.
func (h *History) cell(b *frame.Batch, col, row int) value {
	switch {
	case b.Null(col, row):
		return value{}
	case h.schema[col].Kind == frame.Text:
		return value{is: true, text: b.Text(col, row)}
	}
	return value{is: true, n: b.Int(col, row)}
}

// put writes a cell of a kind.
func (v value) put(out *frame.Builder, at int, kind frame.Kind) error {
	switch {
	case !v.is:
		return nil
	case kind == frame.Text:
		out.String(at, v.text)
		return nil
	}
	return out.Int(at, v.n)
}

// write writes the state of a row of the last capture, which ended with the capture at a place.
func (h *History) write(out *frame.Builder, of changes.Row, ended int, went string) error {
	b, s := h.rows[of.Batch], h.states[of.Batch][of.Row]
	for col, field := range h.schema {
		if err := h.cell(b, col, of.Row).put(out, col, field.Kind); err != nil {
			return err
		}
	}
	at := len(h.schema)
	if err := s.before.put(out, at, h.schema[len(h.Key)].Kind); err != nil {
		return err
	}
	out.String(at+1, s.came)
	last := h.times[len(h.times)-1].day
	if went != wentStill {
		last = h.times[ended].day
		if err := out.Int(at+3, int64(last)); err != nil {
			return err
		}
	}
	since := h.times[s.since].day
	in, gaps := h.within(int(s.since), ended)
	out.String(at+4, went)
	for col, n := range map[int]int64{at + 2: int64(since), at + 5: int64(last - since), at + 6: in, at + 7: gaps,
		at + 8: 1} {
		if err := out.Int(col, n); err != nil {
			return err
		}
	}
	return out.EndRow()
}

// within counts the captures that have a state, and those that are missing while it lasted or just
// before it.
func (h *History) within(since, ended int) (in, gaps int64) {
	for _, t := range h.times[since:ended] {
		if t.capture != "" {
			in++
		} else {
			gaps++
		}
	}
	for i := since - 1; i >= 0 && h.times[i].capture == ""; i-- {
		gaps++
	}
	return in, gaps
}

// sum sums the last capture by its states.
func (h *History) sum(ctx context.Context, at int) error {
	sums := make([]int, len(h.Sums))
	for i, id := range h.Sums {
		sums[i] = h.schema.Index(id)
	}
	of := map[string]*coursed{}
	for _, b := range h.rows {
		if err := context.Cause(ctx); err != nil {
			return err
		}
		for row := range b.Rows {
			v := h.cell(b, len(h.Key), row)
			key := fmt.Sprintf("%t%d %s", v.is, v.n, v.text)
			c := of[key]
			if c == nil {
				c = &coursed{at: at, state: v, sums: make([]value, len(sums))}
				of[key] = c
				if _, known := h.known[key]; !known {
					h.known[key], h.order = v, append(h.order, key)
				}
			}
			c.rows++
			for i, col := range sums {
				cell := h.cell(b, col, row)
				if !cell.is {
					continue
				}
				c.sums[i].is, c.sums[i].n = true, c.sums[i].n+cell.n
				if !frame.FitsDigits(c.sums[i].n) {
					return fmt.Errorf("the sum of %s at %s has too many digits", h.Sums[i], h.times[at].day)
				}
			}
		}
	}
	for _, key := range h.order {
		if c := of[key]; c != nil {
			h.course = append(h.course, *c)
			continue
		}
		h.course = append(h.course, coursed{at: at, state: h.known[key], sums: make([]value, len(sums))}) // nobody was in it
	}
	return nil
}

// Course writes the course: of each capture what each state came to, and of one that is missing
// that nothing is known.
func (h *History) Course(out *frame.Builder) error {
	rows := h.CourseRows()
	next := 0
	for at, t := range h.times {
		if t.capture == "" {
			for _, key := range h.order {
				if err := h.line(out, rows.Schema(), coursed{at: at, state: h.known[key]}); err != nil {
					return err
				}
			}
			continue
		}
		for ; next < len(h.course) && h.course[next].at == at; next++ {
			if err := h.line(out, rows.Schema(), h.course[next]); err != nil {
				return err
			}
		}
	}
	return nil
}

// line writes a line of the course.
func (h *History) line(out *frame.Builder, schema frame.Schema, c coursed) error {
	t := h.times[c.at]
	if err := out.Int(0, int64(t.day)); err != nil {
		return err
	}
	if err := c.state.put(out, 2, schema[2].Kind); err != nil {
		return err
	}
	if t.capture == "" {
		out.String(len(schema)-1, t.missed)
		return out.EndRow()
	}
	out.String(1, t.capture)
	if err := out.Int(3, c.rows); err != nil {
		return err
	}
	at := 4
	for i, id := range h.Sums {
		if id == h.Track[0] {
			continue
		}
		if err := c.sums[i].put(out, at, frame.Decimal); err != nil {
			return err
		}
		at++
	}
	return out.EndRow()
}

// Say says what the history is of.
func (h *History) Say() string {
	if len(h.times) == 0 {
		return ""
	}
	said := fmt.Sprintf("%d captures from %s to %s: %d rows in the last; %d entered, %d changed, %d left.",
		h.said.Captures,
		h.times[0].day.Long(), h.times[len(h.times)-1].day.Long(), h.said.Rows, h.said.Entered, h.said.Changed, h.said.Left)
	if h.said.Gaps > 0 {
		var days []string
		for _, t := range h.times {
			if t.capture == "" {
				days = append(days, t.day.Long())
			}
		}
		const most = 6
		more := ""
		if len(days) > most {
			more = fmt.Sprintf(" and %d more", len(days)-most)
			days = days[:most]
		}
		are := "captures are"
		if h.said.Gaps == 1 {
			are = "capture is"
		}
		said += fmt.Sprintf(" %d %s missing, and nothing is known of %s%s.", h.said.Gaps, are,
			strings.Join(slices.Compact(days), ", "), more)
	}
	return said
}
