package source_test

import (
	"strings"
	"testing"

	"mantilla/source"
	_ "mantilla/source/sqlite" // a kind that declarations may name
)

const declared = `source: coop
title: Records
kind: sqlite
file: coop.db
lists:
  units: {from: unit, code: id, label: name, parent: parent_id}
  grades: {from: grade, code: code, label: label, find: [note]}
`

func TestParseConfig(t *testing.T) {
	c, err := source.ParseConfig([]byte(declared))
	if err != nil {
		t.Fatal(err)
	}
	if c.ID != "coop" || c.File != "coop.db" || c.Text != declared || c.Lists["units"].Parent != "parent_id" ||
		strings.Join(c.ListNames(), " ") != "grades units" {
		t.Errorf("read as %+v", c)
	}
}

func TestParseConfigRefuses(t *testing.T) {
	for _, c := range []struct{ from, to, says string }{
		{"source: coop\n", "", "lacks the key source"},
		{"kind: sqlite", "kind: telepathy", `"telepathy" is not a kind of source`},
		{"file: coop.db\n", "", "lacks the key file"},
		{"label: name, ", "", "list units: from, code and label are needed"},
		{"title: Records", "titel: Records", "titel"},
		{"lists:", "lists: 3 #", "reading the source's declaration"},
	} {
		text := strings.Replace(declared, c.from, c.to, 1)
		if got, err := source.ParseConfig([]byte(text)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%q: got %v, %v; want an error with %q", c.to, got, err, c.says)
		}
	}
}
