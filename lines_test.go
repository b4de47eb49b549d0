package mantilla

import (
	"bufio"
	"io/fs"
	"os"
	"strings"
	"testing"
	"unicode/utf8"
)

// TestLinesAreShort holds lines to 120 characters, tabs counting as one.
func TestLinesAreShort(t *testing.T) {
	seen := 0
	err := fs.WalkDir(os.DirFS("."), ".", func(file string, d fs.DirEntry, err error) error {
		if err == nil && d.IsDir() &&
			(d.Name() == "node_modules" || d.Name() == "dist" || strings.HasPrefix(d.Name(), ".") && file != ".") {
			return fs.SkipDir
		}
		ours := strings.HasSuffix(file, ".go") && !strings.HasSuffix(file, ".gen.go")
		if err != nil || !ours {
			return err
		}
		f, err := os.Open(file)
		if err != nil {
			return err
		}
		defer f.Close()
		lines := bufio.NewScanner(f)
		for n := 1; lines.Scan(); n++ {
			if long := utf8.RuneCount(lines.Bytes()); long > 120 {
				t.Errorf("%s:%d: %d characters", file, n, long)
			}
			seen++
		}
		return lines.Err()
	})
	if err != nil || seen < 20_000 {
		t.Errorf("%d lines were looked at: %v", seen, err)
	}
}
