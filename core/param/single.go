package param

import (
	"regexp"
	"strings"
	"unicode/utf8"

	"mantilla/core/fold"
	"mantilla/core/frame"
)

func (v *Value) readText(text string) *Fault {
	p, limit := v.Parameter, v.Parameter.MaxLength
	if limit == 0 {
		limit = 200
	}
	if !utf8.ValidString(text) {
		return bad("%s holds bytes that are no text; write it in UTF-8", p.Label)
	}
	if n := utf8.RuneCountInString(text); n > limit {
		return bad("%s has %d characters; at most %d are allowed", p.Label, n, limit)
	}
	if p.Pattern != "" && !regexp.MustCompile(`^(?:`+p.Pattern+`)$`).MatchString(text) {
		return bad("%q does not have the form of %s; it must match %s", text, p.Label, p.Pattern)
	}
	v.Text = text
	return nil
}

func (v *Value) readNumber(text string) *Fault {
	p, scale := v.Parameter, v.Parameter.Scale
	if p.Type != Decimal && p.Type != Money {
		scale = 0
	}
	digits, err := frame.ParseNumber(text, scale)
	if err != nil {
		return bad("%v; %s", err, kinds[p.Type].hint)
	}
	if low, err := frame.ParseNumber(p.Min, scale); err == nil && digits < low {
		return bad("%s is below the smallest allowed, %s", text, p.Min)
	}
	if high, err := frame.ParseNumber(p.Max, scale); err == nil && digits > high {
		return bad("%s is above the largest allowed, %s", text, p.Max)
	}
	v.Number = frame.Exact(digits, scale)
	return nil
}

// readCount reads a whole number above nothing, with or without its unit: 12
// or 12 months.
func (v *Value) readCount(text string) *Fault {
	p := v.Parameter
	if digits, unit, two := strings.Cut(strings.Join(strings.Fields(text), " "), " "); two {
		if !sameUnit(unit, p.Measure) {
			return bad("%s is counted in %s; write it as %s", p.Label, p.Measure, strings.TrimSpace(digits+" "+p.Measure))
		}
		text = digits
	}
	if f := v.readNumber(text); f != nil {
		return f
	}
	if v.Number.Digits.Sign() <= 0 {
		return bad("%s is not a count; write 1 or more", text)
	}
	return nil
}

// sameUnit tells whether two words are one unit, in the singular or plural.
func sameUnit(a, b string) bool {
	return b != "" && strings.TrimSuffix(fold.Text(a), "s") == strings.TrimSuffix(fold.Text(b), "s")
}

func (v *Value) readFlag(text string) *Fault {
	switch strings.ToLower(text) {
	case "yes", "true", "1":
		v.Flag = true
	case "no", "false", "0":
	default:
		return bad("%q is neither yes nor no", text)
	}
	return nil
}
