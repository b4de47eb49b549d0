package formula

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
)

// drawn are the columns that drawn formulas speak of.
var drawn = frame.Schema{{Name: "n", Kind: frame.Integer}, {Name: "kg", Kind: frame.Decimal, Scale: 2},
	{Name: "name", Kind: frame.Text}, {Name: "ok", Kind: frame.Flag}}

// cell is what a part of a formula comes to in a row: nothing, a number, a text or a flag.
type cell struct {
	null   bool
	number *big.Rat
	text   string
	flag   bool
}

// part is a formula as it is typed with what it gives of a row, computed in the plainest way.
type part struct {
	text string
	of   func(row []cell) cell
}

// drawer draws formulas.
type drawer struct{ *rand.Rand }

func (d drawer) number(depth int) part {
	if depth == 0 {
		return []func() part{
			func() part { return part{"n", func(row []cell) cell { return row[0] }} },
			func() part { return part{"kg", func(row []cell) cell { return row[1] }} },
			func() part { return literal(big.NewRat(int64(d.IntN(20)), 1), 0) },
			func() part { return literal(big.NewRat(int64(d.IntN(2000)), 100), 2) },
		}[d.IntN(4)]()
	}
	a, b := d.number(depth-1), d.number(d.IntN(depth))
	switch d.IntN(11) {
	case 0:
		return d.calculated(a, "+", b, func(x, y *big.Rat) *big.Rat { return new(big.Rat).Add(x, y) })
	case 1:
		return d.calculated(a, "-", b, func(x, y *big.Rat) *big.Rat { return new(big.Rat).Sub(x, y) })
	case 2:
		return d.calculated(a, "*", d.number(0), func(x, y *big.Rat) *big.Rat { return new(big.Rat).Mul(x, y) })
	case 3:
		return drawnCall("abs", func(x ...cell) cell { return cell{number: new(big.Rat).Abs(x[0].number)} }, a)
	case 4:
		return drawnCall("sign", func(x ...cell) cell { return cell{number: big.NewRat(int64(x[0].number.Sign()), 1)} }, a)
	case 5:
		return drawnCall("floor", func(x ...cell) cell { return cell{number: floor(x[0].number)} }, a)
	case 6:
		return drawnCall("least", func(x ...cell) cell { return slices.MinFunc(x, byNumber) }, a, b)
	case 7:
		return drawnCall("greatest", func(x ...cell) cell { return slices.MaxFunc(x, byNumber) }, a, b)
	case 8:
		return part{"coalesce(" + a.text + ", " + b.text + ")", func(row []cell) cell {
			if x := a.of(row); !x.null {
				return x
			}
			return b.of(row)
		}}
	case 9:
		return part{"nullif(" + a.text + ", " + b.text + ")", func(row []cell) cell {
			x, y := a.of(row), b.of(row)
			if !x.null && !y.null && x.number.Cmp(y.number) == 0 {
				return cell{null: true}
			}
			return x
		}}
	}
	when := d.flag(d.IntN(depth))
	otherwise := " else " + b.text
	if d.IntN(3) == 0 {
		otherwise, b = "", part{of: func([]cell) cell { return cell{null: true} }}
	}
	return part{"case when " + when.text + " then " + a.text + otherwise + " end", func(row []cell) cell {
		if w := when.of(row); !w.null && w.flag {
			return a.of(row)
		}
		return b.of(row)
	}}
}

func (d drawer) calculated(a part, op string, b part, how func(x, y *big.Rat) *big.Rat) part {
	return part{"(" + a.text + " " + op + " " + b.text + ")", func(row []cell) cell {
		x, y := a.of(row), b.of(row)
		if x.null || y.null {
			return cell{null: true}
		}
		return cell{number: how(x.number, y.number)}
	}}
}

// drawnCall is a function that gives nothing where one of its arguments has no value.
func drawnCall(name string, how func(...cell) cell, args ...part) part {
	var texts []string
	for _, a := range args {
		texts = append(texts, a.text)
	}
	return part{name + "(" + strings.Join(texts, ", ") + ")", func(row []cell) cell {
		var values []cell
		for _, a := range args {
			v := a.of(row)
			if v.null {
				return v
			}
			values = append(values, v)
		}
		return how(values...)
	}}
}

func literal(value *big.Rat, places int) part {
	return part{value.FloatString(places), func([]cell) cell { return cell{number: value} }}
}

func byNumber(a, b cell) int { return a.number.Cmp(b.number) }

func floor(x *big.Rat) *big.Rat {
	whole := new(big.Int).Div(x.Num(), x.Denom())
	return new(big.Rat).SetInt(whole)
}

// flag draws a condition. What is compared with nothing is neither true nor false; a condition of
// that is not met, and its opposite neither.
func (d drawer) flag(depth int) part {
	if depth == 0 {
		return []func() part{
			func() part { return part{"ok", func(row []cell) cell { return row[3] }} },
			func() part { return d.compared() },
			func() part { return d.like() },
			func() part {
				a := d.number(0)
				return part{"(" + a.text + " is not null)", func(row []cell) cell { return cell{flag: !a.of(row).null} }}
			},
		}[d.IntN(4)]()
	}
	a, b := d.flag(depth-1), d.flag(d.IntN(depth))
	switch d.IntN(5) {
	case 0:
		return part{"(" + a.text + " and " + b.text + ")", func(row []cell) cell {
			x, y := a.of(row), b.of(row)
			if !x.null && !x.flag || !y.null && !y.flag {
				return cell{}
			}
			return cell{null: x.null || y.null, flag: true}
		}}
	case 1:
		return part{"(" + a.text + " or " + b.text + ")", func(row []cell) cell {
			x, y := a.of(row), b.of(row)
			if !x.null && x.flag || !y.null && y.flag {
				return cell{flag: true}
			}
			return cell{null: x.null || y.null}
		}}
	case 2:
		return part{"(not " + a.text + ")", func(row []cell) cell {
			x := a.of(row)
			return cell{null: x.null, flag: !x.flag}
		}}
	case 3:
		x, low, high := d.number(depth-1), d.number(0), d.number(0)
		return part{fmt.Sprintf("(%s between %s and %s)", x.text, low.text, high.text), func(row []cell) cell {
			v, l, h := x.of(row), low.of(row), high.of(row)
			above := cell{null: v.null || l.null}
			below := cell{null: v.null || h.null}
			above.flag = !above.null && v.number.Cmp(l.number) >= 0
			below.flag = !below.null && v.number.Cmp(h.number) <= 0
			if !above.null && !above.flag || !below.null && !below.flag {
				return cell{}
			}
			return cell{null: above.null || below.null, flag: true}
		}}
	}
	return d.compared()
}

func (d drawer) compared() part {
	a, b := d.number(1), d.number(0)
	op := []string{"=", "<>", "<", "<=", ">", ">="}[d.IntN(6)]
	return part{"(" + a.text + " " + op + " " + b.text + ")", func(row []cell) cell {
		x, y := a.of(row), b.of(row)
		if x.null || y.null {
			return cell{null: true}
		}
		c := x.number.Cmp(y.number)
		return cell{flag: map[string]bool{"=": c == 0, "<>": c != 0, "<": c < 0, "<=": c <= 0, ">": c > 0, ">=": c >= 0}[op]}
	}}
}

// like draws a condition on a text.
func (d drawer) like() part {
	in := []string{"Lime", "Clover", "Heather"}[:1+d.IntN(3)]
	if d.IntN(2) == 0 {
		return part{"(name in ('" + strings.Join(in, "', '") + "'))", func(row []cell) cell {
			return cell{null: row[2].null, flag: slices.Contains(in, row[2].text)}
		}}
	}
	return part{"(upper(name) like '%" + strings.ToLower(in[0][1:]) + "')", func(row []cell) cell {
		return cell{null: row[2].null, flag: strings.HasSuffix(row[2].text, in[0][1:])}
	}}
}

// drawnRows are rows as the engine and the plainest way take them.
func drawnRows(r *rand.Rand, count int) (*frame.Frame, [][]cell) {
	var rows [][]any
	var plainly [][]cell
	for range count {
		n, kg, name, ok := int64(r.IntN(40)-20), int64(r.IntN(4000)-2000), []string{"Lime", "Clover", "Heather",
			""}[r.IntN(4)], int64(r.IntN(2))
		row := []any{n, kg, name, ok}
		own := []cell{{number: big.NewRat(n, 1)}, {number: big.NewRat(kg, 100)}, {text: name}, {flag: ok == 1}}
		for i := range row {
			if r.IntN(5) == 0 {
				row[i], own[i] = nil, cell{null: true}
			}
		}
		rows, plainly = append(rows, row), append(plainly, own)
	}
	return frametest.Rows(drawn, 64, rows...), plainly
}

// TestDrawnFormulasGiveWhatThePlainestWayGives computes formulas that nobody thought of by the
// engine, a column at a time and in the digits of each column, and row by row in fractions.
func TestDrawnFormulasGiveWhatThePlainestWayGives(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	rows, plainly := drawnRows(r, 150)
	read, refused := 0, 0
	for i := range 3000 {
		p := drawer{r}.number(1 + i%4)
		if i%3 == 0 {
			p = drawer{r}.flag(i % 4)
		}
		f, err := Parse(p.text, Scope{Columns: drawn})
		if err != nil {
			t.Fatalf("%s: %v", p.text, err)
		}
		from := 0
		for batch := range rows.Batches() {
			b, err := rows.Batch(t.Context(), batch, nil)
			if err != nil {
				t.Fatal(err)
			}
			got, err := f.Rows(b)
			if err != nil { // beyond 18 digits
				refused++
				break
			}
			read++
			for row := range b.Rows {
				v, want := got.Value(f.Field, row), p.of(plainly[from+row])
				if !agrees(v, want) {
					t.Fatalf("%s of %v is %q, and should be %s", p.text, plainly[from+row], v.String(), said(want))
				}
			}
			from += b.Rows
		}
	}
	if refused > read/50 {
		t.Errorf("%d of %d were refused", refused, read)
	}
}

func agrees(v frame.Value, want cell) bool {
	switch {
	case v.Null || want.null:
		return v.Null == want.null
	case v.Kind == frame.Flag:
		return (v.Int() == 1) == want.flag
	}
	digits := new(big.Rat).SetInt(v.Number.Digits.BigInt())
	scale := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(v.Number.Scale)), nil)
	return digits.Quo(digits, new(big.Rat).SetInt(scale)).Cmp(want.number) == 0
}

func said(c cell) string {
	switch {
	case c.null:
		return "nothing"
	case c.number != nil:
		return c.number.FloatString(8)
	}
	return fmt.Sprint(c.flag, c.text)
}
