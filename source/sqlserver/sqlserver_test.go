package sqlserver

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	mssql "github.com/microsoft/go-mssqldb"

	"mantilla/source"
	"mantilla/source/sourcetest"
)

func config() *source.Config {
	return &source.Config{ID: "there", Kind: "sqlserver", Units: "units", Lists: sourcetest.Lists(),
		Server: &source.Server{Host: "db.example.org", Database: "shop", User: "reports", TLS: "off"}}
}

// answered is a source whose engine gives simulated answers, beside those of an account that may
// only read.
func answered(t *testing.T, c *source.Config, answers ...sourcetest.Answer) (source.Source, *sourcetest.Engine) {
	t.Helper()
	e := &sourcetest.Engine{Answers: append(answers, sourcetest.Answer{To: "fn_my_permissions", Columns: []string{""}})}
	s, err := over(c, e.Open())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s, e
}

// TestStatements are written with the values bound.
func TestStatements(t *testing.T) {
	s, _ := answered(t, config())
	for _, c := range []struct {
		facts      map[string]string
		says, args string
	}{
		{nil, "select lot.no as [no], unit.name as [site],", "[]"},
		{map[string]string{"came": "2026-09-01/2026-09-30"},
			"lot.came between cast(@p1 as date) and cast(@p2 as date)", "[2026-09-01 2026-09-30]"},
		{map[string]string{"month": "2026-09"},
			"cast(lot.came as date) >= cast(cast(@p1 as date) as date) and cast(lot.came as date) <= ",
			"[2026-09-01 2026-09-30]"},
		{map[string]string{"arrived": "2026-09-01T05:30:00.123456Z/2026-09-01T05:30:01Z"},
			"cast(lot.at_moment as datetimeoffset(6)) >= cast(cast(@p1 as datetimeoffset(6)) as datetimeoffset(6))",
			"[2026-09-01T05:30:00.123456Z 2026-09-01T05:30:01Z]"},
		{map[string]string{"grade": "A; B"}, "lot.grade in (@p1, @p2)", "[A B]"},
		{map[string]string{"one": "' or 1=1 --"}, "lot.grade = @p1", "[' or 1=1 --]"},
		{map[string]string{"least": "-4"}, "lot.jars >= @p1 * 2", "[-4]"},
		{map[string]string{"heavy": "0.6"}, "lot.net >= cast(@p1 as decimal(38, 3)) * 2", "[0.600]"},
		{map[string]string{"checked": "no"}, "lot.checked = @p1", "[false]"},
		{map[string]string{"first": "2"}, "order by lot.no desc\noffset 0 rows fetch next @p1 rows only", "[2]"},
	} {
		of := source.Write(sourcetest.Lots(t, s, c.facts), s.Dialect())
		if !strings.Contains(of.Text, c.says) || fmt.Sprint(of.Args) != c.args {
			t.Errorf("%v is written\n%s\nwith %v", c.facts, of.Text, of.Args)
		}
	}
	many := source.Write(sourcetest.Lots(t, s, map[string]string{"site": strings.Repeat("X; ", 1500) + "N1"}), s.Dialect())
	if text := fmt.Sprint(many.Args); !strings.Contains(many.Text, "in (select code from openjson(@p1)") ||
		!strings.HasPrefix(text, `[["X","X"`) {
		t.Errorf("a long list is written\n%s\nwith %.60s", many.Text, text)
	}
}

// TestCells are read from what the driver gives for each type.
func TestCells(t *testing.T) {
	paris := time.FixedZone("", 2*3600)
	s, e := answered(t, config(), sourcetest.Answer{To: "from lot join unit",
		Columns: strings.Fields("no site grade came at net paid jars checked note"),
		Types:   strings.Fields("BIGINT NVARCHAR VARCHAR DATE DATETIME2 DECIMAL MONEY BIGINT BIT NVARCHAR"),
		Rows: [][]driver.Value{
			{int64(1), "Ford, Nöt", "A", time.Date(2026, 9, 1, 0, 0, 0, 0, time.UTC),
				time.Date(2026, 9, 1, 5, 30, 0, 123456000, time.UTC), []byte("1.250"), []byte("10.5000"), int64(3), true, "🐝"},
			{int64(2), "Ford, Nöt", "B", time.Date(1899, 12, 31, 0, 0, 0, 0, time.UTC),
				time.Date(2026, 10, 25, 2, 30, 0, 0, paris), []byte("-123456789012345.678"), []byte("9999999999999999.99"),
				int64(9223372036854775807), false, ""},
			{int64(3), "South", nil, nil, nil, float64(0.00125e3), nil, nil, nil, nil},
		}})
	rows, err := sourcetest.Read(t, s, sourcetest.Lots(t, s, nil))
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{
		"1|Ford, Nöt|A|2026-09-01|2026-09-01T05:30:00.123456Z|1.250|10.50|3|yes|🐝",
		"2|Ford, Nöt|B|1899-12-31|2026-10-25T00:30:00Z|-123456789012345.678|9999999999999999.99|9223372036854775807|no|",
		"3|South|∅|∅|∅|1.250|∅|∅|∅|∅",
	} {
		if rows[i] != want {
			t.Errorf("it is read as\n%s, want\n%s", rows[i], want)
		}
	}
	if levels, _ := e.Transactions(); !slices.Equal(levels, []sql.IsolationLevel{sql.LevelSnapshot}) {
		t.Errorf("the transactions are %v", levels)
	}
}

// TestWhatTheServerSays is told in words that say what to do.
func TestWhatTheServerSays(t *testing.T) {
	for _, c := range []struct {
		answer sourcetest.Answer
		says   string
	}{
		{sourcetest.Answer{To: "from lot", Err: mssql.Error{Number: 207, Message: "Invalid column name 'notes'."}},
			"source there: Invalid column name 'notes'."},
		{sourcetest.Answer{To: "from lot", Err: mssql.Error{Number: 3952}},
			"alter database [shop] set allow_snapshot_isolation on"},
		{sourcetest.Answer{To: "from lot", Err: mssql.Error{Number: 229, Message: "The INSERT permission was denied"}},
			"may only be read: The INSERT permission was denied"},
		{sourcetest.Answer{To: "fn_my_permissions", Err: mssql.Error{Number: 18456, Message: "Login failed"}},
			"does not let reports in: Login failed"},
		{sourcetest.Answer{To: "fn_my_permissions", Columns: []string{""}, Rows: [][]driver.Value{{"DELETE on lot"}}},
			"the account may do more than read: it has DELETE on lot. Let the owner"},
		{sourcetest.Answer{To: "fn_my_permissions", Err: driver.ErrBadConn}, "does not answer"},
	} {
		s, _ := answered(t, config(), c.answer)
		v, err := s.Begin(t.Context())
		if err == nil {
			err = v.Read(t.Context(), sourcetest.Lots(t, s, nil), nil)
			if closed := v.Close(); closed != nil {
				t.Error(closed)
			}
		}
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%v is told as %v", c.answer.Err, err)
		}
	}
}

// TestADefinitionIsCheckedWithoutRunningIt by what the server describes.
func TestADefinitionIsCheckedWithoutRunningIt(t *testing.T) {
	s, e := answered(t, config(), sourcetest.Answer{To: "sp_describe_first_result_set"})
	q := sourcetest.Lots(t, s, map[string]string{"least": "1", "checked": "yes", "one": "A"})
	if err := s.Prepare(t.Context(), q); err != nil {
		t.Fatal(err)
	}
	bound := e.Bound(t, "sp_describe")
	if len(bound) != 2 || bound[1] != "@p1 nvarchar(max), @p2 bigint, @p3 bit" {
		t.Errorf("it was asked with %v", bound)
	}
	if _, ended := e.Transactions(); ended != 1 || slices.ContainsFunc(e.Asked(), func(text string) bool {
		return strings.HasPrefix(text, "select lot")
	}) {
		t.Errorf("%d transactions are ended, of\n%s", ended, strings.Join(e.Asked(), "\n"))
	}
}

// TestAQueryThatTakesTooLong is given up, and so is one that nobody waits for any more.
func TestAQueryThatTakesTooLong(t *testing.T) {
	c := config()
	c.Server.Longest = "50ms"
	s, _ := answered(t, c, sourcetest.Answer{To: "from lot", Until: true})
	_, err := sourcetest.Read(t, s, sourcetest.Lots(t, s, nil))
	if err == nil || !strings.Contains(err.Error(), "took longer than the 50ms that the source allows") {
		t.Error(err)
	}
	s, _ = answered(t, config(), sourcetest.Answer{To: "from lot", Until: true})
	left := errors.New("nobody waits")
	ctx, leave := context.WithCancelCause(t.Context())
	time.AfterFunc(20*time.Millisecond, func() { leave(left) })
	v, err := s.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer v.Close()
	if err := v.Read(ctx, sourcetest.Lots(t, s, nil), nil); !errors.Is(err, left) {
		t.Error(err)
	}
}

// TestListsAndTables are read as the server tells of them.
func TestListsAndTables(t *testing.T) {
	s, e := answered(t, config(),
		sourcetest.Answer{To: "select code, label", Columns: make([]string, 9), Rows: [][]driver.Value{
			{"B", "Kitchen", "", nil, "", false, nil, "dark", "y"}, {"A", "Select", "", nil, "", true, nil, "pale", "x"}}},
		sourcetest.Answer{To: "sys.partitions", Columns: make([]string, 3),
			Rows: [][]driver.Value{{"lot", int64(0), int64(5)}, {"lots_now", int64(1), int64(-1)}}},
		sourcetest.Answer{To: "sys.columns c where", Columns: make([]string, 5),
			Rows: [][]driver.Value{{"no", "bigint", int64(1), int64(1), ""}, {"site", "nvarchar", int64(0), int64(1), "unit"}}},
		sourcetest.Answer{To: "count(*)", Columns: make([]string, 1), Rows: [][]driver.Value{{int64(6)}}},
		sourcetest.Answer{To: "select top (2) * from [lot]", Columns: []string{"no"}, Rows: [][]driver.Value{{int64(1)}}},
		sourcetest.Answer{To: "ProductVersion", Columns: make([]string, 1),
			Rows: [][]driver.Value{{"16.0.1000.6 lets reports in"}}},
		sourcetest.Answer{To: "datediff_big", Columns: make([]string, 1),
			Rows: [][]driver.Value{{time.Now().UnixMicro()}}})
	grades, err := s.List(t.Context(), "grades")
	if err != nil || len(grades) != 2 || grades[0].Current || !grades[1].Current || grades[1].Fields["sort"] != "x" {
		t.Errorf("the grades are %+v, %v", grades, err)
	}
	if _, err := s.Find(t.Context(), "sites", source.Sought{Words: []string{"50%_[a]"}, Limit: 9}); err != nil {
		t.Error(err)
	}
	if found := e.Bound(t, "CI_AI like"); found[0] != "%50|%|_|[a]%" {
		t.Errorf("a word is sought as %v", found)
	}
	tables, err := s.Tables(t.Context())
	if err != nil || len(tables) != 2 || tables[0].Rows != 6 || !tables[1].View || !tables[0].Columns[0].Key ||
		tables[0].Columns[1].References != "unit" {
		t.Errorf("the tables are %+v, %v", tables, err)
	}
	if sample, err := s.Sample(t.Context(), "lot", 2); err != nil || *sample.Rows[0][0] != "1" {
		t.Errorf("its first rows are %+v, %v", sample, err)
	}
	for _, f := range s.Examine(t.Context()) {
		if !f.Good {
			t.Errorf("%s: %s", f.What, f.Says)
		}
		if f.What == "reached" && f.Says != "SQL Server 16.0.1000.6 lets reports in at db.example.org" {
			t.Error(f.Says)
		}
	}
}

// TestOpening says what keeps a source from being opened.
func TestOpening(t *testing.T) {
	c := config()
	c.Server.Password, c.Server.TLS = "there", ""
	if _, err := Open(c, func(string) (string, error) { return "", errors.New("there is no secret there") }); err == nil {
		t.Error("it is opened without its password")
	}
	c.Server.Host, c.Server.Port = "127.0.0.1", 1
	s, err := Open(c, func(string) (string, error) { return "p@ss:word/?", nil })
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if _, err := s.Fingerprint(t.Context()); !errors.Is(err, source.ErrSilent) {
		t.Errorf("nobody is at the port: %v", err)
	}
}
