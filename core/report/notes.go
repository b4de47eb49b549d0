package report

import (
	"mantilla/core/formula"
	"mantilla/core/param"
	"mantilla/core/period"
)

// noteNames are the names that the condition of a note may use: parameters by
// id, their days as .start and .end, and today.
func noteNames(declared []param.Parameter) formula.Names {
	names := formula.Names{"today": formula.Day}
	for _, p := range declared {
		switch p.Type {
		case param.Range, param.Ranges, param.Period:
			names[p.ID+".start"], names[p.ID+".end"] = formula.Day, formula.Day
		case param.Date:
			names[p.ID] = formula.Day
		case param.Integer, param.Decimal, param.Money, param.Horizon, param.Newest:
			names[p.ID] = formula.Number
		case param.Flag:
			names[p.ID] = formula.Flag
		default:
			names[p.ID] = formula.Text
		}
	}
	return names
}

// NotesOn returns what the notes say whose condition holds of the values.
func (d *Definition) NotesOn(values param.Values, today period.Day) (said []string) {
	known := formula.Values{"today": {Day: today}}
	for _, v := range values {
		if !v.Given {
			continue
		}
		id := v.Parameter.ID
		known[id] = formula.Value{Text: v.Resolved(), Number: v.Number, Day: v.Day, Flag: v.Flag}
		known[id+".start"], known[id+".end"] = formula.Value{Day: v.Range.First}, formula.Value{Day: v.Range.Last}
	}
	for _, n := range d.Notes {
		if n.When.Holds(known) {
			said = append(said, n.Say)
		}
	}
	return said
}
