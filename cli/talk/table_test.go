package talk

import (
	"strings"
	"testing"

	"github.com/mattn/go-runewidth"
)

var wide = Table{
	Headings: []string{"Lot", "Keeper of the bees", "Weight, kg", "Note"},
	Right:    []bool{false, false, true, false},
	Rows: [][]string{
		{"L1", "Aréa Østmere of the Upper Fells", "1,234.500", "first"},
		{"L2", "蜂蜜", "−3.000", "two\nlines\x1b[31m"},
	},
	Totals: []string{"", "", "1,231.500", ""},
}

func draw(t *testing.T, width int) (lines []string, left []string) {
	t.Helper()
	var b strings.Builder
	left, err := wide.draw(&b, width)
	if err != nil {
		t.Fatal(err)
	}
	return strings.Split(strings.TrimSuffix(b.String(), "\n"), "\n"), left
}

func TestTableWithoutALimit(t *testing.T) {
	lines, left := draw(t, 0)
	want := []string{
		"Lot  Keeper of the bees               Weight, kg  Note",
		strings.Repeat("─", 66),
		"L1   Aréa Østmere of the Upper Fells   1,234.500  first",
		"L2   蜂蜜                                 −3.000  two lines [31m",
		strings.Repeat("─", 66),
		"                                       1,231.500",
	}
	if len(left) != 0 || len(lines) != len(want) {
		t.Fatalf("left out %q, drawn\n%s", left, strings.Join(lines, "\n"))
	}
	for i := range want {
		if strings.Trim(want[i], "─") == "" {
			if strings.Trim(lines[i], "─") != "" {
				t.Errorf("line %d is %q, want a rule", i, lines[i])
			}
		} else if lines[i] != want[i] {
			t.Errorf("line %d is\n%q, want\n%q", i, lines[i], want[i])
		}
	}
}

func TestTableFitsItsWidth(t *testing.T) {
	for _, c := range []struct {
		width int
		left  string
	}{{70, ""}, {60, ""}, {40, ""}, {35, ""}, {34, "Note"}, {30, "Note"}, {20, "Weight, kg Note"},
		{8, "Keeper of the bees Weight, kg Note"}, {2, "Keeper of the bees Weight, kg Note"}} {
		lines, left := draw(t, c.width)
		for _, line := range lines {
			if w := runewidth.StringWidth(line); w > c.width {
				t.Errorf("width %d: a line of %d: %q", c.width, w, line)
			}
		}
		if got := strings.Join(left, " "); got != c.left {
			t.Errorf("width %d: left out %q, want %q", c.width, got, c.left)
		}
	}
}

func TestFiguresAreNeverCut(t *testing.T) {
	for width := 36; width < 70; width++ {
		lines, _ := draw(t, width)
		if text := strings.Join(lines, "\n"); strings.Contains(text, "Weight, kg") && !strings.Contains(text, "1,234.500") {
			t.Errorf("width %d cuts a figure:\n%s", width, text)
		}
	}
}

func TestPairs(t *testing.T) {
	got, err := Pairs([]string{"a=1", "b=", "c=x=y"})
	if err != nil || got["a"] != "1" || got["b"] != "" || got["c"] != "x=y" {
		t.Errorf("got %v, %v", got, err)
	}
	for _, wrong := range [][]string{{"a"}, {"=1"}, {"a=1", "a=2"}} {
		if got, err := Pairs(wrong); err == nil {
			t.Errorf("%q was read as %v", wrong, got)
		}
	}
}
