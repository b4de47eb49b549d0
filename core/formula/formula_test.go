package formula

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/period"
)

var schema = frame.Schema{{Name: "lot", Kind: frame.Text}, {Name: "district", Kind: frame.Text},
	{Name: "net_kg", Kind: frame.Decimal, Scale: 3},
	{Name: "price", Kind: frame.Money, Scale: 2, Currency: "EUR"}, {Name: "received", Kind: frame.Date},
	{Name: "weighed", Kind: frame.Timestamp},
	{Name: "status", Kind: frame.Text}, {Name: "checked", Kind: frame.Flag}}

func scope(t testing.TB) Scope {
	t.Helper()
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	c := period.At(time.Date(2026, 10, 15, 10, 0, 0, 0, berlin), berlin, time.April)
	return Scope{Columns: schema, Calendar: c, Given: map[string]frame.Value{
		"today": {Kind: frame.Date, Number: frame.Exact(int64(c.Today), 0)},
		"rate":  {Kind: frame.Decimal, Number: frame.Exact(45, 1)},
		"none":  {Kind: frame.Decimal, Null: true},
		"rule":  {Kind: frame.Text, Text: "straight"},
		"all":   {Kind: frame.Flag, Number: frame.Exact(1, 0)},
	}}
}

// lots is the table of docs/formulas.md.
func lots(t testing.TB) *frame.Frame {
	t.Helper()
	day := func(m time.Month, d int) int64 { return int64(period.Date(2026, m, d)) }
	at := func(m time.Month, d, h, min int) int64 {
		return time.Date(2026, m, d, h, min, 0, 0, time.UTC).UnixMicro()
	}
	rows := [][]any{
		{"L-1", "Hollin", int64(29500), int64(520), day(9, 4), at(9, 4, 7, 40), "paid", int64(1)},
		{"L-2", "Marr", int64(20500), int64(620), day(9, 8), at(9, 8, 14, 5), "open", int64(0)},
		{"L-3", "Hollin", int64(10000), int64(496), day(10, 1), at(10, 1, 5, 59), "open", int64(1)},
		{"L-4", "Marr", nil, nil, nil, nil, nil, nil},
	}
	var records []arrow.RecordBatch
	b := frame.NewBuilder(schema, 3, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, row := range rows {
		for col, cell := range row {
			switch v := cell.(type) {
			case string:
				b.Text(col, []byte(v))
			case int64:
				if err := b.Int(col, v); err != nil {
					t.Fatal(err)
				}
			}
		}
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := frame.New(schema, records...)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// plain writes a cell as the documentation does.
func plain(v frame.Value) string {
	if v.Grain != "" && !v.Null {
		if u, ok := period.UnitNamed(v.Grain); ok {
			return period.Period{Unit: u, Range: period.Range{First: period.Day(v.Int())}}.String()
		}
	}
	return v.String()
}

// computed writes what a formula comes to over the lots: of rows, or of all of
// them and for windows of the districts.
func computed(t testing.TB, f *Formula) string {
	t.Helper()
	rows := lots(t)
	var out []string
	if !f.OfGroups() {
		for i := range rows.Batches() {
			b, err := rows.Batch(t.Context(), i, nil)
			if err != nil {
				t.Fatal(err)
			}
			v, err := f.Rows(b)
			if err != nil {
				return err.Error()
			}
			for r := range b.Rows {
				out = append(out, plain(v.Value(f.Field, r)))
			}
		}
		return strings.Join(out, ", ")
	}
	var aggregates []frame.Vector
	for _, a := range f.Aggregates {
		aggregates = append(aggregates, Aggregated(t, rows, a))
	}
	v, err := f.OfGroup(1, aggregates, nil)
	if err != nil {
		return err.Error()
	}
	return plain(v.Value(f.Field, 0))
}

// Aggregated computes an aggregate of all rows. It is set by a test that knows tables,
// which this package must not.
var Aggregated func(t testing.TB, rows *frame.Frame, a Aggregate) frame.Vector

func TestEveryFunctionGivesWhatItsExampleSays(t *testing.T) {
	for _, f := range Functions {
		parsed, err := Parse(f.Example, scope(t))
		if err != nil {
			t.Errorf("%s: %s: %v", f.Name, f.Example, err)
			continue
		}
		if !strings.Contains(f.Example, f.Name) && f.Name != "distinct" {
			t.Errorf("%s: its example is %s", f.Name, f.Example)
		}
		if len(parsed.Windows) > 0 {
			continue // the sheet computes them; see its tests
		}
		if got := computed(t, parsed); got != f.Gives {
			t.Errorf("%s: %s gives %q, not %q", f.Name, f.Example, got, f.Gives)
		}
	}
}

func TestFormulas(t *testing.T) {
	for text, want := range map[string]string{
		"net_kg * price":                  "153.40000, 127.10000, 49.60000, ",
		"net_kg + 1":                      "30.500, 21.500, 11.000, ",
		"-net_kg":                         "-29.500, -20.500, -10.000, ",
		"1 - - 1 + 2 * 3":                 "8, 8, 8, 8",
		"2 - 3 - 4":                       "-5, -5, -5, -5",
		"price / 0":                       ", , , ",
		"price / net_kg":                  "0.176271, 0.302439, 0.496000, ",
		"7 / 2":                           "3.500000, 3.500000, 3.500000, 3.500000",
		"-7 / 3":                          "-2.333333, -2.333333, -2.333333, -2.333333",
		"received + 30":                   "2026-10-04, 2026-10-08, 2026-10-31, ",
		"today - received":                "41, 37, 14, ",
		"received < today - 30":           "yes, yes, no, ",
		"status = 'open' or checked":      "yes, yes, yes, ",
		"status <> 'paid' and net_kg > 1": "no, yes, yes, ",
		"status is null":                  "no, no, no, yes",
		"status is not null":              "yes, yes, yes, no",
		"not (status = 'paid')":           "no, yes, yes, ",
		"status in ('paid', 'late')":      "yes, no, no, ",
		"status not in ('paid')":          "no, yes, yes, ",
		"status in ('paid', null)":        "yes, , , ",
		"net_kg between 10 and 20.5":      "no, yes, yes, ",
		"net_kg not between 10 and 20.5":  "yes, no, no, ",
		"lot like 'l-_'":                  "yes, yes, yes, yes",
		"lot not like '%1'":               "no, yes, yes, yes",
		"district || ' ' || net_kg":       "Hollin 29.500, Marr 20.500, Hollin 10.000, ",
		"case when net_kg > 25 then 'much' when net_kg > 15 then 'some' end": "much, some, , ",
		"case status when 'paid' then 1 when 'open' then 0.5 else 0 end":     "1.0, 0.5, 0.5, 0.0",
		"case when checked then net_kg end":                                  "29.500, , 10.000, ",
		"coalesce(status, 'none') || '!'":                                    "paid!, open!, open!, none!",
		"weekday(received) = 'Friday'":                                       "yes, no, no, ",
		"month(received) = month(today)":                                     "no, no, yes, ",
		"date '2026-10-01' = received":                                       "no, no, yes, ",
		"rate * 2":                                                           "9.0, 9.0, 9.0, 9.0",
		"none + net_kg is null":                                              "yes, yes, yes, yes",
		"coalesce(none, net_kg)":                                             "29.500, 20.500, 10.000, ",
		"sum(net_kg * price) / sum(net_kg)":                                  "5.501667",
		"sum(case when status = 'open' then net_kg end)":                     "30.500",
		"count(*)":                                    "4",
		"count(*) - count(status)":                    "1",
		"sum(net_kg) > 50 and all":                    "yes",
		"max(received) - min(received)":               "27",
		"upper(first(district))":                      "HOLLIN",
		"percentile(price, 25) + 0.1":                 "5.18",
		"years(date '2000-02-29', date '2001-02-28')": "0, 0, 0, 0",
		"band(net_kg, 10.5)":                          "10.5 and over, 10.5 and over, below 10.5, ",
		"band(7, 5, 10, 11)":                          "5 to 9, 5 to 9, 5 to 9, 5 to 9",
		"(((net_kg)))":                                "29.500, 20.500, 10.000, ",
		"NET_KG is null or true":                      "\"NET_KG\" is not known here; did you mean net_kg?",
		"net_kg * 99999999999999 * 99999999999999 * 99999999999999 / 3 > 0 or all": "a number gets more digits than can be " +
			"kept (18 in a row, 38 in a total); round it, or divide before multiplying",
	} {
		f, err := Parse(text, scope(t))
		got := ""
		if err != nil {
			got = err.Error()
		} else {
			got = computed(t, f)
		}
		if got != want {
			t.Errorf("%s: got %q, want %q", text, got, want)
		}
	}
}

func TestTypesOfFormulas(t *testing.T) {
	for text, want := range map[string]frame.Field{
		"net_kg * price":       {Kind: frame.Money, Scale: 5, Currency: "EUR"},
		"price / 3":            {Kind: frame.Money, Scale: 6, Currency: "EUR"},
		"price / price":        {Kind: frame.Decimal, Scale: 6},
		"count(*)":             {Kind: frame.Integer},
		"avg(price)":           {Kind: frame.Money, Scale: 2, Currency: "EUR"},
		"month(received)":      {Kind: frame.Date, Grain: "month"},
		"received - 1":         {Kind: frame.Date},
		"share(sum(net_kg))":   {Kind: frame.Decimal, Scale: 6},
		"running(sum(net_kg))": {Kind: frame.Decimal, Scale: 3},
		"round(net_kg, 1)":     {Kind: frame.Decimal, Scale: 1},
	} {
		f, err := Parse(text, scope(t))
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if got := f.Field; got.Kind != want.Kind || got.Scale != want.Scale || got.Currency != want.Currency ||
			got.Grain != want.Grain {
			t.Errorf("%s is %+v, want %+v", text, got, want)
		}
	}
}

func TestFaultsPointAtThePlace(t *testing.T) {
	for _, c := range []struct {
		text string
		at   int
		says string
	}{
		{"net_kq * 2", 0, `"net_kq" is not known here; did you mean net_kg?`},
		{"net_kg > 'x'", 9, "a number cannot be compared with a text"},
		{"net_kg > ", 9, "a value is wanted before the end"},
		{"(net_kg > 1", 11, "a closing bracket is missing"},
		{"net_kg > 1 lot", 11, `"lot" is not expected here`},
		{"lot + 1 = 2", 4, "+ does not go between a text and a number"},
		{"net_kg > 1 and lot", 15, "and joins conditions, and this is a text"},
		{"not net_kg", 4, "not is for conditions"},
		{"net_kg is 3", 10, "null is wanted after is"},
		{"lot = 'x", 6, "a text has no closing quote"},
		{"net_kg ; 1", 7, "has no meaning here"},
		{"net_kg > 1.2.3", 9, "is not a number"},
		{"summ(net_kg)", 0, `there is no function "summ"; did you mean sum?`},
		{"sum(lot)", 4, "a text column has no sum"},
		{"sum(sum(net_kg))", 4, "cannot stand within another"},
		{"sum(net_kg) + net_kg", 14, "write sum(net_kg)"},
		{"count(distinct lot) + lot", 22, "write max(lot)"},
		{"round(net_kg, lot)", 14, "round is of numbers"},
		{"percentile(net_kg, 101)", 19, "between 0 and 100"},
		{"abs()", 0, "abs is written abs(x)"},
		{"price * price", 6, "money times money"},
		{"band(net_kg, 5, 5)", 16, "must rise"},
		{"band(net_kg, net_kg, 5)", 13, "the limits of bands are fixed numbers"},
		{"round(net_kg, net_kg)", 14, "a fixed number of places"},
		{"case net_kg end", 12, "when is wanted after case"},
		{"case when net_kg > 1 then 1 else 'x' end", 33, "this is a text, and what stands before it is a number"},
		{"null", 0, "always null"},
		{"hour(received)", 5, "hour is of moments, and this is a day"},
		{"net_kg not 3", 11, "in, between or like"},
		{"share(running(sum(net_kg)))", 6, "cannot stand within"},
		{"sum(*)", 4, "* is for count(*)"},
		{"date '2026-02-30'", 0, "February 2026 has 28 days"},
		{"received + 0.5", 11, "whole days"},
		{"lot like district", 9, "must be the same for all rows"},
	} {
		_, err := Parse(c.text, scope(t))
		var f *Fault
		if !errors.As(err, &f) || f.At != c.at || !strings.Contains(f.Message, c.says) {
			t.Errorf("%s: got %+v; want %q at %d", c.text, f, c.says, c.at)
		}
	}
}

func TestConditionsOverSingleValues(t *testing.T) {
	for text, want := range map[string]bool{
		"date '2026-10-31' > today":    true,
		"rate > 4.49 and rate < 4.51":  true,
		"rate = 4.50":                  true,
		"not all":                      false,
		"none > 1":                     false,
		"not (none > 1)":               false,
		"none is null":                 true,
		"none > 1 or all":              true,
		"rule = 'it''s'":               false,
		"rule > 'a' AND rule < 'z'":    true,
		"today >= date '2026-10-15'":   true,
		"rule in ('bent', 'straight')": true,
	} {
		c, err := ParseCondition(text, scope(t))
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if got := c.Holds(); got != want {
			t.Errorf("%s: got %t", text, got)
		}
	}
	var f *Fault
	if _, err := ParseCondition("rate", scope(t)); !errors.As(err, &f) ||
		!strings.Contains(f.Message, "a condition is wanted") {
		t.Errorf("a number was taken for a condition: %v", err)
	}
}

func TestToRoundsToTheColumn(t *testing.T) {
	f, err := Parse("net_kg * price", scope(t))
	if err != nil {
		t.Fatal(err)
	}
	value, err := f.To(frame.Field{Kind: frame.Money, Scale: 2, Currency: "EUR"})
	if err != nil {
		t.Fatal(err)
	}
	if got := computed(t, value); got != "153.40, 127.10, 49.60, " {
		t.Errorf("got %s", got)
	}
	for _, field := range []frame.Field{{Kind: frame.Text}, {Kind: frame.Money, Scale: 2, Currency: "USD"},
		{Kind: frame.Date}} {
		if _, err := f.To(field); err == nil {
			t.Errorf("money in EUR became %+v", field)
		}
	}
}

func FuzzParse(f *testing.F) {
	for _, fn := range Functions {
		f.Add(fn.Example)
	}
	for _, seed := range []string{"received > today", "not (checked or all) and lot is not null", "1 + 2 = 3",
		"'x''y' = rule", "case when 1=1 then 2 end", "((((", "- - -1", "count(distinct lot)", "count(distinct", "f(",
		"date'"} {
		f.Add(seed)
	}
	s, rows := scope(f), lots(f)
	b, err := rows.Batch(f.Context(), 0, nil)
	if err != nil {
		f.Fatal(err)
	}
	f.Fuzz(func(t *testing.T, text string) {
		p, err := Parse(text, s)
		var at *Fault
		if err != nil {
			if !errors.As(err, &at) || at.At < 0 || at.At > len(text) {
				t.Fatalf("%q: %v has no place", text, err)
			}
			return
		}
		if p.OfGroups() {
			return
		}
		if v, err := p.Rows(b); err == nil {
			for r := range b.Rows {
				_ = v.Value(p.Field, r).String()
			}
		}
	})
}
