// Package checks looks whether what a definition says of its figures holds of the rows of a
// result, and whether figures are as they were expected.
package checks

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/core/table"
)

// State tells how a check came out.
type State string

// The states of a check. It is untold where a figure has no value, where values left the
// column out, or where there is no run before.
const (
	Held   State = "held"
	Broken State = "broken"
	Untold State = "untold"
)

// Outcome is how a check came out, as it is sealed with a result.
type Outcome struct {
	ID     string   `json:"id"`
	Say    string   `json:"say"`
	Else   string   `json:"else"` // note, mark or fail
	State  State    `json:"state"`
	Of     string   `json:"of,omitempty"`     // the formula of a figure that is compared with the run before
	Figure string   `json:"figure,omitempty"` // what it came to
	Before string   `json:"before,omitempty"` // of the run before
	Signed bool     `json:"signed,omitempty"` // that is the last one that was signed off
	Groups []string `json:"groups,omitempty"` // the first of those it does not hold of
	Count  int      `json:"count,omitempty"`  // how many there are
	Why    string   `json:"why,omitempty"`    // it is untold
}

// Says tells how a check came out.
func (o Outcome) Says() string {
	switch {
	case o.State == Held && o.Before != "":
		return fmt.Sprintf("It holds: %s, and %s in %s.", o.Figure, o.Before, o.earlier())
	case o.State == Held:
		return "It holds."
	case o.State == Untold:
		return o.Why
	case len(o.Groups) > 0 && o.Count > len(o.Groups):
		return fmt.Sprintf("%s It does not hold of %d groups, such as %s.", o.Say, o.Count, strings.Join(o.Groups, "; "))
	case len(o.Groups) > 0:
		return fmt.Sprintf("%s It does not hold of %s.", o.Say, strings.Join(o.Groups, "; "))
	case o.Before != "":
		return fmt.Sprintf("%s It is %s and was %s in %s.", o.Say, o.Figure, o.Before, o.earlier())
	}
	return o.Say
}

// earlier names the result that a figure is compared with.
func (o Outcome) earlier() string {
	if o.Signed {
		return "what was signed off last"
	}
	return "the run before"
}

// mostGroups is how many groups are told by name.
const mostGroups = 5

// Rows are the rows of a result's datasets.
type Rows func(ctx context.Context, dataset *report.Dataset) (table.Table, error)

// checking is what checks are looked at with.
type checking struct {
	of      *report.Definition
	rows    Rows
	setting ready.Setting
	before  map[string]Outcome
}

// Of looks at all checks of a settled definition. Before is how those of the run before came
// out, by their ids. It fails when rows cannot be read or the context ends.
func Of(ctx context.Context, d *report.Definition, rows Rows, setting ready.Setting,
	before map[string]Outcome) (out []Outcome, err error) {
	c := checking{d, rows, setting, before}
	for _, check := range d.Checks {
		o := Outcome{ID: check.ID, Say: check.Say, Else: check.Else}
		switch {
		case check.Figure != "":
			err = c.within(ctx, check, &o)
		case check.Of == "":
			err = c.among(ctx, check, &o)
		default:
			err = c.each(ctx, check, &o)
		}
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		if err != nil {
			o.State, o.Why = Untold, err.Error()
		}
		out = append(out, o)
	}
	return out, nil
}

// figure computes a formula of all rows of a dataset.
func (c *checking) figure(ctx context.Context, dataset, text string) (v frame.Value, err error) {
	d := c.of.Dataset(dataset)
	if d == nil {
		return v, fmt.Errorf("there is no dataset %s", dataset)
	}
	rows, err := c.rows(ctx, d)
	if err != nil {
		return v, err
	}
	return sheet.FigureOf(ctx, rows, d, d.Rows(), ask.Changes{}, c.setting, text)
}

// within compares a figure with that of the run before.
func (c *checking) within(ctx context.Context, check report.Check, o *Outcome) error {
	now, err := c.figure(ctx, check.Of, check.Figure)
	if err != nil {
		return err
	}
	if now.Null || !now.Kind.Numeric() {
		return fmt.Errorf("%s has no value", check.Figure)
	}
	o.Of, o.Figure, o.Signed = check.Of+": "+check.Figure, now.String(), check.Against == report.AgainstSigned
	before, known := c.before[check.ID]
	switch {
	case !known && o.Signed:
		return fmt.Errorf("no result of the report is signed off that has this figure")
	case !known:
		return fmt.Errorf("there is no run before with the same values")
	case before.Of != o.Of:
		return fmt.Errorf("%s has another figure, %s", o.earlier(), before.Of)
	}
	o.Before = before.Figure
	was, err := number(before.Figure)
	if err != nil {
		return err
	}
	percent, err := number(check.Within)
	if err != nil {
		return err
	}
	// |now - was| * 100 <= |was| * percent, which needs no quotient.
	far, most := magnitude(now.Number.Plus(was, -1)).Times(frame.Exact(100, 0)), magnitude(was).Times(percent)
	o.State = Held
	if far.Compare(most) > 0 {
		o.State = Broken
	}
	return nil
}

func magnitude(n frame.Number) frame.Number {
	if n.Digits.Sign() < 0 {
		return frame.Exact(0, n.Scale).Plus(n, -1)
	}
	return n
}

// number reads a number with as many places as are written.
func number(text string) (frame.Number, error) {
	scale := int32(0)
	if at := strings.IndexByte(text, '.'); at >= 0 {
		scale = int32(len(text) - at - 1)
	}
	digits, err := frame.ParseNumber(text, scale)
	return frame.Exact(digits, scale), err
}

// among looks at a condition over figures that may be of several datasets.
func (c *checking) among(ctx context.Context, check report.Check, o *Outcome) error {
	given := map[string]frame.Value{}
	for id, v := range c.setting.Given {
		given[id] = v
	}
	for _, f := range check.With {
		v, err := c.figure(ctx, f.Of, f.Is)
		if err != nil {
			return err
		}
		if v.Null {
			return fmt.Errorf("%s has no value", f.Name)
		}
		given[f.Name] = v
	}
	condition, err := formula.ParseCondition(check.Holds, formula.Scope{Given: given, Calendar: c.setting.Calendar})
	if err != nil {
		return err
	}
	o.State = Held
	if !condition.Holds() {
		o.State = Broken
		for _, f := range check.With {
			o.Groups = append(o.Groups, f.Name+" = "+shown.Form{}.Text(given[f.Name]))
		}
		o.Count = len(o.Groups)
	}
	return nil
}

// holding is the column of a condition among the groups that it is looked at in.
const holding = "Holds of the group"

// each looks at a condition of every group of some columns, or of all rows.
func (c *checking) each(ctx context.Context, check report.Check, o *Outcome) error {
	d := c.of.Dataset(check.Of)
	if d == nil {
		return fmt.Errorf("there is no dataset %s", check.Of)
	}
	rows, err := c.rows(ctx, d)
	if err != nil {
		return err
	}
	id := ask.OwnID(holding)
	changes := ask.Changes{Add: []string{holding + " = " + check.Holds}, Group: append([]string{}, check.Each...)}
	view, err := ready.Of(ctx, rows, d, d.Rows(), changes, c.setting)
	if err != nil {
		return err
	}
	figures, err := view.Figures(ctx, view.Levels, []string{id})
	if err != nil {
		return err
	}
	level := len(check.Each)
	cells, told := figures.Of[id].Levels[level], false
	o.State = Held
	for g := range figures.Groups.Levels[level].Len() {
		if cells.Null(g) {
			continue
		}
		if told = true; cells.Ints[g] != 0 {
			continue
		}
		o.State = Broken
		if o.Count++; level > 0 && len(o.Groups) < mostGroups {
			o.Groups = append(o.Groups, name(figures.Groups, level, g))
		}
	}
	switch {
	case !told && figures.Groups.Levels[level].Len() > 0:
		return fmt.Errorf("a figure in it has no value")
	case level == 0:
		o.Count = 0
	}
	return nil
}

// name names a group with those that it is within.
func name(groups *table.Groups, level, g int) string {
	var parts []string
	for ; level > 0; level-- {
		l := &groups.Levels[level]
		text := shown.Form{}.Text(l.Key(g))
		if l.Key(g).Null {
			text = "(empty)"
		}
		parts = append([]string{text}, parts...)
		g = int(l.Parent[g])
	}
	return strings.Join(parts, " › ")
}

// Failed is the first check that does not hold and makes the run fail; nil for none.
func Failed(all []Outcome) *Outcome {
	for i := range all {
		if all[i].State == Broken && all[i].Else == report.FailIt {
			return &all[i]
		}
	}
	return nil
}

// Marks tells whether a result is marked by its checks.
func Marks(all []Outcome) bool {
	for _, o := range all {
		if o.State == Broken && o.Else == report.MarkIt {
			return true
		}
	}
	return false
}

// Said are the checks that do not hold, in words.
func Said(all []Outcome) (said []string) {
	for _, o := range all {
		if o.State == Broken {
			said = append(said, o.Says())
		}
	}
	return said
}
