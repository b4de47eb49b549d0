package report

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/param"
	"mantilla/core/period"
)

// Query is the planned query of one dataset: pieces of the author's SQL with
// bound values between them. Companions are the same query for the ranges that
// the dataset is compared with.
type Query struct {
	Dataset    *Dataset
	Parts      []Part
	Companions []Query
	Begins     []period.Day // the first day of the period compared and of each companion
}

// Part is a piece of SQL, or the name and value of a parameter to bind. Value
// is a string, a bool, a frame.Number, a period.Day, a time.Time, a []string
// or, when nothing was chosen, nil or no strings.
type Part struct {
	SQL   string
	Name  string
	Value any
}

// Reach is how far a person sees: everything, or the rows of these units.
type Reach struct {
	Limited bool
	Units   []string
}

// Plan makes the queries of a run of a settled definition. A condition whose
// parameter has no value is left out; a limited reach adds one that cuts the
// rows to its units. Values are never written into the SQL. It fails when a
// limited person asks for a dataset that cannot be cut.
func (d *Definition) Plan(values param.Values, reach Reach) ([]Query, error) {
	return d.plan(values, reach, false)
}

// PlanAll makes the queries with every condition in them, whether its
// parameter has a value or not, so that a source can check all of the SQL.
func (d *Definition) PlanAll(values param.Values) ([]Query, error) {
	return d.plan(values, Reach{Limited: true, Units: []string{}}, true)
}

func (d *Definition) plan(values param.Values, reach Reach, all bool) ([]Query, error) {
	var out []Query
	for i := range d.Datasets {
		q, err := d.Datasets[i].query(values, reach, all)
		if err != nil {
			return nil, fmt.Errorf("report %s, dataset %s: %w", d.ID, d.Datasets[i].ID, err)
		}
		if v, ok := values.Of(d.Datasets[i].Compare); ok && len(v.Companions) > 0 {
			q.Begins = []period.Day{v.Range.First}
			for _, c := range v.Companions {
				companion, err := d.Datasets[i].query(values.With(v.Parameter.ID, c.Range), reach, all)
				if err != nil {
					return nil, fmt.Errorf("report %s, dataset %s: %w", d.ID, d.Datasets[i].ID, err)
				}
				q.Companions = append(q.Companions, companion)
				q.Begins = append(q.Begins, c.Range.First)
			}
		}
		out = append(out, q)
	}
	return out, nil
}

func (d *Dataset) query(values param.Values, reach Reach, all bool) (Query, error) {
	q := Query{Dataset: d}
	ranked := q.reads(values, all) && len(d.Each) > 0
	if ranked {
		q.text(`select "` + strings.Join(columnIDs(&Dataset{Columns: d.Read()}), `", "`) + "\"\nfrom (")
	}
	for i, c := range d.Read() {
		q.text([]string{"select ", ", "}[min(i, 1)])
		if err := q.piece(c.Is.SQL, values); err != nil {
			return q, err
		}
		q.text(` as "` + c.ID + `"`)
	}
	if ranked {
		if err := q.rank(values); err != nil {
			return q, err
		}
	}
	q.text("\nfrom ")
	if err := q.piece(d.From.SQL, values); err != nil {
		return q, err
	}
	if err := q.where(values, reach, all); err != nil {
		return q, err
	}
	if err := q.list("\ngroup by ", d.Group, values); err != nil {
		return q, err
	}
	if !q.reads(values, all) {
		return q, nil
	}
	if ranked {
		q.text("\n) as ranked\nwhere rank_of_each <= ")
	} else {
		if err := q.list("\norder by ", d.Order, values); err != nil {
			return q, err
		}
		q.text("\nlimit ")
	}
	v, _ := values.Of(d.Newest)
	q.Parts = append(q.Parts, Part{Name: d.Newest, Value: v.Number})
	return q, nil
}

// reads tells whether only the first rows of an order are read, so many as a
// parameter says.
func (q *Query) reads(values param.Values, all bool) bool {
	v, ok := values.Of(q.Dataset.Newest)
	return ok && (v.Given || all)
}

// rank numbers the rows of each by the order, after all conditions.
func (q *Query) rank(values param.Values) error {
	q.text(", row_number() over (")
	if err := q.list("partition by ", q.Dataset.Each, values); err != nil {
		return err
	}
	if err := q.list(" order by ", q.Dataset.Order, values); err != nil {
		return err
	}
	q.text(") as rank_of_each")
	return nil
}

// list writes pieces with commas between them.
func (q *Query) list(before string, pieces []Piece, values param.Values) error {
	for i, p := range pieces {
		q.text([]string{before, ", "}[min(i, 1)])
		if err := q.piece(p.SQL, values); err != nil {
			return err
		}
	}
	return nil
}

func (q *Query) where(values param.Values, reach Reach, all bool) error {
	joint := "\nwhere "
	for _, w := range q.Dataset.Where {
		if !all && !answered(w, values) {
			continue
		}
		q.text(joint + "(")
		joint = "\n  and "
		err := error(nil)
		if w.Within == "" {
			err = q.piece(w.SQL, values)
		} else {
			err = q.within(w, values)
		}
		if err != nil {
			return err
		}
		q.text(")")
	}
	switch scope := q.Dataset.Scope.SQL; {
	case !reach.Limited || scope == Everyone:
	case scope == "" && !all:
		return ErrNotCut
	case scope != "":
		q.text(joint + "(")
		if err := q.piece(scope, values); err != nil {
			return err
		}
		q.text(") in ")
		q.Parts = append(q.Parts, Part{Name: "your units", Value: reach.Units})
	}
	return nil
}

// Cuts tells whether the rows of every dataset can be cut to units, or are not
// about units.
func (d *Definition) Cuts() bool {
	return !slices.ContainsFunc(d.Datasets, func(set Dataset) bool { return set.Scope.SQL == "" && set.Scope.By == "" })
}

// ErrNotCut says that rows cannot be cut to a person's units.
var ErrNotCut = errors.New("its rows cannot be cut to your units, because its definition names no scope; ask a librarian")

// within writes that a piece lies in the days or times of a parameter. With no
// value it lies in none, which only the check of a definition asks for.
func (q *Query) within(w Condition, values param.Values) error {
	v, ok := values.Of(w.Within)
	if !ok {
		return fmt.Errorf("there is no parameter %q", w.Within)
	}
	read := "day("
	if w.Moments {
		read = "moment("
	}
	where := ", '" + strings.ReplaceAll(strings.TrimSpace(w.SQL), "'", "''") + "')"
	bound := func(joint, op string, value any) error {
		q.text(joint + read)
		if err := q.piece(w.SQL, values); err != nil {
			return err
		}
		q.text(where + op + read)
		q.Parts = append(q.Parts, Part{Name: w.Within, Value: value})
		q.text(where)
		return nil
	}
	if !w.Moments {
		return errors.Join(bound("", " >= ", v.Range.First), bound(" and ", " <= ", v.Range.Last))
	}
	if len(v.Intervals) == 0 {
		return bound("", " is ", nil)
	}
	for i, t := range v.Intervals {
		err := errors.Join(bound([]string{"", " or "}[min(i, 1)], " >= ", t.From), bound(" and ", " < ", t.To))
		if err != nil {
			return err
		}
	}
	return nil
}

func (q *Query) text(sql string) { q.Parts = append(q.Parts, Part{SQL: sql}) }

// piece adds the author's SQL with each :name as a bound part.
func (q *Query) piece(sql string, values param.Values) error {
	at := 0
	for _, r := range References(sql) {
		v, ok := values.Of(r.Parameter)
		if !ok {
			return fmt.Errorf("there is no parameter %q", r.Parameter)
		}
		bound, err := bind(v, r.Part)
		if err != nil {
			return err
		}
		q.text(sql[at:r.Start])
		q.Parts = append(q.Parts, Part{Name: r.String(), Value: bound})
		at = r.End
	}
	q.text(sql[at:])
	return nil
}

// answered tells whether every parameter that a condition speaks of has a value.
func answered(w Condition, values param.Values) bool {
	for _, r := range append(References(w.SQL), Reference{Parameter: w.Within}) {
		if v, ok := values.Of(r.Parameter); ok && !v.Given {
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

// Reference is one :name or :name.part in a piece of SQL, from byte Start up
// to End.
type Reference struct {
	Parameter, Part string
	Start, End      int
}

// String writes the reference without its colon.
func (r Reference) String() string {
	if r.Part == "" {
		return r.Parameter
	}
	return r.Parameter + "." + r.Part
}

// References finds the parameters that a piece of SQL speaks of. Quoted texts,
// quoted names, comments and :: casts are passed over.
func References(sql string) (found []Reference) {
	for i := 0; i < len(sql); i++ {
		switch c := sql[i]; {
		case c == '\'' || c == '"' || c == '`':
			i = skipTo(sql, i+1, string(c))
		case c == '[':
			i = skipTo(sql, i+1, "]")
		case strings.HasPrefix(sql[i:], "--"):
			i = skipTo(sql, i, "\n")
		case strings.HasPrefix(sql[i:], "/*"):
			i = skipTo(sql, i+2, "*/") + 1
		case strings.HasPrefix(sql[i:], "::"):
			i++
		case c == ':':
			end := i + 1 + nameLength(sql[i+1:])
			if end == i+1 {
				continue
			}
			r := Reference{Parameter: sql[i+1 : end], Start: i, End: end}
			if end < len(sql) && sql[end] == '.' {
				if n := nameLength(sql[end+1:]); n > 0 {
					r.Part, r.End = sql[end+1:end+1+n], end+1+n
				}
			}
			found = append(found, r)
			i = r.End - 1
		}
	}
	return found
}

func skipTo(sql string, from int, mark string) int {
	if from >= len(sql) {
		return len(sql)
	}
	n := strings.Index(sql[from:], mark)
	if n < 0 {
		return len(sql)
	}
	return from + n
}

func nameLength(s string) int {
	for i := range len(s) {
		c := s[i]
		letter := c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
		if !letter && (i == 0 || c < '0' || c > '9') {
			return i
		}
	}
	return len(s)
}
