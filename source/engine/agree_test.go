package engine_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"mantilla/core/fold"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/table"
)

// formulas are computed of rows: those that the engine computes itself, and those that it looks up.
var formulas = []string{
	"kg * 2 + n", "kg * kg - n / 7", "case when n > 2 then 'many' when n is null then 'none' else region end", "-kg",
	"n between -2 and 2 and not ok", "kg = 1 or kg > n", "day + n", "day - date '1970-01-01'", "region = 'North'",
	"month(day)", "week(day)", "quarter(day)", "year(day)", "region || ' ' || n", "upper(word)", "coalesce(n, 0) * 1.25",
	"round(kg, 1)", "round(pay, 0)",
	"case n when 1 then kg when 2 then pay end", "n in (1, 2, 3)", "today - day", "length(name)", "abs(n) / 3",
	"case when day < today then region else word end", "is_empty = region", "coalesce(region, word, 'x')",
	"upper('same') || ' for all'", "weekday(today)", "nullif(1, 1)",
}

// computed adds the formulas to a table as columns, those that can be read.
func computed(t *testing.T, to table.Table) table.Table {
	t.Helper()
	scope := formula.Scope{Columns: slices.Clone(to.Schema()), Calendar: period.Calendar{Today: 20_000},
		Given: map[string]frame.Value{"today": {Kind: frame.Date, Number: frame.Exact(50, 0)}}}
	var columns []table.Computed
	for i, text := range formulas {
		f, err := formula.Parse(text, scope)
		if err != nil {
			continue
		}
		field := f.Field
		field.Name = fmt.Sprintf("f%d", i)
		if field.Kind.Numeric() && field.Kind != frame.Money && field.Scale > 3 {
			field.Scale = 3
		}
		f, err = f.To(field)
		if err != nil {
			t.Fatal(text, err)
		}
		field = f.Field
		field.Name = fmt.Sprintf("f%d", i)
		columns = append(columns, table.Computed{Field: field, Formula: f, Key: text})
		scope.Columns = append(scope.Columns, field)
	}
	return to.With(columns)
}

// written writes cells of a batch, a line each.
func written(b *frame.Batch) string {
	var out strings.Builder
	for row := range b.Rows {
		for col := range b.Schema() {
			v := b.Value(col, row)
			fmt.Fprintf(&out, "%v %s|", v.Null, v)
		}
		out.WriteByte('\n')
	}
	return out.String()
}

// groupsWritten writes groups with all that they tell.
func groupsWritten(g *table.Groups) string {
	var out strings.Builder
	for depth := range g.Levels {
		l := &g.Levels[depth]
		fmt.Fprintf(&out, "level %d of %s: rows %v parents %v children %v\n", depth, l.Field.Name, l.Rows, l.Parent,
			l.Children)
		for at := range l.Len() {
			if depth > 0 {
				fmt.Fprintf(&out, "%v %s:", l.Key(at).Null, l.Key(at))
			}
			for i := range l.Figures {
				v := l.Figures[i].Value(g.Fields[i], at)
				fmt.Fprintf(&out, " %v %s", v.Null, v)
			}
			out.WriteByte('\n')
		}
	}
	return out.String()
}

// differ says where two texts differ first.
func differ(a, b string) string {
	x, y := strings.Split(a, "\n"), strings.Split(b, "\n")
	for i := range min(len(x), len(y)) {
		if x[i] != y[i] {
			return fmt.Sprintf("line %d: here %.300s\nthere %.300s", i, x[i], y[i])
		}
	}
	return fmt.Sprintf("%d lines here, %d there", len(x), len(y))
}

// wheres are conditions of each kind.
func wheres() []table.Where {
	of := func(c ...table.Condition) table.Where { return table.Where{Conditions: c} }
	return []table.Where{
		{},
		of(table.Condition{Column: "region", Test: table.Is, Texts: []string{"North", "Øst"}}),
		of(table.Condition{Column: "region", Test: table.IsNot, Texts: []string{"North", ""}}),
		of(table.Condition{Column: "region", Test: table.Contains, Texts: []string{"ST"}}),
		of(table.Condition{Column: "region", Test: table.AtLeast, Texts: []string{"nO"}}),
		of(table.Condition{Column: "name", Test: table.AtMost, Texts: []string{"name d"}}),
		of(table.Condition{Column: "name", Test: table.Contains, Texts: []string{"AME c"}}),
		of(table.Condition{Column: "word", Test: table.Contains, Texts: []string{"ΩM"}}),
		of(table.Condition{Column: "word", Test: table.AtMost, Texts: []string{"жук"}}),
		of(table.Condition{Column: "n", Test: table.Is, Ints: []int64{1, -3}}),
		of(table.Condition{Column: "n", Test: table.IsNot, Ints: []int64{1}}),
		of(table.Condition{Column: "kg", Test: table.AtLeast, Ints: []int64{-20_500}}),
		of(table.Condition{Column: "day", Test: table.AtMost, Ints: []int64{0}}),
		of(table.Condition{Column: "at", Test: table.Empty}), of(table.Condition{Column: "ok", Test: table.NotEmpty}),
		of(table.Condition{Column: "ok", Test: table.Is, Ints: []int64{1}},
			table.Condition{Column: "word", Test: table.NotEmpty}),
		{Filled: []int{5, 6}},
		{Conditions: []table.Condition{{Column: "n", Test: table.Is, Ints: []int64{99}}}},
		of(table.Condition{Column: "f2", Test: table.Contains, Texts: []string{"MAN"}}),
		of(table.Condition{Column: "f0", Test: table.AtLeast, Ints: []int64{0}}),
	}
}

func TestTheEngineAnswersWhatIsAnsweredHere(t *testing.T) {
	here, there, _ := both(t, opened(t, "agreed", script(600)), rowsReport)
	here, there = computed(t, here), computed(t, there)
	if len(here.Schema()) < 10+18 {
		t.Fatalf("only %d columns can be computed", len(here.Schema())-10)
	}
	all, err := here.Take(t.Context(), []uint32{599, 0, 7, 7, 234}, nil)
	if err != nil {
		t.Fatal(err)
	}
	taken, err := there.Take(t.Context(), []uint32{599, 0, 7, 7, 234}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if a, b := written(all), written(taken); a != b {
		t.Errorf("taken: %s", differ(a, b))
	}
	for i, w := range wheres() {
		a, err1 := here.Count(t.Context(), w)
		b, err2 := there.Count(t.Context(), w)
		if err1 != nil || err2 != nil || a != b {
			t.Errorf("condition %d: %d rows here, %d there (%v, %v)", i, a, b, err1, err2)
		}
	}
	ordersAgree(t, here, there)
	groupsAgree(t, here, there)
	findsAgree(t, here, there)
}

func ordersAgree(t *testing.T, here, there table.Table) {
	t.Helper()
	orders := []table.Order{{}, {By: []int{1}}, {By: []int{3, 9}, Keys: []frame.Key{{Column: "kg", Descending: true}}},
		{By: []int{10, 12}}}
	for i, field := range here.Schema() {
		orders = append(orders, table.Order{Where: wheres()[i%len(wheres())],
			Keys: []frame.Key{{Column: field.Name, Descending: i%2 == 0, NullsFirst: i%3 == 0}, {Column: "name"}}})
	}
	every := []int{}
	for i := range here.Schema() {
		every = append(every, i)
	}
	for _, o := range orders {
		var a, b strings.Builder
		err1 := here.Each(t.Context(), o, every, func(x *frame.Batch) error { a.WriteString(written(x)); return nil })
		err2 := there.Each(t.Context(), o, every, func(x *frame.Batch) error { b.WriteString(written(x)); return nil })
		if err1 != nil || err2 != nil || a.String() != b.String() {
			t.Errorf("%+v: %v, %v, %s", o, err1, err2, differ(a.String(), b.String()))
		}
		for _, first := range []int{0, 550} {
			x, n, err1 := here.Page(t.Context(), o, first, 30, []int{0, 3})
			y, m, err2 := there.Page(t.Context(), o, first, 30, []int{0, 3})
			if err1 != nil || err2 != nil || written(x) != written(y) || !slices.Equal(n, m) {
				t.Errorf("page from %d of %+v: %v, %v, %v and %v", first, o, err1, err2, n, m)
			}
		}
	}
}

func groupsAgree(t *testing.T, here, there table.Table) {
	t.Helper()
	schema := here.Schema()
	var measures []table.Measure
	for col, field := range schema {
		for op := frame.Sum; op <= frame.NonZero; op++ {
			if op != frame.Ratio && op.Fits(field) == nil {
				measures = append(measures, table.Measure{Column: col, Op: op, Percent: frame.Exact(175, 1)})
			}
		}
	}
	for i, by := range [][]int{{}, {1}, {3, 9}, {9, 5, 1}, {4}, {10}, {12, 19}, {5, 5}, {2}} {
		for j, w := range wheres() {
			if j%3 != i%3 && j != 0 {
				continue
			}
			var some []table.Measure
			for at := (i + j) % 7; at < len(measures); at += 7 {
				some = append(some, measures[at])
			}
			a, err1 := here.Groups(t.Context(), w, by, some)
			b, err2 := there.Groups(t.Context(), w, by, some)
			if err1 != nil || err2 != nil {
				t.Errorf("by %v where %d: %v, %v", by, j, err1, err2)
				continue
			}
			if x, y := groupsWritten(a), groupsWritten(b); x != y {
				t.Errorf("by %v where %d: %s", by, j, differ(x, y))
			}
		}
	}
}

// holding finds texts that hold a word, and numbers that end with a digit.
type holding struct{ word string }

// In tells of texts and whole numbers.
func (x holding) In(f frame.Field) func(c *frame.Column, row int) bool {
	switch f.Kind {
	case frame.Text:
		return func(c *frame.Column, row int) bool { return strings.Contains(fold.Text(c.Text(row)), x.word) }
	case frame.Integer:
		return func(c *frame.Column, row int) bool { return c.Int(row)%10 == 3 }
	}
	return nil
}

func findsAgree(t *testing.T, here, there table.Table) {
	t.Helper()
	for _, word := range []string{"st", "name a", "жу", "nowhere", `back\`} {
		for i, o := range []table.Order{{}, {By: []int{3}}, {Where: wheres()[3], Keys: []frame.Key{{Column: "pay"}}}} {
			a, err1 := here.Find(t.Context(), o, []int{1, 2, 3, 4, 5, 12}, holding{word})
			b, err2 := there.Find(t.Context(), o, []int{1, 2, 3, 4, 5, 12}, holding{word})
			if err1 != nil || err2 != nil || !slices.Equal(a, b) {
				t.Errorf("%q in order %d: %d here, %d there (%v, %v)", word, i, len(a), len(b), err1, err2)
			}
		}
	}
}
