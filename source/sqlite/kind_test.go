package sqlite

import (
	"path/filepath"
	"testing"

	"github.com/ncruces/go-sqlite3"

	"mantilla/source"
	"mantilla/source/sourcetest"
)

// TestAgreements holds the kind to what all kinds are held to.
func TestAgreements(t *testing.T) {
	types := sourcetest.Types{Whole: "integer", Decimal: "numeric", Money: "numeric", Day: "text", Moment: "text",
		Flag: "boolean", LargeDecimal: "123456789012.678", LargeMoney: "999999999999.99"}
	sourcetest.Run(t, func(t *testing.T) sourcetest.Made {
		path := filepath.Join(t.TempDir(), "there.db")
		writer, err := sqlite3.Open(path)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { writer.Close() })
		exec := func(t *testing.T, text string) {
			t.Helper()
			if err := writer.Exec(text); err != nil {
				t.Fatal(err)
			}
		}
		exec(t, "pragma journal_mode = wal;"+sourcetest.Script(types))
		s, err := Open(&source.Config{ID: "there", Kind: "sqlite", File: "there.db", Lists: sourcetest.Lists(),
			Units: "units"},
			path)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { s.Close() })
		return sourcetest.Made{Source: s, Types: types, Exec: exec,
			Endless: "(with recursive n(i) as (select 1 union all select i + 1 from n) select count(*) from n) as slow"}
	})
}
