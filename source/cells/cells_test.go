package cells

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/report"
)

// TestDigitsReadWhatOthersRead reads random numbers as the slow way does, or leaves them to it.
func TestDigitsReadWhatOthersRead(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	read := 0
	for range 20000 {
		text := frame.Exact(r.Int64()>>r.IntN(60), int32(r.IntN(10))).String()
		scale := int32(r.IntN(10))
		n, ok := Digits(text, '.', scale)
		want, err := frame.ParseNumber(text, scale)
		if ok && (err != nil || n != want) {
			t.Fatalf("%s with %d places is read as %d, and is %d, %v", text, scale, n, want, err)
		}
		if ok {
			read++
		}
	}
	if read < 8000 {
		t.Errorf("only %d were read", read)
	}
	for _, no := range []string{"", "-", ".5", "5.", "1.2.3", "--1", "1-", "+1", "1e5", " 1", "123456789012345678"} {
		if n, ok := Digits(no, '.', 3); ok {
			t.Errorf("%q is read as %d", no, n)
		}
	}
}

func TestTextsOfSources(t *testing.T) {
	for text, want := range map[string]string{"2026-09-30": "20726", "2026-09-30 00:00:00": "20726", "2024-02-30": "",
		"2026-09-30 10:00": "", "0000-00-00": ""} {
		if got := said(Day([]byte(text))); got != want {
			t.Errorf("%q is the day %q, want %q", text, got, want)
		}
	}
	for text, want := range map[string]string{"1970-01-01 00:00:00.000001": "1", "1970-01-01T01:00:00+01:00": "0",
		"1969-12-31 23:59:59.999999": "-1", "1970-01-01 00:00:00+00": "0", "morning": ""} {
		if got := said(Moment([]byte(text))); got != want {
			t.Errorf("%q is the moment %q, want %q", text, got, want)
		}
	}
	for text, want := range map[string]string{"7": "7", "-7.000": "-7", "7.5": "",
		"9223372036854775807": "9223372036854775807"} {
		if got := said(Whole([]byte(text))); got != want {
			t.Errorf("%q is the whole number %q, want %q", text, got, want)
		}
	}
	money := &report.Column{Kind: frame.Money, Scale: 2}
	for text, want := range map[string]string{"1.005": "101", "-1.005": "-101", "1": "100", "1e2": "", "x": ""} {
		if got := said(Decimal(text, money)); got != want {
			t.Errorf("%q is the amount %q, want %q", text, got, want)
		}
	}
}

func said(n int64, err error) string {
	if err != nil {
		return ""
	}
	return fmt.Sprint(n)
}
