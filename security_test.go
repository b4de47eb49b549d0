package mantilla

import (
	"io/fs"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
)

var (
	named    = regexp.MustCompile("`(Test[A-Za-z]+)`")
	declared = regexp.MustCompile(`(?m)^func (Test[A-Za-z]+)\(`)
)

// TestWhatSecurityNames is there: every test that docs/security.md shows a line by.
func TestWhatSecurityNames(t *testing.T) {
	text, err := os.ReadFile("docs/security.md")
	if err != nil {
		t.Fatal(err)
	}
	var tests []string
	err = fs.WalkDir(os.DirFS("."), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == "node_modules" || d.Name() == "bin") {
			if err == nil {
				err = fs.SkipDir
			}
			return err
		}
		if !strings.HasSuffix(path, "_test.go") {
			return nil
		}
		code, err := os.ReadFile(path)
		for _, m := range declared.FindAllStringSubmatch(string(code), -1) {
			tests = append(tests, m[1])
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	shown := named.FindAllStringSubmatch(string(text), -1)
	if len(shown) < 10 {
		t.Errorf("only %d tests are named", len(shown))
	}
	for _, m := range shown {
		if !slices.Contains(tests, m[1]) {
			t.Errorf("docs/security.md names %s, which there is not", m[1])
		}
	}
}
