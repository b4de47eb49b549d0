package engine_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// TestEveryLetterIsOrderedAsPeopleDo orders and searches words of every letter of the Latin, Greek
// and Cyrillic alphabets where they lie, and words of ASCII alone.
func TestEveryLetterIsOrderedAsPeopleDo(t *testing.T) {
	var rows []string
	for r := rune(' '); r <= 0x20BF; r++ {
		if fold.Text(string(r)) == "" || r >= 0x7F && r < 0xA0 || r >= 0x0483 && r <= 0x0489 || r >= 0x0530 && r < 0x2010 ||
			r >= 0x2028 && r < 0x2030 ||
			r >= 0x205F && r < 0x20A0 {
			continue
		}
		word := strings.ReplaceAll(fmt.Sprintf("x%ca%c", r, r), "'", "''")
		plain := fmt.Sprintf("%c%d", 'A'+r%26+r/7%2*32, r%10)
		rows = append(rows, fmt.Sprintf("(%d, '%s', '%s')", r, word, plain))
	}
	s := opened(t, "letters", "create table made (no bigint, region text, name text); insert into made values "+
		strings.Join(rows, ",")+";")
	here, there, stay := both(t, s, `report: made
title: Made
category: Made
depth: lines
about: Made rows.
source: there
datasets:
  made:
    from: made
    key: no
    columns:
      - {id: no, is: no, type: integer}
      - {id: region, is: region, type: text}
      - {id: name, is: name, type: text}
views: {made: {of: made}}
`)
	if stay.Columns[1].Letters != "foldable" || stay.Columns[2].Letters != "ascii" {
		t.Fatalf("the columns are of letters %+v", stay.Columns)
	}
	for _, key := range []frame.Key{{Column: "region"}, {Column: "region", Descending: true}, {Column: "name"}} {
		o := table.Order{Keys: []frame.Key{key}}
		_, a, err1 := here.Page(t.Context(), o, 0, 5000, []int{0})
		_, b, err2 := there.Page(t.Context(), o, 0, 5000, []int{0})
		if err1 != nil || err2 != nil || !slices.Equal(a, b) {
			t.Errorf("%+v: %v, %v; the orders differ", key, err1, err2)
		}
	}
	for _, c := range []table.Condition{
		{Column: "region", Test: table.Contains, Texts: []string{"É"}},
		{Column: "region", Test: table.Contains, Texts: []string{"ss"}},
		{Column: "region", Test: table.AtLeast, Texts: []string{"XÖ"}},
		{Column: "region", Test: table.AtMost, Texts: []string{"xжa"}},
		{Column: "name", Test: table.AtMost, Texts: []string{"M5"}},
	} {
		w := table.Where{Conditions: []table.Condition{c}}
		a, err1 := here.Count(t.Context(), w)
		b, err2 := there.Count(t.Context(), w)
		if err1 != nil || err2 != nil || a != b || a == 0 {
			t.Errorf("%+v: %d here, %d there (%v, %v)", c, a, b, err1, err2)
		}
	}
}
