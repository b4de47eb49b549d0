package revision

import (
	"reflect"

	"mantilla/core/report"
)

// checks tells what became of what should hold of figures.
func (w *words) checks(was, is *report.Definition) {
	each(w, "the check", checksOf(was), checksOf(is), func(id string, was, is *report.Check) {
		w.text("the condition of the check "+id, was.Holds, is.Holds)
		w.text("the figure of the check "+id, was.Figure, is.Figure)
		w.text("the percentage of the check "+id, was.Within, is.Within)
		w.text("what is done where the check "+id+" does not hold", was.Else, is.Else)
		w.text("what the check "+id+" says", was.Say, is.Say)
		w.text("the dataset of the check "+id, was.Of, is.Of)
		w.texts("the groups of the check "+id, was.Each, is.Each)
		if !reflect.DeepEqual(was.With, is.With) {
			w.say("the figures of the check " + id)
		}
	})
	if !reflect.DeepEqual(known(was), known(is)) {
		w.say("what is expected of its figures")
	}
}

// known are the expectations, wherever they stand in the file.
func known(d *report.Definition) (out []any) {
	for _, e := range d.Expected {
		out = append(out, e.Name, e.Values, e.Figures)
	}
	return out
}

func checksOf(d *report.Definition) (out []named[report.Check]) {
	for i := range d.Checks {
		out = append(out, named[report.Check]{d.Checks[i].ID, &d.Checks[i]})
	}
	return out
}
