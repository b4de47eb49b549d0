package audit_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/audit"
)

// book is so many lines in a chain.
func book(n int) (lines []audit.Line) {
	before := ""
	for i := range n {
		l := audit.Line{Number: int64(i + 1), At: time.Date(2026, 10, 15, 8, 0, i, 0, time.UTC), Person: "lila",
			Face: "console", Act: "deleteResult", Kind: "result", ID: fmt.Sprint("R-", i), Outcome: "done",
			Salt: audit.NewSalt()}
		l.Digest = l.Sealed(before)
		before = l.Digest
		lines = append(lines, l)
	}
	return lines
}

func looked(lines []audit.Line) (c audit.Chain, err error) {
	for _, l := range lines {
		if err := c.Add(l); err != nil {
			return c, err
		}
	}
	return c, nil
}

// TestAWholeChain is found whole, from any line on.
func TestAWholeChain(t *testing.T) {
	lines := book(5)
	c, err := looked(lines)
	if err != nil || c.Lines != 5 || c.First != 1 || c.Last != 5 || c.Digest != lines[4].Digest {
		t.Errorf("it is %+v, %v", c, err)
	}
	later := audit.Chain{Digest: lines[1].Digest}
	for _, l := range lines[2:] {
		if err := later.Add(l); err != nil {
			t.Error(err)
		}
	}
}

// TestWhatIsFound is every kind of meddling, with the line where it shows.
func TestWhatIsFound(t *testing.T) {
	for name, c := range map[string]struct {
		meddle func(lines []audit.Line) []audit.Line
		at     int64
		says   string
	}{
		"taken out":   {func(l []audit.Line) []audit.Line { return slices.Delete(l, 2, 3) }, 3, "missing"},
		"another who": {func(l []audit.Line) []audit.Line { l[2].Person = "aron"; return l }, 3, "changed"},
		"another time": {func(l []audit.Line) []audit.Line { l[2].At = l[2].At.Add(time.Millisecond); return l }, 3,
			"changed"},
		"moved between fields": {func(l []audit.Line) []audit.Line { l[2].Kind, l[2].ID = "resultR", "-2"; return l }, 3,
			"changed"},
		"sealed anew": {func(l []audit.Line) []audit.Line {
			l[2].Person = "aron"
			l[2].Digest = l[2].Sealed(l[1].Digest)
			return l
		}, 4, "changed, or one before it"},
		"put in":      {func(l []audit.Line) []audit.Line { return slices.Insert(l, 2, l[1]) }, 2, "stands where another"},
		"the first":   {func(l []audit.Line) []audit.Line { return l[1:] }, 2, "changed, or one before it"},
		"in disorder": {func(l []audit.Line) []audit.Line { l[1], l[2] = l[2], l[1]; return l }, 2, "missing"},
	} {
		var broken *audit.Broken
		_, err := looked(c.meddle(book(5)))
		if !errors.As(err, &broken) || broken.Number != c.at || !strings.Contains(broken.Why, c.says) {
			t.Errorf("%s is found as %v", name, err)
		}
	}
}

// TestSomebodyIsTakenOut takes two people out of lines that name them, after which the chain is whole, says
// neither, and does not let itself be made to say anything else.
func TestSomebodyIsTakenOut(t *testing.T) {
	lines := book(4)
	before := lines[0].Digest
	for i, change := range []func(l *audit.Line){
		func(l *audit.Line) { l.Person, l.Address, l.After = "aron", "10.0.0.7", "shared with lila and runa" },
		func(l *audit.Line) { l.Kind, l.ID, l.Why = "person", "lila", "Lila Thornback leaves" },
		func(l *audit.Line) { l.After = "lilac is no name" },
	} {
		l := &lines[i+1]
		l.Person = "aron"
		change(l)
		l.Digest = l.Sealed(before)
		before = l.Digest
	}
	taken := func(name, title, alias string) (changed int) {
		for i, l := range lines {
			var did bool
			if lines[i], did = l.Without(name, title, alias); did {
				changed++
			}
		}
		return changed
	}
	if n := taken("lila", "Lila Thornback", "gone-00000001"); n != 3 {
		t.Errorf("lila is taken out of %d lines", n)
	}
	if n := taken("aron", "", "gone-00000002"); n != 3 {
		t.Errorf("aron is taken out of %d lines", n)
	}
	c, err := looked(lines)
	if err != nil || c.Lines != 4 || c.Erased != 4 {
		t.Errorf("it is %+v, %v", c, err)
	}
	if l := lines[1]; l.Person != "gone-00000002" || l.Address != audit.Out || l.After != audit.Out || l.Salt != "" ||
		lines[2].ID != "gone-00000001" || lines[2].Why != audit.Out || lines[3].After != "lilac is no name" {
		t.Errorf("they are %+v", lines)
	}
	for name, meddle := range map[string]func(l *audit.Line){
		"says something where": func(l *audit.Line) { l.Person = "dora" },
		"was changed":          func(l *audit.Line) { l.ID = "R-9" },
	} {
		wrong := slices.Clone(lines)
		meddle(&wrong[1])
		if _, err := looked(wrong); err == nil || !strings.Contains(err.Error(), name) {
			t.Errorf("want %q, got %v", name, err)
		}
	}
}

// TestCut keeps a line one line.
func TestCut(t *testing.T) {
	if got := audit.Cut("a\nforged\r\n\tline"); got != "a forged line" {
		t.Errorf("%q", got)
	}
	if got := audit.Cut(strings.Repeat("é", 400)); len([]rune(got)) != 300 {
		t.Errorf("it has %d characters", len([]rune(got)))
	}
}
