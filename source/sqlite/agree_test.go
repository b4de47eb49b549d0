package sqlite

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/ncruces/go-sqlite3"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/table"
)

// made is a table that the database and the columnar core have alike: its
// decimals are whole hundredths here, numbers with two places there.
type made struct {
	conn *sqlite3.Conn
	rows *frame.Frame
}

var madeSchema = frame.Schema{{Name: "a", Kind: frame.Integer}, {Name: "b", Kind: frame.Integer},
	{Name: "x", Kind: frame.Decimal, Scale: 2}, {Name: "s", Kind: frame.Text}, {Name: "u", Kind: frame.Text},
	{Name: "f", Kind: frame.Flag}}

func makeRows(t *testing.T, r *rand.Rand, n int) made {
	t.Helper()
	conn, err := sqlite3.Open(":memory:")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { conn.Close() })
	var records []arrow.RecordBatch
	b := frame.NewBuilder(madeSchema, 50, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	insert := []string{}
	for range n {
		var cells []string
		for col, field := range madeSchema {
			if r.IntN(6) == 0 {
				cells = append(cells, "null")
				continue
			}
			switch field.Kind {
			case frame.Text:
				text := []string{"ash", "Ash", "birch", "", "a_b", "100%", "Éa", "it's"}[r.IntN(8)]
				b.Text(col, []byte(text))
				cells = append(cells, "'"+strings.ReplaceAll(text, "'", "''")+"'")
			default:
				v := r.Int64N(41) - 20
				if field.Kind == frame.Flag {
					v = r.Int64N(2)
				}
				if field.Scale > 0 {
					v = r.Int64N(4001) - 2000
				}
				if err := b.Int(col, v); err != nil {
					t.Fatal(err)
				}
				cells = append(cells, frame.Exact(v, field.Scale).String())
			}
		}
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
		insert = append(insert, "("+strings.Join(cells, ",")+")")
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := frame.New(madeSchema, records...)
	if err == nil {
		err = conn.Exec("create table t (a integer, b integer, x real, s text, u text, f integer); insert into t values " +
			strings.Join(insert, ","))
	}
	if err != nil {
		t.Fatal(err)
	}
	return made{conn, f}
}

// ask returns the first columns of a query's rows, null as ∅.
func (m made) ask(t *testing.T, sql string) (rows [][]string) {
	t.Helper()
	stmt, _, err := m.conn.Prepare(sql)
	if err != nil {
		t.Fatalf("%s: %v", sql, err)
	}
	defer stmt.Close()
	for stmt.Step() {
		var row []string
		for i := range stmt.ColumnCount() {
			if stmt.ColumnType(i) == sqlite3.NULL {
				row = append(row, "∅")
			} else {
				row = append(row, stmt.ColumnText(i))
			}
		}
		rows = append(rows, row)
	}
	if err := stmt.Err(); err != nil {
		t.Fatalf("%s: %v", sql, err)
	}
	return rows
}

// same compares a value with what SQLite says, which reckons numbers with
// places in floating point and does not round them.
func same(v frame.Value, said string, rounded float64) bool {
	if v.Null || said == "∅" {
		return v.Null == (said == "∅")
	}
	if v.Kind == frame.Flag {
		return map[string]string{"yes": "1", "no": "0"}[v.String()] == said
	}
	if !v.Kind.Numeric() {
		return v.String() == said
	}
	mine, err1 := strconv.ParseFloat(v.String(), 64)
	theirs, err2 := strconv.ParseFloat(said, 64)
	return err1 == nil && err2 == nil && max(mine-theirs, theirs-mine) <= rounded+1e-6*max(1, mine, -mine)
}

// expression makes a random formula of a type that both languages read alike.
func expression(r *rand.Rand, kind frame.Kind, depth int) string {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	number := func() string { return expression(r, frame.Decimal, depth-1) }
	text := func() string { return expression(r, frame.Text, depth-1) }
	flag := func() string { return expression(r, frame.Flag, depth-1) }
	if depth == 0 {
		switch kind {
		case frame.Text:
			return pick("s", "u", "'ash'", "'birch'")
		case frame.Flag:
			return pick("(a > b)", "(x <= 3.5)", "(s = u)", "(s is null)")
		}
		return pick("a", "b", "x", "2", "0.25", "-3")
	}
	switch kind {
	case frame.Text:
		return pick("upper("+pick("'ash'", "'birch'")+")", "trim("+text()+" || ' ')", "coalesce("+text()+", "+text()+")",
			"("+text()+" || "+text()+")", "substr("+text()+", 2, 3)",
			"case when "+flag()+" then "+text()+" else "+text()+" end", "nullif("+text()+", "+text()+")",
			"replace("+text()+", 'a', 'oo')")
	case frame.Flag:
		return pick("("+flag()+" and "+flag()+")", "("+flag()+" or "+flag()+")", "(not "+flag()+")",
			"("+number()+pick(" < ", " <= ", " = ", " <> ", " >= ", " > ")+number()+")",
			"("+number()+" between "+number()+" and "+number()+")", "("+text()+pick(" in ", " not in ")+"('ash', u, 'it''s'))",
			"("+number()+pick(" is null", " is not null")+")",
			"("+text()+" like 'a%')", "("+text()+" < "+text()+")", "("+number()+" in (a, 2, b))")
	}
	return pick("("+number()+" + "+number()+")", "("+number()+" - "+number()+")",
		"("+number()+" * "+pick("a", "b", "0.5", "2")+")", "abs("+number()+")", "length("+text()+")",
		"coalesce("+number()+", "+number()+")", "case when "+flag()+" then "+number()+" end",
		"nullif("+number()+", "+number()+")", "(1.0 * "+number()+" / "+pick("b", "4", "0.5")+")", "-("+number()+")")
}

func TestFormulasAgreeWithSQLite(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	m := makeRows(t, r, 120)
	tried := 0
	for range 400 {
		text := expression(r, []frame.Kind{frame.Decimal, frame.Text, frame.Flag}[r.IntN(3)], 1+r.IntN(3))
		f, err := formula.Parse(text, formula.Scope{Columns: madeSchema})
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		want := m.ask(t, "select "+text+" from t order by rowid")
		row := 0
		for i := range m.rows.Batches() {
			b, err := m.rows.Batch(t.Context(), i, nil)
			if err != nil {
				t.Fatal(err)
			}
			v, err := f.Rows(b)
			if err != nil {
				if strings.Contains(err.Error(), "more digits") {
					row = -1
					break
				}
				t.Fatalf("%s: %v", text, err)
			}
			for at := range b.Rows {
				if got := v.Value(f.Field, at); !same(got, want[row][0], 0) {
					t.Fatalf("%s of row %d %v: got %q, null %t; SQLite says %q", text, row,
						m.ask(t, fmt.Sprint("select * from t where rowid = ", row+1)), got, got.Null, want[row][0])
				}
				row++
			}
		}
		if row > 0 {
			tried++
		}
	}
	if tried < 300 {
		t.Errorf("only %d formulas were tried", tried)
	}
}

func TestGroupingAgreesWithGroupBy(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	ops := map[frame.Op]string{frame.Sum: "sum(%s)", frame.Avg: "avg(%s)", frame.Min: "min(%s)", frame.Max: "max(%s)",
		frame.Count: "count(%s)", frame.Distinct: "count(distinct %s)"}
	for range 25 {
		m := makeRows(t, r, 1+r.IntN(150))
		by := [][]string{{"s"}, {"s", "f"}, {"f", "b"}, {"u", "s", "f"}, {"a"}}[r.IntN(5)]
		var places []int
		for _, name := range by {
			places = append(places, madeSchema.Index(name))
		}
		var measures []table.Measure
		for _, measured := range []string{"a", "x"} {
			for op := range ops {
				measures = append(measures, table.Measure{Column: madeSchema.Index(measured), Op: op})
			}
		}
		g, err := kept.Of(m.rows, table.Fresh{}).Groups(t.Context(), table.Where{}, places, measures)
		if err != nil {
			t.Fatal(err)
		}
		for _, measured := range []string{"a", "x"} {
			for op, sql := range ops {
				field, levels, _ := g.Figures(table.Measure{Column: madeSchema.Index(measured), Op: op})
				half := 0.0
				if op == frame.Avg {
					half = 0.5 * math.Pow10(-int(field.Scale))
				}
				for depth := range len(by) + 1 {
					said := map[string]string{}
					keys := strings.Join(by[:depth], ", ")
					query := "select " + fmt.Sprintf(sql, measured) + " from t"
					if depth > 0 {
						query = "select " + keys + ", " + fmt.Sprintf(sql, measured) + " from t group by " + keys
					}
					for _, row := range m.ask(t, query) {
						said[strings.Join(row[:depth], "|")] = row[depth]
					}
					if len(said) != g.Levels[depth].Len() {
						t.Fatalf("by %v: %d groups, SQLite has %d", by[:depth], g.Levels[depth].Len(), len(said))
					}
					for group := range g.Levels[depth].Len() {
						key := keyOf(g, depth, group)
						if got := levels[depth].Value(field, group); !same(got, said[key], half) {
							t.Fatalf("%s of %s by %v, %s: got %s, SQLite says %s", op, measured, by[:depth], key, got, said[key])
						}
					}
				}
			}
		}
	}
}

func keyOf(g *table.Groups, level, group int) string {
	var parts []string
	for ; level > 0; level-- {
		l := &g.Levels[level]
		v := l.Keys.Value(l.Field, group)
		text := v.String()
		if v.Kind == frame.Flag {
			text = map[string]string{"yes": "1", "no": "0"}[text]
		}
		if v.Null {
			text = "∅"
		}
		parts = append([]string{text}, parts...)
		group = int(l.Parent[group])
	}
	return strings.Join(parts, "|")
}
