package oracle

import (
	"database/sql/driver"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	go_ora "github.com/sijms/go-ora/v2"
	"github.com/sijms/go-ora/v2/network"

	"mantilla/source"
	"mantilla/source/sourcetest"
)

func config() *source.Config {
	return &source.Config{ID: "there", Kind: "oracle", Units: "units", Lists: sourcetest.Lists(), Server: &source.Server{
		Host: "db.example.org", Database: "SHOP", User: "reports", TLS: "off", Schemas: []string{"shop"}}}
}

// answered is a source whose engine gives simulated answers, beside those of an account that may
// only read.
func answered(t *testing.T, c *source.Config, answers ...sourcetest.Answer) (source.Source, *sourcetest.Engine) {
	t.Helper()
	e := &sourcetest.Engine{
		Answers: append(answers, sourcetest.Answer{To: "session_privs", Columns: []string{""}}),
		Takes:   func(value any) bool { _, ok := value.(go_ora.Clob); return ok },
	}
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
	model := strings.Repeat("9", 35) + "D999"
	for _, c := range []struct {
		facts      map[string]string
		says, args string
	}{
		{nil, `select lot.no as "no", unit.name as "site",`, "[]"},
		{map[string]string{"came": "2026-09-01/2026-09-30"},
			"lot.came between to_date(:1, 'YYYY-MM-DD') and to_date(:2, 'YYYY-MM-DD')", "[2026-09-01 2026-09-30]"},
		{map[string]string{"month": "2026-09"}, "trunc(lot.came) >= trunc(to_date(:1, 'YYYY-MM-DD')) and trunc(lot.came) <= ",
			"[2026-09-01 2026-09-30]"},
		{map[string]string{"arrived": "2026-09-01T05:30:00.1Z/2026-09-01T05:30:01Z"},
			"sys_extract_utc(cast(lot.at_moment as timestamp with time zone)) >= sys_extract_utc(cast(to_timestamp(:1, ",
			"[2026-09-01 05:30:00.100000 2026-09-01 05:30:01.000000]"},
		{map[string]string{"grade": "A; B"}, "lot.grade in (:1, :2)", "[A B]"},
		{map[string]string{"one": "' or 1=1 --"}, "lot.grade = :1", "[' or 1=1 --]"},
		{map[string]string{"least": "-4"}, "lot.jars >= :1 * 2", "[-4]"},
		{map[string]string{"heavy": "0.6"},
			"lot.net >= to_number(:1, '" + model + "', 'NLS_NUMERIC_CHARACTERS=''.,''') * 2", "[0.600]"},
		{map[string]string{"checked": "no"}, "lot.checked = :1", "[0]"},
		{map[string]string{"checked": "yes"}, "lot.checked = :1", "[1]"},
		{map[string]string{"first": "2"}, "order by lot.no desc\nfetch first :1 rows only", "[2]"},
	} {
		of := source.Write(sourcetest.Lots(t, s, c.facts), s.Dialect())
		if !strings.Contains(of.Text, c.says) || fmt.Sprint(of.Args) != c.args {
			t.Errorf("%v is written\n%s\nwith %v", c.facts, of.Text, of.Args)
		}
	}
	many := source.Write(sourcetest.Lots(t, s, map[string]string{"site": strings.Repeat("X; ", 1500) + "N1"}), s.Dialect())
	if clob, ok := many.Args[0].(go_ora.Clob); !strings.Contains(many.Text, "from json_table(:1, '$[*]'") || !ok ||
		!strings.HasPrefix(clob.String, `["X","X"`) {
		t.Errorf("a long list is written\n%s\nwith %.60v", many.Text, many.Args[0])
	}
}

// TestCells are read from what the driver gives for each type: numbers as texts, and dates in the
// zone of the server, which they do not have.
func TestCells(t *testing.T) {
	there := time.FixedZone("", 5*3600+1800)
	s, e := answered(t, config(), sourcetest.Answer{To: "from lot join unit",
		Columns: strings.Fields("no site grade came at net paid jars checked note"),
		Types:   strings.Fields("NUMBER NCHAR NCHAR DATE TimeStampDTY NUMBER NUMBER NUMBER NUMBER NCHAR"),
		Rows: [][]driver.Value{
			{"1", "Ford, Nöt", "A", time.Date(2026, 9, 1, 0, 0, 0, 0, there),
				time.Date(2026, 9, 1, 5, 30, 0, 123456000, there), "1.25", "10.5", "3", "1", "🐝"},
			{"2", "Ford, Nöt", "B", time.Date(1899, 12, 31, 0, 0, 0, 0, there), time.Date(1969, 12, 31, 23, 59, 59, 0, there),
				"-123456789012345.678", "9999999999999999.99", "9223372036854775807", "0", nil},
		}}, sourcetest.Answer{To: "from zoned", Columns: strings.Fields("no at"),
		Types: strings.Fields("NUMBER TimeStampTZ_DTY"),
		Rows:  [][]driver.Value{{"1", time.Date(2026, 9, 1, 5, 30, 0, 0, there)}}})
	rows, err := sourcetest.Read(t, s, sourcetest.Lots(t, s, nil))
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{
		"1|Ford, Nöt|A|2026-09-01|2026-09-01T05:30:00.123456Z|1.250|10.50|3|yes|🐝",
		"2|Ford, Nöt|B|1899-12-31|1969-12-31T23:59:59Z|-123456789012345.678|9999999999999999.99|9223372036854775807|no|∅",
	} {
		if rows[i] != want {
			t.Errorf("it is read as\n%s, want\n%s", rows[i], want)
		}
	}
	zoned := sourcetest.Query(t, s, `report: zoned
title: Zoned
category: Intake
depth: lines
about: A moment with its zone.
source: there
datasets:
  lots: {from: zoned, key: no, columns: [{id: no, is: no, type: integer}, {id: at, is: at_moment, type: timestamp}]}
views:
  lots: {of: lots}
`)
	if rows, err := sourcetest.Read(t, s, zoned); err != nil || rows[0] != "1|2026-09-01T00:00:00Z" {
		t.Errorf("a moment with its zone is read as %v, %v", rows, err)
	}
	if asked := e.Asked(); !slices.Equal(asked[1:4], []string{"alter session set time_zone = '+00:00'",
		`alter session set current_schema = "SHOP"`, "set transaction read only"}) {
		t.Errorf("a session begins with\n%s", strings.Join(asked, "\n"))
	}
}

// TestWhatTheServerSays is told in words that say what to do.
func TestWhatTheServerSays(t *testing.T) {
	for _, c := range []struct {
		answer sourcetest.Answer
		says   string
	}{
		{sourcetest.Answer{To: "from lot", Err: &network.OracleError{ErrCode: 904, ErrMsg: "ORA-00904: NOTES: invalid"}},
			"source there: ORA-00904: NOTES: invalid"},
		{sourcetest.Answer{To: "from lot", Err: &network.OracleError{ErrCode: 1555, ErrMsg: "ORA-01555: snapshot too old"}},
			"no longer has the state that the run began with"},
		{sourcetest.Answer{To: "from lot", Err: &network.OracleError{ErrCode: 1456, ErrMsg: "ORA-01456: may not insert"}},
			"may only be read: ORA-01456"},
		{sourcetest.Answer{To: "set transaction", Err: &network.OracleError{ErrCode: 1089, ErrMsg: "ORA-01089: shutdown"}},
			"does not answer: ORA-01089"},
		{sourcetest.Answer{To: "session_privs", Err: &network.OracleError{ErrCode: 1017, ErrMsg: "ORA-01017: denied"}},
			"does not let reports in: ORA-01017"},
		{sourcetest.Answer{To: "session_privs", Columns: []string{""}, Rows: [][]driver.Value{{"DELETE on LOT"}}},
			"the account may do more than read: it has DELETE on LOT. Let the owner"},
	} {
		s, e := answered(t, config(), c.answer)
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
		if levels, ended := e.Transactions(); len(levels) != ended {
			t.Errorf("%v: of %d transactions %d are ended", c.answer.Err, len(levels), ended)
		}
	}
}

// TestADefinitionIsCheckedWithoutRunningIt by what the server parses.
func TestADefinitionIsCheckedWithoutRunningIt(t *testing.T) {
	s, e := answered(t, config(), sourcetest.Answer{To: "dbms_sql.parse"})
	if err := s.Prepare(t.Context(), sourcetest.Lots(t, s, map[string]string{"least": "1"})); err != nil {
		t.Fatal(err)
	}
	if bound := e.Bound(t, "dbms_sql.parse"); len(bound) != 1 || !strings.Contains(bound[0].(string),
		"lot.jars >= :1 * 2") {
		t.Errorf("it was asked with %v", bound)
	}
}

// TestListsAndTables are read as the server tells of them.
func TestListsAndTables(t *testing.T) {
	s, e := answered(t, config(),
		sourcetest.Answer{To: "select code, label", Columns: make([]string, 9), Rows: [][]driver.Value{
			{"B", "Kitchen", nil, nil, nil, "0", nil, "dark", "y"}, {"A", "Select", nil, nil, nil, "1", nil, "pale", "x"}}},
		sourcetest.Answer{To: "from all_tables", Columns: make([]string, 3),
			Rows: [][]driver.Value{{"LOT", "0", "5"}, {"LOTS_NOW", "1", "-1"}}},
		sourcetest.Answer{To: "from all_tab_columns", Columns: make([]string, 5),
			Rows: [][]driver.Value{{"NO", "NUMBER", "1", "1", nil}, {"SITE", "VARCHAR2", "0", "1", "UNIT"}}},
		sourcetest.Answer{To: `count(*) from "LOT"`, Columns: make([]string, 1), Rows: [][]driver.Value{{"6"}}},
		sourcetest.Answer{To: `select * from "LOT" fetch first 2 rows only`, Columns: []string{"NO"},
			Rows: [][]driver.Value{{"1"}}},
		sourcetest.Answer{To: "product_component_version", Columns: make([]string, 1),
			Rows: [][]driver.Value{{"19.0.0.0.0 lets REPORTS in"}}},
		sourcetest.Answer{To: "systimestamp", Columns: make([]string, 1),
			Rows: [][]driver.Value{{fmt.Sprint(time.Now().UnixMicro())}}})
	grades, err := s.List(t.Context(), "grades")
	if err != nil || len(grades) != 2 || grades[0].Current || !grades[1].Current || grades[1].Fields["sort"] != "x" {
		t.Errorf("the grades are %+v, %v", grades, err)
	}
	if _, err := s.Find(t.Context(), "sites", source.Sought{Words: []string{"50%_"}, Limit: 9}); err != nil {
		t.Error(err)
	}
	if found := e.Bound(t, "binary_ai like"); found[0] != "%50|%|_%" {
		t.Errorf("a word is sought as %v", found)
	}
	tables, err := s.Tables(t.Context())
	if err != nil || len(tables) != 2 || tables[0].Rows != 6 || !tables[1].View || !tables[0].Columns[0].Key ||
		tables[0].Columns[1].References != "UNIT" {
		t.Errorf("the tables are %+v, %v", tables, err)
	}
	if sample, err := s.Sample(t.Context(), "LOT", 2); err != nil || *sample.Rows[0][0] != "1" {
		t.Errorf("its first rows are %+v, %v", sample, err)
	}
	for _, f := range s.Examine(t.Context()) {
		if !f.Good {
			t.Errorf("%s: %s", f.What, f.Says)
		}
	}
}

// TestOpening says what keeps a source from being opened.
func TestOpening(t *testing.T) {
	c := config()
	c.Server.Host, c.Server.Port, c.Server.Password, c.Server.TLS = "127.0.0.1", 1, "there", ""
	if _, err := Open(c, func(string) (string, error) { return "", errors.New("there is no secret there") }); err == nil {
		t.Error("it is opened without its password")
	}
	s, err := Open(c, func(string) (string, error) { return "p@ss:word/?", nil })
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if _, err := s.Fingerprint(t.Context()); !errors.Is(err, source.ErrSilent) {
		t.Errorf("nobody is at the port: %v", err)
	}
}
