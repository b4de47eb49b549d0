package formula

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/core/expr"
	"mantilla/core/frame"
)

func TestFormulasBeyondTheBoundsAreRefused(t *testing.T) {
	tiny := "0.000000000000000001"
	nested := func(n int, open, inner, end string) string {
		return strings.Repeat(open, n) + inner + strings.Repeat(end, n)
	}
	for name, c := range map[string]struct{ text, want string }{
		"places that multiply": {fmt.Sprintf("net_kg * %s * %s * %s + 1", tiny, tiny, tiny), "decimal places"},
		"a number's places":    {"net_kg + 0." + strings.Repeat("0", 100), "at most 18 decimal places"},
		"two million sums":     {"sum(net_kg)" + strings.Repeat("+1", 2_000_000), "characters"},
		"many parts":           {"net_kg" + strings.Repeat("+1", 3_000), "more than 4000 parts"},
		"brackets":             {nested(300, "(", "net_kg", ")"), "brackets"},
		"signs":                {strings.Repeat("- ", 300) + "net_kg", "signs"},
		"a long pattern":       {"lot like '" + strings.Repeat("%a", 1000) + "'", "pattern"},
	} {
		_, err := Parse(c.text, scope(t))
		var f *Fault
		if !errors.As(err, &f) || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: got %v, want a fault about %s", name, err, c.want)
		}
	}
}

// What stands in several places of a part is computed once, or the time would
// double with each level.
func TestNestedPartsTakeNoMoreTimeThanTheyAreLong(t *testing.T) {
	started := time.Now()
	for _, c := range []struct{ open, inner, end string }{
		{"nullif(", "net_kg", ", 7)"},
		{"coalesce(", "price", ", 1)"},
		{"greatest(", "net_kg", ", 1, 2)"},
		{"(", "checked", " in (true, false))"},
		{"(", "net_kg", " between 1 and 2) = checked and (net_kg"},
		{"case ", "status", " when 'paid' then 'open' else 'x' end"},
		{"", "net_kg", " / 3 * 3"},
	} {
		text := strings.Repeat(c.open, 60) + c.inner + strings.Repeat(c.end, 60)
		if strings.Contains(c.end, "between") {
			text = strings.Repeat("(", 40) + "checked" + strings.Repeat(" between false and true)", 40)
		}
		f, err := Parse(text, scope(t))
		if err != nil {
			t.Errorf("%s…: %v", c.open, err)
			continue
		}
		computed(t, f)
	}
	if took := time.Since(started); took > 20*time.Second {
		t.Errorf("it took %v", took)
	}
}

func TestTextsThatGrowAreRefused(t *testing.T) {
	text := "lot"
	for range 20 {
		text = "replace(" + text + ", 'L', 'LLLLLLLL')"
	}
	f, err := Parse(text, scope(t))
	if err != nil {
		t.Fatal(err)
	}
	if got := computed(t, f); !strings.Contains(got, "a text gets longer than 10000 characters") {
		t.Errorf("got %.100s", got)
	}
	long := "lot"
	for range 14 {
		long = "(" + long + " || " + long + ")"
	}
	if f, err = Parse(long, scope(t)); err == nil {
		if got := computed(t, f); !strings.Contains(got, "a text gets longer") {
			t.Errorf("got %.100s", got)
		}
	}
}

// Each quotient is compared with the exact one, rounded once.
func TestQuotientsAreRoundedOnce(t *testing.T) {
	given := scope(t)
	number := func(digits int64, places int32) frame.Value {
		return frame.Value{Kind: frame.Decimal, Number: frame.Exact(digits, places)}
	}
	given.Given = map[string]frame.Value{
		"a": number(86172249999, 4), "b": number(1, 0), "c": number(3, 0), "d": number(29, 1), "zero": number(0, 0),
		"large": number(999_999_999_999_999_999, 0), "e": number(2999999999, 9),
	}
	for _, c := range []struct {
		text   string
		places int32
		want   string
	}{
		{"a / 1000000", 5, "8.61722"},            // by way of six places it would be 8.617225, then 8.61723
		{"b / c * 100", 6, "33.333333"},          // not 33.333300
		{"b / c * 3", 4, "1.0000"},               //
		{"c * (b / c)", 4, "1.0000"},             //
		{"1 - b / c", 6, "0.666667"},             //
		{"b / c + b / c + b / c", 6, "1.000000"}, //
		{"b / (b / c)", 6, "3.000000"},           // not 3.000003
		{"-(b / c) * 3", 2, "-1.00"},             //
		{"round(a / 1000000, 5)", 5, "8.61722"},  //
		{"b / (zero / c)", 2, ""},                // a division by zero within has no value
		{"b / (c / zero)", 2, ""},                //
		{"floor(d / 1000000 * 1000000)", 0, "2"}, //
		{"floor(e)", 0, "2"},                     //
		{"ceiling(b / 3000000)", 0, "1"},         // though it is 0.000000 to six places
		{"large / c / c / c / c", 2, "12345679012345679.00"},
		{"large * (b / c) * (b / c) * large / large", 2, "111111111111111111.00"},
	} {
		f, err := Parse(c.text, given)
		if err == nil {
			f, err = f.To(frame.Field{Kind: frame.Decimal, Scale: c.places})
		}
		if err != nil {
			t.Errorf("%s: %v", c.text, err)
			continue
		}
		v, err := f.root.eval(&env{rows: 1})
		if err != nil {
			t.Errorf("%s: %v", c.text, err)
			continue
		}
		if got := v.Value(f.Field, 0).String(); got != c.want {
			t.Errorf("%s to %d places is %s, not %s", c.text, c.places, got, c.want)
		}
	}
}

func TestNumbersBeyond18DigitsAreRefusedHoweverTheyCome(t *testing.T) {
	given := scope(t)
	given.Given["n"] = frame.Value{Kind: frame.Integer, Number: frame.Exact(600_000_000_000_000_000, 0)}
	for _, text := range []string{"n + n + 0 * length(lot)", "n * 5 + length(lot)", "length(lot) - n - n"} {
		f, err := Parse(text, given)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if got := computed(t, f); !strings.Contains(got, "more digits than can be kept") {
			t.Errorf("%s gives %s", text, got)
		}
	}
}

// FuzzFormula reads any text as a formula and computes it: it may be refused,
// and its numbers may be too large, but nothing may panic or take long.
func FuzzFormula(f *testing.F) {
	for _, fn := range Functions {
		f.Add(fn.Example)
	}
	for _, text := range []string{
		"net_kg * 0.000000000000000001 * 0.000000000000000001 + 1", "case status when 'paid' then 1 else null end",
		"lot like '%\xff_'", "band(net_kg, 1, 1)", "sum(net_kg) / count(*)", "share(sum(price), parent)", "--net_kg", "''''",
		"date '2026-02-30'",
		"greatest(net_kg, price, 1, 2, 3)", "months(received, weighed)", "substr(lot, 99999999999)",
		"percentile(price, 99.999)",
	} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		parsed, err := Parse(text, scope(t))
		if err != nil {
			return
		}
		if len(parsed.Windows) == 0 {
			computed(t, parsed)
		}
		if again, err := parsed.To(frame.Field{
			Kind:     parsed.Field.Kind,
			Scale:    2,
			Currency: parsed.Field.Currency,
		}); err == nil && len(again.Windows) == 0 {
			computed(t, again)
		}
	})
}

// TestEveryPartOfATreeHasAType holds that whoever writes a formula in another language
// knows what every part gives.
func TestEveryPartOfATreeHasAType(t *testing.T) {
	for _, f := range Functions {
		parsed, err := Parse(f.Example, scope(t))
		if err != nil {
			t.Fatal(err)
		}
		parsed.Tree().Has(func(e *expr.Expr) bool {
			if e.Op == expr.Name && e.Field.Name == "" && scope(t).Columns.Index(e.Text) >= 0 {
				t.Errorf("%s: the part %s at %d has no type", f.Example, e.Text, e.At)
			}
			return false
		})
	}
	parsed, err := Parse("net_kg * 2 > 10 and checked", scope(t))
	if err != nil {
		t.Fatal(err)
	}
	top := parsed.Tree()
	if top.Field.Kind != frame.Flag || top.Args[0].Args[0].Field.Kind != frame.Decimal {
		t.Errorf("the parts give %+v and %+v", top.Field, top.Args[0].Args[0].Field)
	}
}
