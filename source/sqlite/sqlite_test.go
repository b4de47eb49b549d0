package sqlite

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/ncruces/go-sqlite3"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/cells"
)

const tables = `
create table unit (id text, parent text, name text, kind text);
insert into unit values ('C', null, 'Whole', 'top'), ('A', 'C', 'Lórrin', 'district'), ('B', 'C', 'Marr', 'district'),
('A1', 'A', 'Mill', 'site'), ('A2', 'A', 'Ford', 'site'), ('B1', 'B', 'Mill', 'site');
create table lot (no text, site text, day text, at, grams integer, price, ok integer);
insert into lot values ('L1', 'A1', '2026-09-01', '2026-09-01T10:00:00+02:00', 12500, 9.5, 1), ('L2', 'B1',
'2026-09-30', 1790000000, -3, '12.25', 0), ('L3', 'A2', '2026-10-01', null, null, 3, null);
`

// open makes a file with the tables above and opens it as a source.
func open(t *testing.T) (*File, string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "with space & mark?.db")
	c, err := sqlite3.Open(path)
	if err == nil {
		err = errors.Join(c.Exec(tables), c.Close())
	}
	if err != nil {
		t.Fatal(err)
	}
	return openAt(t, path), path
}

func openAt(t *testing.T, path string) *File {
	t.Helper()
	f, err := Open(&source.Config{ID: "coop", Lists: map[string]source.List{
		"units": {From: "unit", Code: "id", Label: "name", Kind: "kind", Parent: "parent"},
		"lots":  {From: "lot", Code: "no", Label: "no", Find: []string{"site"}, Current: "ok", Order: "-grams"},
	}}, path)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := f.Close(); err != nil {
			t.Error(err)
		}
	})
	return f
}

var lotColumns = []report.Column{
	{ID: "no", Kind: frame.Text}, {ID: "day", Kind: frame.Date}, {ID: "at", Kind: frame.Timestamp},
	{ID: "kg", Kind: frame.Decimal, Scale: 3}, {ID: "price", Kind: frame.Money, Scale: 2, Stored: "decimal"},
	{ID: "ok", Kind: frame.Flag},
}

// part is a piece of SQL, or a value that is bound in its place.
type part struct {
	SQL, Name string
	Value     any
}

// unhurried is told how far a reading is and lets it go on.
func unhurried(int64) error { return nil }

// stated is a statement in so many parts.
func stated(d *report.Dataset, parts ...part) source.Statement {
	s := source.Statement{Dataset: d}
	for _, p := range parts {
		if p.Name == "" {
			s.Text += p.SQL
		} else {
			s.Text += dialect{}.Bind(&s.Args, p.Value)
		}
	}
	return s
}

// lots is the query of all columns with an end of its own.
func lots(end ...part) source.Statement {
	d := &report.Dataset{ID: "lots", Columns: lotColumns}
	return stated(d, append([]part{{SQL: "select no, day, at, grams, price, ok from lot "}}, end...)...)
}

// read runs a query and returns its rows as text.
func read(t *testing.T, f *File, q source.Statement) ([]string, error) {
	t.Helper()
	ctx := context.Background()
	s, err := f.Begin(ctx)
	if err != nil {
		return nil, err
	}
	defer s.Close()
	var out []string
	b := source.NewSink(q.Dataset.Schema(), 2, func(r arrow.RecordBatch) error {
		f, err := frame.New(q.Dataset.Schema(), r)
		if err != nil {
			return err
		}
		batch, err := f.Batch(ctx, 0, nil)
		if err != nil {
			return err
		}
		for row := range batch.Rows {
			var cells []string
			for col := range q.Dataset.Columns {
				cells = append(cells, batch.Value(col, row).String())
			}
			out = append(out, strings.Join(cells, "|"))
		}
		return nil
	}, unhurried)
	if err := s.(*session).pour(ctx, q, b); err != nil {
		return nil, err
	}
	return out, b.Close()
}

func TestReadEveryKind(t *testing.T) {
	f, _ := open(t)
	got, err := read(t, f, lots())
	want := []string{"L1|2026-09-01|2026-09-01T08:00:00Z|12.500|9.50|yes",
		"L2|2026-09-30|2026-09-21T14:13:20Z|-0.003|12.25|no", "L3|2026-10-01|||3.00|"}
	if err != nil || !slices.Equal(got, want) {
		t.Errorf("got %q, %v; want %q", got, err, want)
	}
}

func TestReadBindsValues(t *testing.T) {
	f, _ := open(t)
	cases := []struct {
		name  string
		where part
		value any
		want  int
	}{
		{"text", part{SQL: "where no = "}, "L1", 1},
		{"text that would end a quoted one", part{SQL: "where no = "}, "' or 1 = 1 --", 0},
		{"list", part{SQL: "where no in "}, []string{"L1", "L3", "' or 1"}, 2},
		{"empty list", part{SQL: "where no in "}, []string{}, 0},
		{"long list", part{SQL: "where no in "}, slices.Repeat([]string{"L2"}, 100_000), 1},
		{"day", part{SQL: "where day >= "}, period.Date(2026, 9, 30), 2},
		{"whole number", part{SQL: "where grams = "}, frame.Exact(12500, 0), 1},
		{"number with places", part{SQL: "where grams / 1000.0 = "}, frame.Exact(125, 1), 1},
		{"flag", part{SQL: "where ok = "}, true, 1},
		{"nothing", part{SQL: "where ok is "}, nil, 1},
	}
	for _, c := range cases {
		got, err := read(t, f, lots(c.where, part{Name: "p", Value: c.value}))
		if err != nil || len(got) != c.want {
			t.Errorf("%s: got %q, %v; want %d rows", c.name, got, err, c.want)
		}
	}
}

func TestReadNamesTheCellThatDoesNotFit(t *testing.T) {
	f, _ := open(t)
	d := &report.Dataset{ID: "lots", Columns: []report.Column{{ID: "x", Kind: frame.Date}}}
	for sql, says := range map[string]string{
		"select '2026-02-30'":                               "2026-02-30",
		"select '2026-09-01' union all select '30.09.2026'": "row 2, column x",
		"select 5":            `"5" is not a day`,
		"select '2026-00-10'": "not a day",
		"select no from lot where no = 'L1' or abs(0) = 'x'": "dataset lots",
	} {
		if got, err := read(t, f, stated(d, part{SQL: sql})); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: got %q, %v; want an error with %q", sql, got, err, says)
		}
	}
	d.Columns[0] = report.Column{ID: "x", Kind: frame.Decimal, Scale: 2}
	if _, err := read(t, f, stated(d, part{SQL: "select 1.5"})); err == nil ||
		!strings.Contains(err.Error(), "stored: decimal") {
		t.Errorf("a real where a whole count was declared: %v", err)
	}
	d.Columns[0].Stored = "decimal"
	if _, err := read(t, f, stated(d, part{SQL: "select 1.005"})); err == nil ||
		!strings.Contains(err.Error(), "more than 2 decimal places") {
		t.Errorf("a real with too many places: %v", err)
	}
	d.Columns[0].Kind = frame.Money // rounds half away from zero, from texts and from reals
	for typed, want := range map[string]string{"'-1.005'": "-1.01", "'1.005'": "1.01", "-1.005": "-1.01", "2.675": "2.68",
		"0.1 + 0.2": "0.30", "'1.0049999999999999999'": "1.00"} {
		if got, err := read(t, f, stated(d, part{SQL: "select " + typed})); err != nil || strings.Join(got, " ") != want {
			t.Errorf("%s is read as %q, %v; want %s", typed, got, err, want)
		}
	}
}

// TestHostileDefinition tries to write, to reach other files and to loosen the
// connection, through every piece of SQL that a definition has.
func TestHostileDefinition(t *testing.T) {
	f, path := open(t)
	dir := filepath.Dir(path)
	before, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	other := filepath.Join(dir, "other.db")
	for _, sql := range []string{
		"delete from lot", "update lot set grams = 0", "insert into lot (no) values ('X')", "drop table lot",
		"create table x (a)",
		"create temp table x (a)", "create temp trigger x after insert on lot begin select 1; end",
		"alter table lot rename to x", "reindex", "analyze", "vacuum",
		"vacuum into '" + other + "'", "attach '" + other + "' as o", "attach '" + path + "' as o", "pragma query_only = 0",
		"pragma query_only(0)", "pragma journal_mode = wal",
		"pragma writable_schema = 1", "pragma user_version = 7", "select load_extension('x')",
		"select * from pragma_user_version; delete from lot", "begin immediate", "commit",
		"select 1; delete from lot", "select 1; attach '" + other + "' as o", "with x as (select 1) delete from lot",
		"replace into lot (no) values ('L1')", "delete from lot returning no",
	} {
		d := &report.Dataset{ID: "x", Columns: []report.Column{{ID: "a", Kind: frame.Text}}}
		q := stated(d, part{SQL: sql})
		if err := f.prepare(context.Background(), q); err == nil {
			t.Errorf("prepared: %s", sql)
		}
		if _, err := read(t, f, q); err == nil {
			t.Errorf("ran: %s", sql)
		}
	}
	after, err := os.ReadFile(path)
	if err != nil || !bytes.Equal(before, after) {
		t.Errorf("the file was changed (%v)", err)
	}
	files, err := os.ReadDir(dir)
	if err != nil || len(files) != 1 {
		t.Errorf("files were made: %v, %v", files, err)
	}
	if got, err := read(t, f, lots()); err != nil || len(got) != 3 {
		t.Errorf("afterwards: %q, %v", got, err)
	}
}

func TestStopInterruptsTheQuery(t *testing.T) {
	f, _ := open(t)
	stopped := errors.New("stopped for the test")
	ctx, cancel := context.WithCancelCause(context.Background())
	d := &report.Dataset{ID: "long", Columns: []report.Column{{ID: "n", Kind: frame.Integer}}}
	// Not one row comes out, so only an interrupt can end it.
	q := stated(d, part{SQL: "with recursive n(i) as (select 1 union all select i + 1 from n) " +
		"select i from n where i < 0"})
	s, err := f.Begin(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	time.AfterFunc(50*time.Millisecond, func() { cancel(stopped) })
	begun := time.Now()
	err = s.(*session).pour(ctx, q, source.NewSink(d.Schema(), 10, nil, unhurried))
	if !errors.Is(err, stopped) || time.Since(begun) > 5*time.Second {
		t.Errorf("after %v: %v", time.Since(begun), err)
	}
}

func TestTickEndsTheReading(t *testing.T) {
	f, _ := open(t)
	full := errors.New("enough")
	d := &report.Dataset{ID: "long", Columns: []report.Column{{ID: "n", Kind: frame.Integer}}}
	q := stated(d, part{SQL: "with recursive n(i) as (select 1 union all select i + 1 from n) select i from n"})
	s, err := f.Begin(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	b := source.NewSink(d.Schema(), 1000, func(arrow.RecordBatch) error { return nil }, func(rows int64) error {
		if rows > 5000 {
			return full
		}
		return nil
	})
	err = s.(*session).pour(context.Background(), q, b)
	if !errors.Is(err, full) || b.Count() > 5000+2*tickRows {
		t.Errorf("after %d rows: %v", b.Count(), err)
	}
}

func TestSessionSeesOneState(t *testing.T) {
	f, path := open(t)
	writer, err := sqlite3.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer writer.Close()
	if err := writer.Exec("pragma journal_mode = wal"); err != nil {
		t.Fatal(err)
	}
	s, err := f.Begin(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	count := func() (rows int64) {
		b := source.NewSink(lots().Dataset.Schema(), 100, func(arrow.RecordBatch) error { return nil }, unhurried)
		if err := s.(*session).pour(context.Background(), lots(), b); err != nil {
			t.Fatal(err)
		}
		return b.Count()
	}
	first := count()
	if err := writer.Exec("delete from lot"); err != nil {
		t.Fatal(err)
	}
	if second := count(); first != 3 || second != 3 {
		t.Errorf("read %d rows, then %d", first, second)
	}
}

func TestMissingLockedAndBrokenSources(t *testing.T) {
	missing := openAt(t, filepath.Join(t.TempDir(), "none.db"))
	if _, err := read(t, missing, lots()); !errors.Is(err, source.ErrMissing) ||
		!strings.Contains(err.Error(), "none.db") {
		t.Errorf("missing: %v", err)
	}
	if _, err := missing.Fingerprint(context.Background()); !errors.Is(err, source.ErrMissing) {
		t.Errorf("missing: %v", err)
	}
	f, path := open(t)
	writer, err := sqlite3.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer writer.Close()
	if err := writer.Exec("begin exclusive"); err != nil {
		t.Fatal(err)
	}
	if _, err := read(t, f, lots()); !errors.Is(err, source.ErrLocked) {
		t.Errorf("locked: %v", err)
	}
	if err := writer.Exec("rollback"); err != nil {
		t.Fatal(err)
	}
	if _, err := read(t, f, lots()); err != nil {
		t.Errorf("once it is free again: %v", err)
	}
	text := filepath.Join(t.TempDir(), "text.db")
	if err := os.WriteFile(text, []byte(strings.Repeat("no database ", 100)), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := read(t, openAt(t, text), lots()); err == nil ||
		!strings.Contains(err.Error(), "cannot be read as a SQLite database") {
		t.Errorf("a text file: %v", err)
	}
}

func TestFingerprintFollowsTheSource(t *testing.T) {
	f, path := open(t)
	seen := map[string]bool{}
	for i := range 3 {
		print, err := f.Fingerprint(context.Background())
		again, _ := f.Fingerprint(context.Background())
		if err != nil || seen[print] || print != again {
			t.Fatalf("state %d: %s, then %s, %v", i, print, again, err)
		}
		seen[print] = true
		c, err := sqlite3.Open(path)
		if err == nil {
			err = errors.Join(c.Exec("insert into lot (no) values ('new')"), c.Close())
		}
		if err != nil {
			t.Fatal(err)
		}
	}
}

func TestList(t *testing.T) {
	f, _ := open(t)
	got, err := f.List(t.Context(), "units")
	if err != nil || len(got) != 6 || got[1].Code != "A" || got[1].Parent != "C" || !got[1].Current {
		t.Errorf("read as %+v, %v", got, err)
	}
	if _, err := f.List(t.Context(), "unit"); err == nil || !strings.Contains(err.Error(), "it has lots and units") {
		t.Errorf("an unknown list: %v", err)
	}
}

func TestReadDayAgreesWithTheCalendar(t *testing.T) {
	for d := period.Date(1899, 12, 1); d < period.Date(2101, 1, 1); d++ {
		if got, err := cells.Day([]byte(d.String())); err != nil || got != int64(d) {
			t.Fatalf("%s: got %d, %v; want %d", d, got, err, d)
		}
	}
}
