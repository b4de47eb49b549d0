package frame

import (
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// rational is a number as a fraction, to which arithmetic is held.
func rational(n Number) *big.Rat {
	return new(big.Rat).SetFrac(n.Digits.BigInt(), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n.Scale)), nil))
}

// halfAway is a fraction rounded half away from zero to places, written plainly.
func halfAway(r *big.Rat, places int32) string { return r.FloatString(int(places)) }

// drawn is a number of up to so many digits, of which many are at an edge.
func drawn(r *rand.Rand, most int) Number {
	digits := new(big.Int)
	for range r.IntN(most) + 1 {
		digit := int64(r.IntN(10))
		switch r.IntN(5) {
		case 0:
			digit = 9
		case 1:
			digit = 5
		case 2:
			digit = 0
		}
		digits.Add(digits.Mul(digits, big.NewInt(10)), big.NewInt(digit))
	}
	if r.IntN(2) == 0 {
		digits.Neg(digits)
	}
	return Number{decimal128.FromBigInt(digits), int32(r.IntN(7))}
}

// Sums, products, quotients and roundings of numbers are those of fractions, to the last digit.
func TestNumbersAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	for range 20_000 {
		a, b, places := drawn(r, 18), drawn(r, 18), int32(r.IntN(9))
		x, y := rational(a), rational(b)
		if got, want := a.Compare(b), x.Cmp(y); got != want {
			t.Fatalf("%s beside %s is %d and not %d", a, b, got, want)
		}
		for what, c := range map[string]struct {
			got  Number
			want *big.Rat
		}{
			"plus":  {a.Plus(b, 1), new(big.Rat).Add(x, y)},
			"minus": {a.Plus(b, -1), new(big.Rat).Sub(x, y)},
			"times": {a.Times(b), new(big.Rat).Mul(x, y)},
		} {
			if rational(c.got).Cmp(c.want) != 0 {
				t.Fatalf("%s %s %s is %s and not %s", a, what, b, c.got, c.want.FloatString(12))
			}
		}
		if got := a.To(places); got.String() != halfAway(x, places) && !zero(got) {
			t.Fatalf("%s to %d places is %s and not %s", a, places, got, halfAway(x, places))
		}
		if got := a.Round(places); got.Scale > places && got.Scale != a.Scale || rational(got).Cmp(rational(a.To(max(places,
			a.Scale)))) != 0 && got.String() != halfAway(x, places) && !zero(got) {
			t.Fatalf("%s rounded to %d places is %s", a, places, got)
		}
		quotient, ok := a.Over(b, places)
		if b.Digits.Sign() == 0 {
			if ok {
				t.Fatalf("%s is divided by nothing", a)
			}
			continue
		}
		if want := halfAway(new(big.Rat).Quo(x, y), places); ok && quotient.String() != want && !zero(quotient) {
			t.Fatalf("%s over %s is %s and not %s", a, b, quotient, want)
		}
	}
}

// zero tells of a number that is nothing, which has no sign of its own.
func zero(n Number) bool { return n.Digits.Sign() == 0 }

// What is written of a number is read as the same one, as far as a cell holds it.
func TestNumbersAreReadAsTheyAreWritten(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 20_000 {
		n := drawn(r, 18)
		digits, err := ParseNumber(n.String(), n.Scale)
		if err != nil || !n.Fits() || Exact(digits, n.Scale) != n {
			t.Fatalf("%s is read as %d, %v", n, digits, err)
		}
		if kept := string(AppendPlain(nil, Decimal, n.Scale, digits)); kept != n.String() {
			t.Fatalf("%s is written as %s", n, kept)
		}
	}
	wide := Exact(7, 0)
	for range 37 {
		wide = wide.Times(Exact(10, 0)).Plus(Exact(7, 0), 1)
	}
	if text := wide.String(); wide.Fits() || strings.Count(text, "7") < 30 {
		t.Errorf("%s fits a cell", text)
	}
}

// Averages are rounded half away from zero, whatever the sign.
func TestDivide(t *testing.T) {
	for _, c := range []struct {
		digits, count int64
		want          string
	}{{5, 2, "0.03"}, {-5, 2, "-0.03"}, {1, 3, "0.00"}, {200, 3, "0.67"}, {-200, 3, "-0.67"}, {0, 9, "0.00"}} {
		if got := Exact(c.digits, 2).Divide(c.count, 2).String(); got != c.want {
			t.Errorf("%d by %d is %s and not %s", c.digits, c.count, got, c.want)
		}
	}
}

// Kinds and totals are kept by their names, and an unknown one is told with those there are.
func TestNamesOfKindsAndTotals(t *testing.T) {
	for k := Text; k <= Flag; k++ {
		name, _ := k.MarshalText()
		var again Kind
		if err := again.UnmarshalText(name); err != nil || again != k {
			t.Errorf("%s is read as %s, %v", name, again, err)
		}
	}
	if _, err := KindNamed("number"); err == nil || !strings.Contains(err.Error(), "use text, integer, decimal") {
		t.Errorf("an unknown kind: %v", err)
	}
	for o := NoTotal; o <= NonZero; o++ {
		name, _ := o.MarshalText()
		var again Op
		if err := again.UnmarshalText(name); err != nil || again != o {
			t.Errorf("%s is read as %s, %v", name, again, err)
		}
	}
	for _, name := range []string{"percentile", "ratio", "total", ""} {
		if _, err := OpNamed(name); err == nil || !strings.Contains(err.Error(), "use sum, avg, min, max") {
			t.Errorf("the total %q: %v", name, err)
		}
	}
	var o Op
	if err := o.UnmarshalText([]byte("all")); err == nil {
		t.Error("an unknown total is read")
	}
}

// A total of cells is of the kind that its figures need.
func TestWhatTotalsAre(t *testing.T) {
	money := Field{Name: "m", Kind: Money, Scale: 2, Currency: "EUR"}
	text := Field{Name: "t", Kind: Text}
	day := Field{Name: "d", Kind: Date, Grain: "month"}
	for _, c := range []struct {
		op   Op
		of   Field
		want Field
	}{
		{Sum, money, money}, {Min, day, day}, {Max, text, text}, {First, text, text},
		{Count, money, Field{Name: "m", Kind: Integer}}, {Distinct, text, Field{Name: "t", Kind: Integer}},
		{NonZero, money, Field{Name: "m", Kind: Integer}},
	} {
		if err := c.op.Fits(c.of); err != nil {
			t.Errorf("%s of %s: %v", c.op, c.of.Name, err)
		}
		if got := c.op.Field(c.of); got.Kind != c.want.Kind || got.Scale != c.want.Scale || got.Currency != c.want.Currency ||
			got.Grain != c.want.Grain {
			t.Errorf("%s of %s is %+v and not %+v", c.op, c.of.Name, got, c.want)
		}
	}
	for _, op := range []Op{Sum, Avg, Median, Percentile, Stddev, NonZero} {
		if op.Fits(text) == nil || op.Fits(day) == nil {
			t.Errorf("%s is taken of a text or a day", op)
		}
	}
}
