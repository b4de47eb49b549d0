package sqlite

import (
	"path/filepath"
	"testing"

	"mantilla/source"
	"mantilla/source/sourcetest"
)

// TestAgreements holds the kind to what all kinds are held to.
func TestAgreements(t *testing.T) {
	sourcetest.Run(t, func(t *testing.T) sourcetest.Made {
		dir, made := sourcetest.SQLite(t)
		s, err := Open(&source.Config{ID: "there", Kind: "sqlite", File: "there.db", Lists: sourcetest.Lists(),
			Units: "units"}, filepath.Join(dir, "there.db"))
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { s.Close() })
		made.Source = s
		return made
	})
}
