package formula

import (
	"errors"
	"strings"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/period"
)

var names = Names{"received.end": Day, "today": Day, "rule": Text, "rate": Number, "all": Flag, "empty": Number, "gone": Flag}

var values = Values{
	"received.end": {Day: period.Date(2026, 10, 31)}, "today": {Day: period.Date(2026, 10, 15)}, "rule": {Text: "straight"},
	"rate": {Number: frame.Exact(45, 1)}, "all": {Flag: true}, "empty": {Null: true},
}

func TestConditions(t *testing.T) {
	for text, want := range map[string]bool{
		"received.end > today":                  true,
		"received.end > today + 16":             false,
		"received.end >= today + 16":            true,
		"received.end - today = 16":             true,
		"today - 30 < received.end":             true,
		"rule = 'straight'":                     true,
		"rule <> 'straight'":                    false,
		"rule = 'it''s'":                        false,
		"rate > 4.49 and rate < 4.51":           true,
		"rate = 4.50":                           true,
		"rate + 0.5 = 5":                        true,
		"rate - 5 < 0":                          true,
		"all":                                   true,
		"not all":                               false,
		"not (all and rule = 'x') or rate = 1":  true,
		"all = true":                            true,
		"all <> false":                          true,
		"empty > 1":                             false, // no value is neither more nor less
		"not (empty > 1)":                       false,
		"empty is null":                         true,
		"empty is not null":                     false,
		"rate is not null":                      true,
		"empty > 1 or all":                      true,
		"empty > 1 and not all":                 false,
		"gone is null":                          true, // a name without a value
		"rule > 'a' AND rule < 'z'":             true,
		"empty + 1 is null":                     true,
		"received.end>today and not(rate<1.25)": true,
	} {
		c, err := ParseCondition(text, names)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if got := c.Holds(values); got != want {
			t.Errorf("%s: got %t", text, got)
		}
	}
}

func TestConditionsPointAtTheFault(t *testing.T) {
	for _, c := range []struct {
		text string
		at   int
		says string
	}{
		{"recieved.end > today", 0, `"recieved.end" is not known here; did you mean received.end?`},
		{"rate > 'x'", 7, "a number cannot be compared with a text"},
		{"rate", 0, "this is a number, and a condition is wanted"},
		{"rate > ", 7, "a value is wanted before the end"},
		{"(rate > 1", 9, "a closing bracket is missing"},
		{"rate > 1 rate", 9, `"rate" is not expected here`},
		{"rule + 1 = 2", 7, "+ does not go between a text and a number"},
		{"rate > 1 and rule", 13, "and joins conditions, and this is a text"},
		{"not rate", 4, "not is for conditions"},
		{"rate is 3", 8, "null is wanted after is"},
		{"rule = 'x", 7, "a text has no closing quote"},
		{"rate ; 1", 5, "has no meaning here"},
		{"rate > 1.2.3", 7, "is not a number"},
	} {
		_, err := ParseCondition(c.text, names)
		var f *Fault
		if !errors.As(err, &f) || f.At != c.at || !strings.Contains(f.Message, c.says) {
			t.Errorf("%s: got %+v; want %q at %d", c.text, f, c.says, c.at)
		}
	}
}

func FuzzParseCondition(f *testing.F) {
	for _, seed := range []string{"received.end > today", "not (a or b) and c is not null", "1 + 2 = 3", "'x''y' = rule"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		c, err := ParseCondition(text, names)
		if err == nil {
			c.Holds(values)
			c.Holds(nil)
		}
	})
}
