package sourcetest

import (
	"path/filepath"
	"testing"

	"github.com/ncruces/go-sqlite3"
)

// SQLite makes the tables of the script in the file there.db of a directory. What comes back lacks
// only the source, which is opened on it.
func SQLite(t *testing.T) (dir string, made Made) {
	t.Helper()
	dir = t.TempDir()
	writer, err := sqlite3.Open(filepath.Join(dir, "there.db"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { writer.Close() })
	made = Made{
		Types: Types{Whole: "integer", Decimal: "numeric", Money: "numeric", Day: "text", Moment: "text",
			Flag: "boolean", LargeDecimal: "123456789012.678", LargeMoney: "999999999999.99"},
		Endless: "(with recursive n(i) as (select 1 union all select i + 1 from n) select count(*) from n) as slow",
		Exec: func(t *testing.T, text string) {
			t.Helper()
			if err := writer.Exec(text); err != nil {
				t.Fatal(err)
			}
		},
	}
	made.Exec(t, "pragma journal_mode = wal;"+Script(made.Types))
	return dir, made
}
