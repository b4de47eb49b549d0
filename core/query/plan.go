package query

import (
	"fmt"
	"strings"

	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
)

// Plan makes the queries of a run of a settled definition. A condition whose
// parameter has no value is left out; a limited reach adds one that cuts the rows
// to its units. It fails when a limited person asks for a dataset that cannot be
// cut.
func Plan(d *report.Definition, values param.Values, reach report.Reach, quotes report.Quotes) ([]Query, error) {
	return planner{values: values, reach: reach, quotes: quotes}.plan(d)
}

// PlanAll makes the queries with every condition in them, whether its parameter
// has a value or not, so that a source can check all of the SQL.
func PlanAll(d *report.Definition, values param.Values, quotes report.Quotes) ([]Query, error) {
	reach := report.Reach{Limited: true, Units: []string{}}
	return planner{values: values, reach: reach, quotes: quotes, all: true}.plan(d)
}

// planner makes queries of one set of values.
type planner struct {
	values param.Values
	reach  report.Reach
	quotes report.Quotes
	all    bool // every condition, answered or not
}

func (p planner) plan(d *report.Definition) (out []Query, err error) {
	for i := range d.Datasets {
		set := &d.Datasets[i]
		q, err := p.compared(set)
		if err != nil {
			return nil, fmt.Errorf("report %s, dataset %s: %w", d.ID, set.ID, err)
		}
		out = append(out, q)
	}
	return out, nil
}

// compared makes the query of a dataset with those of the ranges that it is
// compared with.
func (p planner) compared(d *report.Dataset) (Query, error) {
	q, err := p.query(d)
	if err != nil {
		return q, err
	}
	v, ok := p.values.Of(d.Compare)
	if !ok || len(v.Companions) == 0 {
		return q, nil
	}
	q.Begins = []period.Day{v.Range.First}
	for _, c := range v.Companions {
		then := p
		then.values = p.values.With(v.Parameter.ID, c.Range)
		companion, err := then.query(d)
		if err != nil {
			return q, err
		}
		q.Companions = append(q.Companions, companion)
		q.Begins = append(q.Begins, c.Range.First)
	}
	return q, nil
}

func (p planner) query(d *report.Dataset) (q Query, err error) {
	q.Dataset = d
	for _, c := range d.Read() {
		is, err := p.piece(c.Is.SQL)
		if err != nil {
			return q, err
		}
		q.Columns = append(q.Columns, Column{c.ID, is})
	}
	if q.From, err = p.piece(d.From.SQL); err != nil {
		return q, err
	}
	if q.Where, err = p.where(d); err != nil {
		return q, err
	}
	if q.Group, err = p.pieces(d.Group); err != nil {
		return q, err
	}
	newest, ok := p.values.Of(d.Newest)
	if !ok || !newest.Given && !p.all {
		return q, nil
	}
	q.Newest = &Value{d.Newest, newest.Number}
	if q.Order, err = p.pieces(d.Order); err != nil {
		return q, err
	}
	q.Each, err = p.pieces(d.Each)
	return q, err
}

func (p planner) pieces(written []report.Piece) (out []Piece, err error) {
	for _, w := range written {
		is, err := p.piece(w.SQL)
		if err != nil {
			return nil, err
		}
		out = append(out, is)
	}
	return out, nil
}

func (p planner) where(d *report.Dataset) (out []Condition, err error) {
	for _, w := range d.Where {
		if !p.all && !p.answered(w) {
			continue
		}
		c := Condition{}
		if c.Is, err = p.piece(w.SQL); err != nil {
			return nil, err
		}
		if w.Within != "" {
			if c.Within, err = p.within(w); err != nil {
				return nil, err
			}
		}
		out = append(out, c)
	}
	switch scope := d.Scope.SQL; {
	case !p.reach.Limited || scope == report.Everyone:
	case scope == "" && !p.all:
		return nil, report.ErrNotCut
	case scope != "":
		is, err := p.piece(scope)
		if err != nil {
			return nil, err
		}
		out = append(out, Condition{Is: is, Among: &Value{"your units", p.reach.Units}})
	}
	return out, nil
}

// within is the days or moments that a condition speaks of.
func (p planner) within(w report.Condition) (*Within, error) {
	v, ok := p.values.Of(w.Within)
	if !ok {
		return nil, fmt.Errorf("there is no parameter %q", w.Within)
	}
	return &Within{Name: w.Within, Where: strings.TrimSpace(w.SQL), Moments: w.Moments, Days: v.Range, Spans: v.Intervals},
		nil
}

// piece reads the author's SQL with each :name as a value.
func (p planner) piece(sql string) (out Piece, err error) {
	at := 0
	for _, r := range report.References(sql, p.quotes) {
		v, ok := p.values.Of(r.Parameter)
		if !ok {
			return nil, fmt.Errorf("there is no parameter %q", r.Parameter)
		}
		bound, err := bind(v, r.Part)
		if err != nil {
			return nil, err
		}
		out = append(out, Part{Text: sql[at:r.Start]}, Part{Value: &Value{r.String(), bound}})
		at = r.End
	}
	return append(out, Part{Text: sql[at:]}), nil
}

// answered tells whether every parameter that a condition speaks of has a value.
func (p planner) answered(w report.Condition) bool {
	for _, r := range append(report.References(w.SQL, p.quotes), report.Reference{Parameter: w.Within}) {
		if v, ok := p.values.Of(r.Parameter); ok && !v.Given {
			return false
		}
	}
	return true
}

func bind(v param.Value, part string) (any, error) {
	if !v.Given {
		if v.Parameter.Many || v.Parameter.Type == param.Unit {
			return []string{}, nil
		}
		return nil, nil
	}
	switch v.Parameter.Type {
	case param.Range, param.Ranges, param.Period:
		switch part {
		case "start":
			return v.Range.First, nil
		case "end":
			return v.Range.Last, nil
		}
	case param.Codes:
		switch part {
		case "first":
			return v.Codes[0], nil
		case "last":
			return v.Codes[1], nil
		}
	case param.Integer, param.Decimal, param.Money, param.Horizon, param.Newest:
		return v.Number, nil
	case param.Flag:
		return v.Flag, nil
	case param.Date:
		return v.Day, nil
	case param.Entity, param.Choice:
		if !v.Parameter.Many {
			return v.Codes[0], nil
		}
		return v.Codes, nil
	case param.Unit:
		return v.Codes, nil
	case param.Text:
		return v.Text, nil
	}
	return nil, fmt.Errorf("parameter %s has no part %q", v.Parameter.ID, part)
}
