package changes_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/changes"
	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/report"
)

var lots = &report.Dataset{ID: "lots", Columns: []report.Column{
	{ID: "lot", Label: "Lot", Kind: frame.Text},
	{ID: "grade", Label: "Grade", Kind: frame.Text},
	{ID: "kg", Label: "Weight", Kind: frame.Decimal, Scale: 1, Total: frame.Sum},
	{ID: "day", Label: "Day", Kind: frame.Date},
	{ID: "worth", Label: "Worth", Kind: frame.Decimal, Formula: "sum(kg)", AtGroups: true},
}}

// side makes rows of texts: a lot, a grade, tenths of a kilogram, a day; - is no value.
func side(t *testing.T, l changes.Layout, batch int, rows ...string) changes.Side {
	t.Helper()
	var schema frame.Schema
	for _, id := range l.Columns() {
		schema = append(schema, lots.Column(id).Field())
	}
	var cells [][]any
	for _, row := range rows {
		var line []any
		for col, text := range strings.Fields(row) {
			switch {
			case text == "-":
				line = append(line, nil)
			case schema[col].Kind == frame.Text:
				line = append(line, text)
			default:
				n, err := frame.ParseNumber(text, 0)
				if err != nil {
					t.Fatal(err)
				}
				line = append(line, n)
			}
		}
		cells = append(cells, line)
	}
	f := frametest.Rows(schema, batch, cells...)
	var out changes.Side
	for i := range f.Batches() {
		all := make([]int, len(schema))
		for c := range all {
			all[c] = c
		}
		b, err := f.Batch(t.Context(), i, all)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, b)
	}
	return out
}

// written compares two sides and writes each row as its cells with | between.
func written(t *testing.T, l changes.Layout, before, after changes.Side, all bool) ([]string, changes.Counts) {
	t.Helper()
	var schema frame.Schema
	for _, id := range l.Columns() {
		schema = append(schema, lots.Column(id).Field())
	}
	m, err := changes.Find(t.Context(), before, after, schema, len(l.Key))
	if err != nil {
		t.Fatal(err)
	}
	var rows []string
	shape := l.Shape(m.Counts)
	out := frame.NewBuilder(shape.Rows.Schema(), 100, func(r arrow.RecordBatch) error {
		f, err := frame.New(shape.Rows.Schema(), r)
		if err != nil {
			return err
		}
		columns := make([]int, len(shape.Rows.Columns))
		for c := range columns {
			columns[c] = c
		}
		b, err := f.Batch(t.Context(), 0, columns)
		if err != nil {
			return err
		}
		for row := range b.Rows {
			var cells []string
			for col := range columns {
				cells = append(cells, b.Value(col, row).String())
			}
			rows = append(rows, strings.Join(cells, "|"))
		}
		return nil
	})
	if err = errors.Join(m.Write(t.Context(), &shape, all, out), out.Close()); err != nil {
		t.Fatal(err)
	}
	return rows, m.Counts
}

func layout(t *testing.T, key ...string) changes.Layout {
	t.Helper()
	l, err := changes.Compare(lots, lots, key)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// Rows are new, gone, changed or the same; no value is a value like any other; a number that is
// missing counts as nothing in its change, a day does not.
func TestWhatBecameOfRows(t *testing.T) {
	l := layout(t, "lot")
	before := side(t, l, 2, "a A 10 100", "b A 20 100", "c - 30 100", "d B - 100", "e B 50 -", "- C 1 1")
	after := side(t, l, 3, "e B 50 90", "b A 20 100", "c A 35 100", "d B 5 100", "f A 60 100", "- C 1 1")
	rows, counts := written(t, l, before, after, false)
	if len(rows) != 5 || counts.Same != 2 || counts.Changed != 3 || counts.New != 1 || counts.Gone != 1 ||
		fmt.Sprint(counts.Columns) != "[true true true]" {
		t.Errorf("%+v:\n%s", counts, strings.Join(rows, "\n"))
	}
	for _, part := range []string{"changed|Day|e|B|B|5.0|5.0|0.0||1970-04-01|", "changed|Grade, Weight|c||A|3.0|3.5|0.5|",
		"changed|Weight|d|B|B||0.5|0.5|", "new||f||A||6.0|6.0||1970-04-11|", "gone||a|A||1.0||-1.0|1970-04-11||"} {
		if !strings.Contains(strings.Join(rows, "\n"), part) {
			t.Errorf("there is no %s in\n%s", part, strings.Join(rows, "\n"))
		}
	}
	if all, _ := written(t, l, before, after, true); len(all) != 7 || !strings.HasPrefix(all[1],
		"same||b|A|A|2.0|2.0|0.0|") {
		t.Errorf("all rows are\n%s", strings.Join(all, "\n"))
	}
}

// Rows of a key that stands more than once are paired with the same row first, whatever their
// order, and it is told.
func TestRepeatedKeys(t *testing.T) {
	l := layout(t, "lot")
	before := side(t, l, 9, "a A 10 1", "a B 20 1", "a C 30 1", "b A 1 1")
	after := side(t, l, 9, "a X 90 1", "a C 30 1", "a A 10 1", "a D 40 1", "b A 1 1", "b A 1 1", "c A 1 1", "c A 1 1")
	rows, counts := written(t, l, before, after, false)
	if counts.Same != 3 || counts.Changed != 1 || counts.New != 4 || counts.Gone != 0 || counts.Repeated != 2 ||
		!strings.HasPrefix(rows[0], "changed|Grade, Weight|a|B|X|2.0|9.0|7.0|") {
		t.Errorf("%+v\n%s", counts, strings.Join(rows, "\n"))
	}
	const want = "1 changed, 4 new, 0 gone, 3 the same. 2 keys stand more than once; their rows were paired with the " +
		"same row where there is one, and otherwise in their order."
	if said := counts.Said(); said != want {
		t.Error(said)
	}
}

// Whatever the rows and the batches: every row is in one pair, and the changes add up to the
// change of the sum.
func TestChangesAddUp(t *testing.T) {
	l := layout(t, "lot", "grade")
	random := rand.New(rand.NewPCG(1, 2))
	for range 60 {
		sides := [2][]string{}
		sums := [2]int{}
		for i := range sides {
			for range random.IntN(60) {
				kg := random.IntN(5)
				sums[i] += kg
				sides[i] = append(sides[i], fmt.Sprintf("%c %c %d %d", 'a'+rune(random.IntN(6)), 'A'+rune(random.IntN(3)), kg,
					random.IntN(3)))
			}
		}
		before, after := side(t, l, 1+random.IntN(9), sides[0]...), side(t, l, 1+random.IntN(9), sides[1]...)
		rows, c := written(t, l, before, after, true)
		sum := 0
		for _, row := range rows {
			if change := strings.Split(row, "|")[6]; change != "" {
				n, err := frame.ParseNumber(change, 1)
				if err != nil {
					t.Fatal(err)
				}
				sum += int(n)
			}
		}
		if c.Same+c.Changed+c.Gone != before.Rows() || c.Same+c.Changed+c.New != after.Rows() || sum != sums[1]-sums[0] {
			t.Fatalf("%v to %v gives %+v and a change of %d, not %d", sides[0], sides[1], c, sum, sums[1]-sums[0])
		}
	}
}

// What cannot be compared is told: a key that is not there, or of another kind; columns that
// one side lacks.
func TestLayout(t *testing.T) {
	other := &report.Dataset{ID: "other", Columns: []report.Column{
		{ID: "lot", Label: "Lot", Kind: frame.Integer}, {ID: "grade", Label: "Grade", Kind: frame.Text},
		{ID: "kg", Label: "Weight", Kind: frame.Decimal, Scale: 3}, {ID: "town", Label: "Town", Kind: frame.Text}}}
	for key, says := range map[string]string{"lot": "holds other values", "town": "they have lot, grade, kg",
		"worth": "both sides need"} {
		if _, err := changes.Compare(other, lots, []string{key}); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("the key %s is answered by %v", key, err)
		}
	}
	l, err := changes.Compare(other, lots, []string{"grade"})
	if err != nil || strings.Join(l.Left, ", ") != "Lot, Weight, Day, Town" {
		t.Errorf("left are %v: %v", l.Left, err)
	}
	shape := l.Shape(changes.Counts{})
	d := shape.Definition(report.Definition{ID: "lots"})
	if says := d.View("changes").Says; !strings.HasSuffix(says,
		"Not compared: Lot, Weight, Day, Town; one side lacks them or has another kind of value.") ||
		!strings.HasPrefix(says, "Nothing changed: 0 rows are the same.") {
		t.Error(says)
	}
}

// It ends when nobody waits for it.
func TestItEnds(t *testing.T) {
	l := layout(t, "lot")
	rows := side(t, l, 1, "a A 1 1")
	ctx, cancel := context.WithCancelCause(t.Context())
	gone := errors.New("the reader left")
	cancel(gone)
	schema := frame.Schema{lots.Column("lot").Field()}
	if _, err := changes.Find(ctx, rows, rows, schema, 1); !errors.Is(err, gone) {
		t.Errorf("it goes on: %v", err)
	}
}
