package flightsql

import (
	"testing"

	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql/example"

	"mantilla/source/sourcetest"
)

// TestArrowsOwnServer is read, which is an example over SQLite that was written by others. It tells
// of itself that it could be written to, which it is kept from.
func TestArrowsOwnServer(t *testing.T) {
	db, err := example.CreateDB()
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	server, err := example.NewSQLiteFlightSQLServer(db)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec("pragma query_only = on"); err != nil {
		t.Fatal(err)
	}
	if err := server.RegisterSqlInfo(flightsql.SqlInfoFlightSqlServerReadOnly, true); err != nil {
		t.Fatal(err)
	}
	s := opened(t, serve(t, flightsql.NewFlightServer(server)), nil)
	tables, err := s.Tables(t.Context())
	if err != nil || len(tables) == 0 {
		t.Fatalf("its tables are %+v, %v", tables, err)
	}
	rows, err := sourcetest.Read(t, s, sourcetest.Query(t, s, `report: numbers
title: Numbers
category: Intake
depth: lines
about: Every number.
source: there
datasets:
  numbers:
    from: intTable
    key: id
    columns: [{id: id, is: id, type: integer}, {id: name, is: keyName, type: text}, {id: value, is: value,
	type: integer}]
views:
  numbers: {of: numbers}
`))
	if err != nil || len(rows) != 4 || rows[0] != "1|one|1" {
		t.Errorf("it is read as %v, %v", rows, err)
	}
}
