package report_test

import (
	"strings"
	"testing"

	"mantilla/core/report"
)

func TestReferences(t *testing.T) {
	cases := map[string]string{
		"a between :r.start and :r.end":              "r.start r.end",
		"':no' || \":no\" || `:no` || [:no] || :yes": "yes",
		"a::text = :b":        "b",
		"a -- :no\n = :b":     "b",
		"a /* :no */ = :b_2.": "b_2",
		":":                   "",
		":1":                  "",
		"'it''s :no' = :b":    "b",
		"'open :no":           "",
		":a:b":                "a b",
	}
	for sql, want := range cases {
		var got []string
		for _, r := range report.References(sql, report.AnyQuotes) {
			got = append(got, r.String())
			if text := sql[r.Start:r.End]; text != ":"+r.String() {
				t.Errorf("%q: the place of %s holds %q", sql, r, text)
			}
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%q: got %q, want %q", sql, got, want)
		}
	}
	if got := report.References("a[:no] || `:yes`", `'"`); len(got) != 2 {
		t.Errorf("an engine that quotes by neither: %v", got)
	}
}
