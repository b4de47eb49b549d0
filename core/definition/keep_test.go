package definition

import (
	"strings"
	"testing"

	"mantilla/core/report"
)

// TestRowsMayStayInTheEngine reads where rows are kept, and refuses what wants them here.
func TestRowsMayStayInTheEngine(t *testing.T) {
	text := func(keep, more string) []byte {
		return []byte(`report: made
title: Made
category: Made
depth: lines
about: Made rows.
source: there
parameters: [{id: days, type: range, compare: true}]
datasets:
  made:
    from: made
    where: [{is: made.at, within: days}]
    key: no
    keep: ` + keep + `
` + more + `    columns:
      - {id: no, is: no, type: integer}
views: {made: {of: made}}
`)
	}
	for keep, want := range map[string]string{"{in: engine}": report.InEngine, "{in: here}": "",
		"{in: {by: dialect, postgres: engine, else: here}}": report.InEngine} {
		d, faults := Parse(text(keep, ""), Defaults{Dialect: func(string) Dialect {
			return Dialect{Name: "postgres",
				Quotes: `'"`}
		}})
		if faults != nil || d.Datasets[0].Keep != want {
			t.Errorf("%s: %v", keep, faults)
		}
	}
	for _, c := range []struct{ keep, more, says string }{
		{"{in: there}", "", "there"},
		{"{}", "", "in"},
		{"{in: engine}", "    compare: days\n", "compares periods"},
		{"{in: engine}", "    columns: [{id: no, is: no, type: integer}, {id: word, type: text, entry: {}}]\n",
			"people fill in"},
	} {
		whole := text(c.keep, c.more)
		if strings.Contains(c.more, "entry") {
			head, _, _ := strings.Cut(string(whole), "    columns:\n")
			whole = []byte(head + "views: {made: {of: made}}\n")
		}
		if _, faults := Parse(whole, Defaults{}); faults == nil || !strings.Contains(faults.Error(), c.says) {
			t.Errorf("%s %s: %v", c.keep, c.more, faults)
		}
	}
}
