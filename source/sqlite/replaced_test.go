package sqlite

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/ncruces/go-sqlite3"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/source"
)

// database writes a file with a table of so many rows.
func database(t *testing.T, path string, statements ...string) {
	t.Helper()
	c, err := sqlite3.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	for _, s := range statements {
		if err := c.Exec(s); err != nil {
			t.Fatal(s, err)
		}
	}
}

// asked reads one column of a query and the fingerprint of what was read.
func asked(ctx context.Context, f *File, kind frame.Kind, text string, values ...part) (cells []string,
	fingerprint string, err error) {
	set := &report.Dataset{ID: "d", Columns: []report.Column{{ID: "x", Kind: kind, Is: report.Piece{SQL: "x"}}}}
	var parts []part
	for i, sql := range strings.Split(text, "?") {
		if i > 0 {
			parts = append(parts, values[i-1])
		}
		parts = append(parts, part{SQL: sql})
	}
	s, err := f.Begin(ctx)
	if err != nil {
		return nil, "", err
	}
	defer s.Close()
	rows := source.NewSink(set.Schema(), 1<<16, func(r arrow.RecordBatch) error {
		f, err := frame.New(set.Schema(), r)
		if err != nil {
			return err
		}
		b, err := f.Batch(ctx, 0, nil)
		for i := range f.Rows() {
			cells = append(cells, b.Value(0, i).String())
		}
		return err
	}, unhurried)
	if err := s.(*session).pour(ctx, stated(set, parts...), rows); err != nil {
		return nil, "", err
	}
	return cells, s.Fingerprint(), rows.Close()
}

func TestAReplacedFileIsReadAnew(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "data.db")
	many := func(n int) string {
		return fmt.Sprintf("create table t as with recursive n(x) as (select 1 union all select x+1 from n where x < %d) "+
			"select x from n", n)
	}
	database(t, path, many(180))
	f, err := Open(&source.Config{ID: "s", File: "data.db"}, path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	seen := map[string]int{}
	for n := 180; n > 170; n-- {
		other := filepath.Join(dir, "new.db")
		database(t, other, many(n))
		if err := os.Rename(other, path); err != nil {
			t.Fatal(err)
		}
		for range 3 {
			cells, fingerprint, err := asked(t.Context(), f, frame.Integer, "select x from t")
			if err != nil || len(cells) != n {
				t.Fatalf("%d rows where %d stand, %v", len(cells), n, err)
			}
			seen[fingerprint] = n
		}
	}
	if len(seen) != 10 {
		t.Errorf("ten states have %d fingerprints", len(seen))
	}
}

func TestQueriesEndAtTheirLimits(t *testing.T) {
	path := filepath.Join(t.TempDir(), "data.db")
	database(t, path, "create table t as select 1 as x")
	f, err := Open(&source.Config{ID: "s", File: "data.db"}, path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	for _, sql := range []string{
		"select length(randomblob(1000000000)) as x",
		"select length(replace(hex(zeroblob(4000000)), '0', '0123456789')) as x",
		"with recursive n(x) as (select 1 union all select x+1 from n where x < 100000) select " +
			"length(group_concat(hex(randomblob(5000)))) as x from n",
	} {
		if _, _, err := asked(t.Context(), f, frame.Integer, sql); err == nil || !strings.Contains(err.Error(), "memory") {
			t.Errorf("%.60s: %v", sql, err)
		}
	}
	ctx, stop := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer stop()
	begun := time.Now()
	_, _, err = asked(ctx, f, frame.Integer, "with recursive n(x) as (select 1 union all select x+1 from n) select "+
		"max(x) as x from n")
	if err == nil || time.Since(begun) > 10*time.Second {
		t.Errorf("a query without end: %v after %s", err, time.Since(begun))
	}
	if cells, _, err := asked(t.Context(), f, frame.Integer, "select x from t"); err != nil || len(cells) != 1 {
		t.Errorf("afterwards: %v, %v", cells, err)
	}
}

// The same moments in every spelling that programs write give the same rows.
func TestMomentsAndDaysAreWhatTheyAreHoweverSpelled(t *testing.T) {
	path := filepath.Join(t.TempDir(), "data.db")
	database(t, path, "create table m (x)", "create table d (x)")
	f, err := Open(&source.Config{ID: "s", File: "data.db"}, path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	at := time.Date(2026, 9, 30, 14, 5, 0, 0, time.UTC)
	spellings := []string{"'2026-09-30T14:05:00Z'", "'2026-09-30 14:05:00'", "'2026-09-30T14:05:00.000Z'",
		"'2026-09-30 14:05:00.000000'", "'2026-09-30T14:05'",
		"'2026-09-30T16:05:00+02:00'", "'2026-09-30 16:05:00+0200'", fmt.Sprint(at.Unix()), fmt.Sprint(at.UnixMilli()),
		fmt.Sprint(at.UnixMicro()), fmt.Sprintf("%d.0", at.Unix())}
	spellings[6] = "'2026-09-30T16:05:00+0200'"
	for _, s := range spellings {
		database(t, path, "insert into m values ("+s+")")
	}
	within := "select x from m where moment(x, 'm.x') >= moment(?, 'm.x') and moment(x, 'm.x') < moment(?, 'm.x')"
	for _, c := range []struct {
		from, to time.Time
		want     int
	}{{at, at.Add(time.Second), len(spellings)}, {at.Add(time.Second), at.Add(time.Hour), 0}, {at.Add(-time.Hour), at, 0},
		{at.Truncate(24 * time.Hour), at.Truncate(24 * time.Hour).Add(24 * time.Hour), len(spellings)}} {
		cells, _, err := asked(t.Context(), f, frame.Timestamp, within, part{Name: "r", Value: c.from},
			part{Name: "r", Value: c.to})
		if err != nil || len(cells) != c.want {
			t.Errorf("from %s to %s: %d of %d, %v", c.from, c.to, len(cells), c.want, err)
		}
		for _, cell := range cells {
			if cell != "2026-09-30T14:05:00Z" {
				t.Errorf("read as %s", cell)
			}
		}
	}
	for _, s := range []string{"'2026-09-30'", "'2026-09-30 00:00:00'", "'2026-09-30T00:00:00.000Z'"} {
		database(t, path, "insert into d values ("+s+")")
	}
	day := period.Date(2026, 9, 30)
	days := "select x from d where day(x, 'd.x') >= day(?, 'd.x') and day(x, 'd.x') <= day(?, 'd.x')"
	if cells, _, err := asked(t.Context(), f, frame.Date, days, part{Name: "r", Value: day},
		part{Name: "r", Value: day}); err != nil || len(cells) != 3 {
		t.Errorf("%v, %v", cells, err)
	}
	for _, c := range []struct {
		kind   frame.Kind
		value  string
		filter string
	}{{frame.Date, "'30.09.2026'", days}, {frame.Date, "20260930", days}, {frame.Date, "'2026-09-30 14:05:00'", days},
		{frame.Timestamp, "'soon'", within}, {frame.Timestamp, "1.0e+20", within}} {
		table := map[frame.Kind]string{frame.Date: "d", frame.Timestamp: "m"}[c.kind]
		database(t, path, "insert into "+table+" values ("+c.value+")")
		for _, sql := range []string{"select x from " + table, c.filter} {
			parts := []part{{Name: "r", Value: day}, {Name: "r", Value: day}}
			if c.kind == frame.Timestamp {
				parts = []part{{Name: "r", Value: at}, {Name: "r", Value: at}}
			}
			_, _, err := asked(t.Context(), f, c.kind, sql, parts...)
			if err == nil || !strings.Contains(err.Error(), strings.Trim(c.value, "'")[:4]) ||
				!strings.Contains(err.Error(), "x") {
				t.Errorf("%s with %s: %v", sql, c.value, err)
			}
		}
		database(t, path, "delete from "+table+" where x = "+c.value)
	}
}
