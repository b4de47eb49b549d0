package formula

import (
	"os"
	"strings"
	"testing"
)

// TestTheDocumentationHasEveryFunction holds docs/formulas.md against the
// functions, whose examples are computed above.
func TestTheDocumentationHasEveryFunction(t *testing.T) {
	text, err := os.ReadFile("../../docs/formulas.md")
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range Functions {
		line := "| `" + f.Usage + "` | " + f.Says + " | `" + f.Example + "` | `" + f.Gives + "` |\n"
		if !strings.Contains(string(text), line) {
			t.Errorf("docs/formulas.md lacks the line\n%s", line)
		}
	}
	for line := range strings.SplitSeq(grammar(t), "\n") {
		if !strings.Contains(string(text), line) {
			t.Errorf("docs/formulas.md lacks the line of the grammar\n%s", line)
		}
	}
}

// grammar is what the parser's own comment says that it reads.
func grammar(t *testing.T) string {
	t.Helper()
	source, err := os.ReadFile("../expr/expr.go")
	if err != nil {
		t.Fatal(err)
	}
	_, after, ok1 := strings.Cut(string(source), "// Parse reads the grammar\n//\n//\t")
	text, _, ok2 := strings.Cut(after, "\nfunc Parse")
	if !ok1 || !ok2 {
		t.Fatal("the grammar is not where it was")
	}
	return strings.ReplaceAll(text, "\n//\t", "\n")
}
