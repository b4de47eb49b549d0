package revision

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/report"
)

func (w *words) parameters(was, is *report.Definition) {
	each(w, "parameter", parametersOf(was), parametersOf(is), w.parameter)
	w.order("parameters", ids(parametersOf(was)), ids(parametersOf(is)))
}

func (w *words) parameter(id string, was, is *param.Parameter) {
	of := func(what string) string { return fmt.Sprintf("%s of parameter %s", what, id) }
	w.text(of("the type"), string(was.Type), string(is.Type))
	w.text(of("the label"), was.Label, is.Label)
	w.text(of("the default"), was.Default, is.Default)
	w.text(of("the list"), was.From, is.From)
	w.text(of("the help"), was.Help, is.Help)
	w.text(of("the least"), was.Min, is.Min)
	w.text(of("the greatest"), was.Max, is.Max)
	w.text(of("the longest range"), was.Longest, is.Longest)
	w.text(of("the pattern"), was.Pattern, is.Pattern)
	parameter := "parameter " + id
	w.flag(parameter, "is needed", was.Required, is.Required)
	w.flag(parameter, "takes several", was.Many, is.Many)
	w.flag(parameter, "is locked", was.Locked, is.Locked)
	w.flag(parameter, "is hidden", was.Hidden, is.Hidden)
	w.texts(of("the entries"), codes(was.Options), codes(is.Options))
	rest := [2]param.Parameter{*was, *is}
	for i := range rest { // what was told above
		r := &rest[i]
		r.Type, r.Label, r.Default, r.From, r.Help, r.Min, r.Max, r.Longest, r.Pattern = "", "", "", "", "", "", "", "", ""
		r.Required, r.Many, r.Locked, r.Hidden, r.Options = false, false, false, false, nil
	}
	if !reflect.DeepEqual(rest[0], rest[1]) {
		w.say("what else is said of parameter " + id)
	}
}

func codes(entries []param.Entry) (out []string) {
	for _, e := range entries {
		out = append(out, e.Code)
	}
	return out
}

// sql is a piece as it was written, wherever it stands.
func sql(p report.Piece) string {
	if p.By == "" {
		return strings.Join(strings.Fields(p.SQL), " ")
	}
	var cases []string
	for code, text := range p.Cases {
		cases = append(cases, code+": "+strings.Join(strings.Fields(text), " "))
	}
	slices.Sort(cases)
	return "by :" + p.By + " " + strings.Join(cases, "; ")
}

func pieces(list []report.Piece) (out []string) {
	for _, p := range list {
		out = append(out, sql(p))
	}
	return out
}

func (w *words) dataset(id string, was, is *report.Dataset) {
	of := func(what string) string { return fmt.Sprintf("%s of dataset %s", what, id) }
	if sql(was.From) != sql(is.From) {
		w.say(of("what rows are read from"))
	}
	w.conditions(id, was.Where, is.Where)
	w.text(of("the scope"), sql(was.Scope), sql(is.Scope))
	w.texts(of("the key"), was.Key, is.Key)
	w.texts(of("the grouping"), pieces(was.Group), pieces(is.Group))
	w.texts(of("the order"), pieces(was.Order), pieces(is.Order))
	w.texts(of("what so many are read of each"), pieces(was.Each), pieces(is.Each))
	w.text(of("the parameter of levels"), was.Levels, is.Levels)
	w.text(of("the parameter of the newest"), was.Newest, is.Newest)
	w.text(of("the range that is compared"), was.Compare, is.Compare)
	w.text(of("the dataset of the rows behind"), behind(was), behind(is))
	w.flag("dataset "+id, "may fail", was.MayFail, is.MayFail)
	w.flag("dataset "+id, "stays in the engine", was.Keep != "", is.Keep != "")
	in := "column of " + id
	each(w, in, columnsOf(was), columnsOf(is),
		func(column string, was, is *report.Column) { w.column(id, column, was, is) })
	w.order("columns of "+id, ids(columnsOf(was)), ids(columnsOf(is)))
}

// behind writes where the rows of a dataset's lines are.
func behind(d *report.Dataset) string {
	if d.Behind == nil {
		return ""
	}
	return strings.TrimSuffix(d.Behind.Of+" by "+strings.Join(d.Behind.By, ", "), " by ")
}

// conditions tells of those that came, went, or have other SQL at the same place.
func (w *words) conditions(dataset string, was, is []report.Condition) {
	written := func(list []report.Condition) (out []string) {
		for _, c := range list {
			text := sql(c.Piece)
			if c.Within != "" {
				text += " within :" + c.Within
			}
			out = append(out, text)
		}
		return out
	}
	before, now := written(was), written(is)
	if len(before) == len(now) {
		for i := range now {
			w.text(fmt.Sprintf("condition %d of dataset %s", i+1, dataset), before[i], now[i])
		}
		return
	}
	for _, text := range before {
		if !slices.Contains(now, text) {
			w.add("the condition %q of dataset %s is gone", text, dataset)
		}
	}
	for _, text := range now {
		if !slices.Contains(before, text) {
			w.add("the condition %q of dataset %s is new", text, dataset)
		}
	}
}

func (w *words) column(dataset, id string, was, is *report.Column) {
	of := func(what string) string { return fmt.Sprintf("%s of column %s of %s", what, id, dataset) }
	w.text(of("the type"), typed(was), typed(is))
	w.text(of("the label"), was.Label, is.Label)
	w.text(of("what is said"), was.About, is.About)
	w.text(of("the term"), was.Means, is.Means)
	w.text(of("the SQL"), sql(was.Is), sql(is.Is))
	w.text(of("the formula"), was.Formula, is.Formula)
	w.text(of("the total"), total(was.Total), total(is.Total))
	w.text(of("the unit"), was.Unit, is.Unit)
	w.text(of("the column of codes"), was.Code, is.Code)
	w.text(of("the heading above"), was.Under, is.Under)
	if !reflect.DeepEqual(was.Personal, is.Personal) {
		w.say(of("who may see what is personal"))
	}
	if was.Stored != is.Stored || was.AtGroups != is.AtGroups {
		w.say(of("how it is read"))
	}
	if !reflect.DeepEqual(was.Opens, is.Opens) {
		w.say(of("what opens from a cell"))
	}
	if !slices.EqualFunc(was.Tones, is.Tones, sameTone) {
		w.say(of("the tones"))
	}
}

func sameTone(a, b report.Tone) bool { return a.When == b.When && a.As == b.As }

func total(op frame.Op) string {
	if op == frame.NoTotal {
		return ""
	}
	return op.String()
}

func typed(c *report.Column) string {
	switch c.Kind {
	case frame.Money:
		return "money in " + c.Currency
	case frame.Decimal:
		return fmt.Sprintf("decimal with %d places", c.Scale)
	}
	return c.Kind.String()
}

func (w *words) view(id string, was, is *report.View) {
	of := func(what string) string { return fmt.Sprintf("%s of view %s", what, id) }
	w.text(of("the title"), was.Title, is.Title)
	w.text(of("the dataset"), was.Of, is.Of)
	w.text(of("the form"), string(was.Show)+" "+was.Drawn, string(is.Show)+" "+is.Drawn)
	w.texts(of("the columns"), was.Columns, is.Columns)
	w.texts(of("the grouping"), was.Levels, is.Levels)
	w.texts(of("what stands down"), was.Down, is.Down)
	w.texts(of("what stands across"), was.Across, is.Across)
	w.texts(of("the measures"), was.Cells, is.Cells)
	w.texts(of("the sorting"), sorting(was.Sort), sorting(is.Sort))
	w.text(of("what is said with it"), was.Says, is.Says)
	if !slices.EqualFunc(was.Tones, is.Tones, sameTone) {
		w.say(of("the tones"))
	}
	if !slices.EqualFunc(was.Marks, is.Marks, func(a, b report.Mark) bool { return a.At == b.At && a.Label == b.Label }) {
		w.say(of("the marks"))
	}
	if look(was) != look(is) {
		w.say(of("how it is laid out"))
	}
}

func sorting(keys []frame.Key) (out []string) {
	for _, k := range keys {
		text := k.Column
		if k.Descending {
			text = "-" + text
		}
		out = append(out, text)
	}
	return out
}

// look is what a view is laid out by and nobody needs to be told in detail.
func look(v *report.View) string {
	return fmt.Sprintf("%q", []any{v.Chosen, v.Empty, v.Zeros, v.Names, v.Open, v.Limit, v.Rest, v.Blanks, v.Break,
		v.Stacked, v.Fill, v.X, v.Y, v.Bins, v.Start, v.End, v.Label})
}
