// Package core holds only this test: the packages below compute and know no
// screen, file, network or database.
package core

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
)

func TestCoreImportsNoInterface(t *testing.T) {
	forbidden := []string{"net", "net/http", "database/sql", "os", "github.com/gin-gonic/gin", "github.com/spf13/cobra"}
	seen := 0
	err := fs.WalkDir(os.DirFS("."), ".", func(path string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		seen++
		for _, i := range file.Imports {
			name, err := strconv.Unquote(i.Path.Value)
			if err != nil {
				return err
			}
			if slices.Contains(forbidden, name) || strings.HasPrefix(name, "mantilla/") && !strings.HasPrefix(name, "mantilla/core/") {
				t.Errorf("%s imports %s", path, name)
			}
		}
		return nil
	})
	if err != nil || seen < 15 {
		t.Fatalf("looked at %d files: %v", seen, err)
	}
}
