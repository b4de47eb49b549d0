package report

import (
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
)

// GivenNames are the single values that formulas may speak of: parameters by
// id, their days as .start and .end, and today. None has a value yet.
func GivenNames(declared []param.Parameter) map[string]frame.Value {
	names := map[string]frame.Value{"today": {Kind: frame.Date, Null: true}}
	for _, p := range declared {
		switch p.Type {
		case param.Range, param.Ranges, param.Period:
			names[p.ID+".start"] = frame.Value{Kind: frame.Date, Null: true}
			names[p.ID+".end"] = frame.Value{Kind: frame.Date, Null: true}
		default:
			names[p.ID] = frame.Value{Kind: givenKind(p), Null: true}
		}
	}
	return names
}

func givenKind(p param.Parameter) frame.Kind {
	switch p.Type {
	case param.Date:
		return frame.Date
	case param.Integer, param.Horizon, param.Newest:
		return frame.Integer
	case param.Decimal, param.Money:
		return frame.Decimal
	case param.Flag:
		return frame.Flag
	}
	return frame.Text
}

// Given returns the single values that formulas may speak of, on a day.
func (d *Definition) Given(values param.Values, today period.Day) map[string]frame.Value {
	day := func(d period.Day) frame.Value {
		return frame.Value{Kind: frame.Date, Number: frame.Exact(int64(d), 0)}
	}
	given := GivenNames(d.Parameters)
	given["today"] = day(today)
	for _, v := range values {
		if !v.Given {
			continue
		}
		id := v.Parameter.ID
		switch kind := givenKind(*v.Parameter); {
		case v.Parameter.Type == param.Range || v.Parameter.Type == param.Ranges || v.Parameter.Type == param.Period:
			given[id+".start"], given[id+".end"] = day(v.Range.First), day(v.Range.Last)
		case kind == frame.Date:
			given[id] = day(v.Day)
		case kind == frame.Flag:
			given[id] = frame.Value{Kind: kind, Number: frame.Exact(map[bool]int64{true: 1}[v.Flag], 0)}
		case kind == frame.Text:
			given[id] = frame.Value{Kind: kind, Text: v.Resolved()}
		default:
			given[id] = frame.Value{Kind: kind, Number: v.Number}
		}
	}
	return given
}

// NotesOn returns what the notes say whose condition holds of the values.
func (d *Definition) NotesOn(values param.Values, today period.Day) (said []string) {
	scope := formula.Scope{Given: d.Given(values, today)}
	for _, n := range d.Notes {
		if when, err := formula.ParseCondition(n.When, scope); err == nil && when.Holds() {
			said = append(said, n.Say)
		}
	}
	return said
}
