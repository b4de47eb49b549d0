package demo

import (
	"context"
	"embed"
	"fmt"
	"io/fs"

	"mantilla/library"
)

//go:embed catalog
var catalog embed.FS

// LoadCatalog takes the demo's source and reports into the library.
func LoadCatalog(ctx context.Context, l *library.Library) error {
	for _, kind := range []struct {
		pattern string
		put     func(text []byte) error
	}{
		{"catalog/sources/*.yaml", func(text []byte) error { return l.PutSource(ctx, text) }},
		{"catalog/reports/*.yaml", func(text []byte) error { _, err := l.PutReport(ctx, text, "*"); return err }},
	} {
		paths, err := fs.Glob(catalog, kind.pattern)
		if err != nil {
			return err
		}
		for _, path := range paths {
			text, err := catalog.ReadFile(path)
			if err == nil {
				err = kind.put(text)
			}
			if err != nil {
				return fmt.Errorf("%s: %w", path, err)
			}
		}
	}
	return nil
}
