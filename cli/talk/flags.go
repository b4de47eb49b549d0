package talk

import (
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/spf13/cobra"

	"mantilla/api"
)

// Deref is what an optional field holds, or its zero value.
func Deref[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

// Word is left out where it is empty.
func Word[T ~string](text string) *T {
	if text == "" {
		return nil
	}
	w := T(text)
	return &w
}

// LimitFlag is the one option for how much is listed.
func LimitFlag(cmd *cobra.Command, n *int, usual int, help string) {
	cmd.Flags().IntVar(n, "limit", usual, help)
}

// YAMLType is the media type of YAML (RFC 9512).
const YAMLType = "application/yaml"

// ReadText reads a file, - being standard input.
func ReadText(path string) (text []byte, err error) {
	if path == "-" {
		text, err = io.ReadAll(os.Stdin)
	} else {
		text, err = os.ReadFile(path)
	}
	if err != nil {
		return nil, Usage("%v", err)
	}
	return text, nil
}

// WriteWhole writes a file that appears under its name only when it is whole.
func WriteWhole(path string, from io.Reader) (bytes int64, err error) {
	part, err := os.CreateTemp(filepath.Dir(path), "."+filepath.Base(path)+".*")
	if errors.Is(err, fs.ErrNotExist) {
		return 0, Usage("there is no directory %s; make it, or name another file", filepath.Dir(path))
	}
	if err != nil {
		return 0, err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.Remove(part.Name()))
		}
	}()
	bytes, err = io.Copy(part, from)
	if err = errors.Join(err, part.Chmod(0o644), part.Close()); err != nil {
		return bytes, err
	}
	return bytes, os.Rename(part.Name(), path)
}

// Pairs reads NAME=VALUE arguments.
func Pairs(given []string) (api.Values, error) {
	values := api.Values{}
	for _, g := range given {
		name, value, ok := strings.Cut(g, "=")
		if !ok || name == "" {
			return nil, Usage("%q is not a value; write it as NAME=VALUE", g)
		}
		if _, twice := values[name]; twice {
			return nil, Usage("%s is given twice; several entries go in one value with ; between", name)
		}
		values[name] = value
	}
	return values, nil
}

// Some leaves a list out where it is empty.
func Some(list []string) *[]string {
	if len(list) == 0 {
		return nil
	}
	return &list
}

// Day reads the day of a flag; nil where there is none.
func Day(flag, text string) (*openapi.Date, error) {
	if text == "none" || text == "" {
		return nil, nil
	}
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return nil, Usage("--%s: %q is not a day; write it as 2027-01-15, or none", flag, text)
	}
	return &openapi.Date{Time: t}, nil
}
