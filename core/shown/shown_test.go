package shown

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/frame"
	"mantilla/core/report"
)

func TestTextIsWhatPeopleRead(t *testing.T) {
	zone := time.FixedZone("CEST", 2*60*60)
	day := int64(20726) // 30 September 2026
	for _, c := range []struct {
		v    frame.Value
		want string
	}{
		{frame.Value{Kind: frame.Integer, Number: frame.Exact(1234567, 0)}, "1,234,567"},
		{frame.Value{Kind: frame.Decimal, Number: frame.Exact(-1234567, 3)}, "−1,234.567"},
		{frame.Value{Kind: frame.Money, Number: frame.Exact(5, 2)}, "0.05"},
		{frame.Value{Kind: frame.Date, Number: frame.Exact(day, 0)}, "30 Sep 2026"},
		{frame.Value{Kind: frame.Date, Grain: "month", Number: frame.Exact(day-29, 0)}, "Sep 2026"},
		{frame.Value{Kind: frame.Date, Grain: "quarter", Number: frame.Exact(day-91, 0)}, "Q3 2026"},
		{frame.Value{Kind: frame.Date, Grain: "week", Number: frame.Exact(day-2, 0)}, "Week 40, 2026"},
		{frame.Value{Kind: frame.Timestamp, Number: frame.Exact(day*86_400_000_000, 0)}, "30 Sep 2026 02:00 CEST"},
		{frame.Value{Kind: frame.Flag, Number: frame.Exact(1, 0)}, "yes"},
		{frame.Value{Kind: frame.Text, Text: "Hollin"}, "Hollin"},
		{frame.Value{Kind: frame.Integer, Text: "Monday", Number: frame.Exact(1, 0)}, "Monday"},
		{frame.Value{Kind: frame.Money, Null: true}, ""},
	} {
		if got := (Form{Zone: zone}).Text(c.v); got != c.want {
			t.Errorf("%+v is %q, not %q", c.v, got, c.want)
		}
	}
	if (Form{}).Key(frame.Value{Null: true}) != "(none)" || (Form{}).Key(frame.Value{Kind: frame.Text}) != "(empty)" {
		t.Error("nothing and the empty text are not told apart")
	}
}

func TestEveryFormIsWrittenAsItSays(t *testing.T) {
	money := frame.Value{Kind: frame.Money, Number: frame.Exact(-123_456_789, 2)}
	day := frame.Value{Kind: frame.Date, Number: frame.Exact(20726, 0)}
	for _, c := range []struct {
		form          Form
		money, on, at string
	}{
		{Form{}, "−1,234,567.89", "30 Sep 2026", "30 Sep 2026 00:00 UTC"},
		{Form{Numbers: "comma", Days: "words"}, "−1,234,567.89", "30 Sep 2026", "30 Sep 2026 00:00 UTC"},
		{Form{Numbers: "dot", Days: "dots"}, "−1.234.567,89", "30.09.2026", "30.09.2026 00:00 UTC"},
		{Form{Numbers: "space", Days: "slashes"}, "−1\u00a0234\u00a0567,89", "30/09/2026", "30/09/2026 00:00 UTC"},
		{Form{Numbers: "apostrophe", Days: "iso"}, "−1’234’567.89", "2026-09-30", "2026-09-30 00:00 UTC"},
		{Form{Numbers: "dot", Days: "month-first"}, "−1.234.567,89", "09/30/2026", "09/30/2026 00:00 UTC"},
	} {
		if got := c.form.Text(money); got != c.money {
			t.Errorf("%v writes %q, not %q", c.form, got, c.money)
		}
		if got := c.form.Text(day); got != c.on {
			t.Errorf("%v writes %q, not %q", c.form, got, c.on)
		}
		if got := c.form.Moment(frame.DayTime(20726)); got != c.at {
			t.Errorf("%v writes %q, not %q", c.form, got, c.at)
		}
	}
	if got := (Form{Numbers: "dot"}).Ungrouped("1234.50"); got != "1234,50" {
		t.Errorf("a program would be given %s", got)
	}
	for _, name := range append(slices.Clone(NumberForms[1:]), DayForms[1:]...) {
		if (Form{Numbers: name, Days: name}).Text(money)+(Form{Days: name}).Text(day) == (Form{}).Text(money)+"30 Sep 2026" {
			t.Errorf("%s is as the house writes", name)
		}
	}
}

// TestGroupingAddsCommasOnly takes the commas away again and looks where they stood.
func TestGroupingAddsCommasOnly(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 1))
	for range 500 {
		n := frame.Exact(r.Int64N(1<<(1+r.IntN(58)))-1<<20, int32(r.IntN(6)))
		got := string(Form{}.AppendGrouped([]byte("x"), []byte(n.String())))
		if strings.ReplaceAll(got, ",", "") != "x"+n.String() {
			t.Fatalf("%s is written %s", n, got)
		}
		whole, _, _ := strings.Cut(strings.TrimPrefix(got[1:], "-"), ".")
		for i, part := range strings.Split(whole, ",") {
			if len(part) > 3 || len(part) < 3 && i > 0 {
				t.Fatalf("%s is written %s", n, got)
			}
		}
	}
}

func TestHeadingsNameUnitAndCurrency(t *testing.T) {
	for _, c := range []struct {
		column report.Column
		want   string
		right  bool
	}{
		{report.Column{Label: "Net weight", Unit: "kg", Kind: frame.Decimal}, "Net weight, kg", true},
		{report.Column{Label: "Value", Kind: frame.Money, Currency: "EUR"}, "Value, EUR", true},
		{report.Column{Label: "District", Kind: frame.Text}, "District", false},
	} {
		if got := Heading(c.column); got != c.want || RightAligned(c.column) != c.right {
			t.Errorf("%+v: %q, to the right %t", c.column, got, RightAligned(c.column))
		}
	}
	if Capitalised("élan") != "Élan" || Uncapitalised("Élan") != "élan" || Capitalised("") != "" {
		t.Error("labels do not change with their place in a sentence")
	}
}
