package checks

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
)

// Compared is a figure with what it was expected to be.
type Compared struct {
	Of, Is   string // dataset and formula
	Expected string
	Got      string // "" where it cannot be told
	Why      string // it cannot be told
	Same     bool
}

// Expect compares figures of rows with what they are expected to be.
func Expect(ctx context.Context, d *report.Definition, rows Rows, setting ready.Setting,
	figures []report.Figured) (out []Compared, err error) {
	c := checking{of: d, rows: rows, setting: setting}
	for _, f := range figures {
		got := Compared{Of: f.Of, Is: f.Is, Expected: f.Equals}
		v, err := c.figure(ctx, f.Of, f.Is)
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		if err != nil {
			got.Why = err.Error()
		} else {
			got.Got, got.Same, got.Why = compared(v, f.Equals)
		}
		out = append(out, got)
	}
	return out, nil
}

// compared tells what a value is as it is written in a definition, and whether that is what
// was expected: as a number, whatever its places, where it is one.
func compared(v frame.Value, expected string) (got string, same bool, why string) {
	expected = strings.TrimSpace(expected)
	switch {
	case v.Null:
		return "null", strings.EqualFold(expected, "null"), ""
	case v.Kind == frame.Flag:
		got = "no"
		if v.Int() != 0 {
			got = "yes"
		}
		yes := map[string]string{"true": "yes", "false": "no"}
		return got, got == expected || got == yes[expected], ""
	case !v.Kind.Numeric():
		got = v.String()
		return got, got == expected, ""
	}
	n, err := number(strings.ReplaceAll(expected, "_", ""))
	if err != nil {
		return v.String(), false, fmt.Sprintf("%q is no number; write it without separators, as 1234.567", expected)
	}
	return v.String(), v.Number.Compare(n) == 0, ""
}
