package definition

import (
	"strings"
	"testing"

	"mantilla/core/report"
)

const switched = `report: r
title: R
category: C
depth: lines
about: A.
source: shop
parameters:
  - {id: within, type: integer, required: true}
  - {id: rule, type: choice, options: {a: A, b: B}}
datasets:
  d:
    from: {by: dialect, postgres: sale.line as line, else: line}
    where:
      - {by: dialect, sqlite: "date(line.day, '+' || :within || ' days') > '2026'", postgres: line.day > :within}
    columns:
      - {id: day, is: line.day, type: date}
      - {id: cents, is: {by: dialect, sqlite: {by: ':rule', a: line.a, else: line.b}, else: line.c}, type: money}
      - {id: dialect, is: line.e, type: text}
views: {v: {of: d}}
`

// speaking are the defaults of a service whose source speaks a dialect.
func speaking(dialect string) Defaults {
	return Defaults{Currency: "EUR", Dialects: []string{"mariadb", "postgres", "sqlite"},
		Dialect: func(string) Dialect { return Dialect{Name: dialect, Quotes: report.AnyQuotes} }}
}

func TestPartsAreSwitchedByDialect(t *testing.T) {
	versions := map[string]bool{}
	for dialect, want := range map[string]string{
		"sqlite":   "line|date(line.day, '+' || :within || ' days') > '2026'|a: line.a, else: line.b|",
		"postgres": "sale.line as line|line.day > :within|line.c",
	} {
		d, faults := Parse([]byte(switched), speaking(dialect))
		if faults != nil {
			t.Fatal(dialect, faults)
		}
		of := d.Dataset("d")
		cents := of.Column("cents").Is
		got := of.From.SQL + "|" + of.Where[0].SQL + "|" + cents.SQL
		if cents.By != "" {
			got += "a: " + cents.Cases["a"] + ", else: " + cents.Cases["else"] + "|"
		}
		if got != want {
			t.Errorf("%s gives %s, want %s", dialect, got, want)
		}
		versions[d.Version] = true
	}
	if len(versions) != 1 {
		t.Errorf("what the source speaks makes another version: %v", versions)
	}
	// Without a source any form will do: what a definition says can be looked at everywhere.
	if d, faults := Parse([]byte(switched), Defaults{Currency: "EUR"}); faults != nil ||
		d.Dataset("d").From.SQL != "line" {
		t.Errorf("without a source: %v", faults)
	}
}

func TestWrongDialectsAreTold(t *testing.T) {
	for _, c := range []struct{ dialect, old, new, want string }{
		{"mariadb", "", "", "line 14, column 9: the source shop speaks mariadb, for which nothing stands here; " +
			"add mariadb: or else:"},
		{"sqlite", "postgres: sale.line", "postgress: sale.line", "line 12, column 25: \"postgress\" is not a dialect; " +
			"did you mean postgres?; there are mariadb, postgres and sqlite, and else"},
		{"sqlite", "line.day > :within", "line.day > :withinn", "the SQL speaks of :withinn, which is not a parameter; " +
			"did you mean within?"},
		{"postgres", "else: line.b", "else: ':colour'", "the SQL speaks of :colour"},
	} {
		_, faults := Parse([]byte(strings.Replace(switched, c.old, c.new, 1)), speaking(c.dialect))
		if faults == nil || !strings.Contains(faults.Error(), c.want) {
			t.Errorf("%s in the place of %s on %s is answered by\n%v, want\n%s", c.new, c.old, c.dialect, faults, c.want)
		}
	}
}

// TestRowsBehindByAColumnOfThatName: a column may be called dialect; by then names it.
func TestRowsBehindByAColumnOfThatName(t *testing.T) {
	text := strings.Replace(switched, "    columns:\n",
		"    behind: {of: e, by: dialect}\n    group_by: line.e\n    columns:\n", 1)
	text = strings.Replace(text, "views:", "  e: {from: line, columns: [{id: dialect, is: line.e, type: text}, "+
		"{id: day, is: line.day, type: date}, {id: cents, is: line.c, type: money}]}\nviews:", 1)
	if _, faults := Parse([]byte(text), speaking("sqlite")); strings.Contains(faults.Error(), "speaks") {
		t.Error(faults)
	}
}
