package files_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"mantilla/source"
	"mantilla/source/files"
)

const declared = `source: budgets
title: Budgets
kind: files
tables:
  budget:
    separator: semicolon
    decimal: comma
    dates: dmy
    columns:
      - {name: district, heading: Bezirk, type: text, key: true}
      - {name: month, heading: Monat, type: date, key: true}
      - {name: amount, heading: Betrag, type: decimal, scale: 2, required: true}
      - {name: freed, heading: Frei, type: flag}
      - {name: jars, heading: Gläser, type: integer}
      - {name: at, heading: Um, type: timestamp}
  district:
    columns: [{name: name, type: text, key: true}, {name: region, type: text}]
`

func config(t *testing.T, text string) *source.Config {
	t.Helper()
	c, err := source.ParseConfig([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return c
}

const heads = "Bezirk;Monat;Betrag;Frei;Gläser;Um\n"

// TestTablesAreMadeOfFiles reads two files into tables that SQL joins, and lets the tables stand
// when a later file does not fit.
func TestTablesAreMadeOfFiles(t *testing.T) {
	dir, c := t.TempDir(), config(t, declared)
	of := map[string][]byte{
		"budget": []byte("Budget der Bezirke;;\n" + heads +
			"Hollin;1.9.2026;1.234,50;ja;7;1.9.2026 10:15\nMarr;1.9.2026;-0,01;;;\n"),
	}
	told, err := files.Build(t.Context(), dir, c, of)
	if err != nil || told["budget"].Rows != 2 {
		t.Fatalf("%+v, %v", told, err)
	}
	s, err := source.Open(c, source.Place{Dir: dir})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	rows := func() string {
		sample, err := s.Sample(t.Context(), "budget", 10)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, row := range sample.Rows {
			for _, cell := range row {
				if cell == nil {
					out = append(out, "∅")
				} else {
					out = append(out, *cell)
				}
			}
		}
		return strings.Join(out, " ")
	}
	if got := rows(); got != "Hollin 2026-09-01 1234.5 true 7 2026-09-01T10:15:00Z Marr 2026-09-01 -0.01 ∅ ∅ ∅" {
		t.Errorf("the table has %s", got)
	}
	before := rows()
	of["budget"] = []byte(heads + "Hollin;31.2.2026;12.50;vielleicht;1,5;bald\n;1.9.2026;1;;;\nMarr;1.9.2026;;;;\n" +
		"Quarl;1.9.2026;1;;;\nQuarl;1.9.2026;2;;;\nTarn;1.9.2026;12345678901234567,89;;;\n")
	told, err = files.Build(t.Context(), dir, c, of)
	if !errors.Is(err, files.ErrFaults) {
		t.Fatalf("a file that does not fit: %v", err)
	}
	var said []string
	for _, f := range told["budget"].Faults {
		said = append(said, fmt.Sprintf("%s %s: %s", f.Place, f.Column, f.Says))
	}
	for _, want := range []string{`line 2 Monat: "31.2.2026" is no day`, `line 2 Betrag: "12.50" is no number`,
		`line 2 Frei: "vielleicht" is neither`, `line 2 Gläser: "1,5" is no whole number`, `line 2 Um: "bald" is no moment`,
		"line 3 Bezirk: it has no value", "line 4 Betrag: it has no value",
		"line 6 Bezirk and Monat: another line has the same",
		"line 7 Betrag: "} {
		if !strings.Contains(strings.Join(said, "\n"), want) {
			t.Errorf("%q is not told in\n%s", want, strings.Join(said, "\n"))
		}
	}
	if got := told["budget"]; got.Left != 5 || got.Rows != 1 {
		t.Errorf("%d lines left out, %d rows", got.Left, got.Rows)
	}
	if rows() != before {
		t.Errorf("the table was changed to %s", rows())
	}
	skipping := config(t, strings.Replace(declared, "    dates: dmy\n", "    dates: dmy\n    faults: skip\n", 1))
	if told, err = files.Build(t.Context(), dir, skipping, of); err != nil || told["budget"].Rows != 1 {
		t.Errorf("with lines left out: %+v, %v", told, err)
	}
	if got := rows(); got != "Quarl 2026-09-01 1 ∅ ∅ ∅" {
		t.Errorf("then the table has %s", got)
	}
}

// TestWhatIsNoFileOfATable is refused with what it lacks.
func TestWhatIsNoFileOfATable(t *testing.T) {
	for data, says := range map[string]string{"": "no row has the headings Bezirk, Monat",
		"Bezirk;Monat\nx;y\n": "no row has the headings", "PK\x03\x04": "no spreadsheet", "\"x": "no CSV"} {
		_, err := files.Build(t.Context(), t.TempDir(), config(t, declared), map[string][]byte{"budget": []byte(data)})
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", data, err)
		}
	}
	for _, c := range []struct{ from, to, says string }{
		{"tables:\n", "file: x.db\ntables:\n", "leave it out"}, {"name: freed", "name: Freed", "small letters"},
		{"type: flag", "type: yesno", "use text, integer"}, {"separator: semicolon", "separator: dot", "separator"},
		{"scale: 2", "scale: 20", "0 to 9 places"}, {"name: jars", "name: amount", "twice"},
		{"dates: dmy", "faults: ignore", "use refuse or skip"}, {"name: district,", "name: district, scale: 2,", "scale 2"},
	} {
		text := strings.Replace(declared, c.from, c.to, 1)
		if _, err := source.ParseConfig([]byte(text)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.to, err)
		}
	}
}

// TestWhatAFileSeemsToHold finds how it is written and the types of its columns, and its
// declaration takes the file.
func TestWhatAFileSeemsToHold(t *testing.T) {
	for _, c := range []struct{ name, data, want string }{
		{"German",
			"Stand;September\nBezirk;Monat;Betrag;Frei;No.\nHollin;1.9.2026;1.234,50;ja;0815\nMarr;13.9.2026;7,00;nein;0816\n",
			"separator: semicolon, decimal: comma, dates: dmy, bezirk text, monat date, betrag decimal, frei flag, no text"},
		{"American", "name,on,amount,count\na,09/13/2026,\"1,234.5\",7\nb,09/14/2026,2,8\n",
			"separator: comma, decimal: point, dates: mdy, name text, on date, amount decimal, count integer"},
		{"of a program", "id\tat\tnote\n1\t2026-09-02T10:00:00Z\tx\n2\t2026-09-02T10:00:01Z\t\n",
			"separator: tab, decimal: point, dates: iso, id integer, at timestamp, note text"},
		{"headings that are alike", "a|a|1\nx|y|2\n",
			"separator: bar, decimal: point, dates: iso, a text, a_2 text, column_1 integer"},
	} {
		looked, err := files.Look(c.name+".csv", []byte(c.data))
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		config := config(t, looked.Text)
		for table, x := range config.Tables {
			said := []string{"separator: " + x.Separator, "decimal: " + x.Decimal, "dates: " + x.Dates}
			for _, column := range x.Columns {
				said = append(said, column.Name+" "+column.Type)
			}
			if got := strings.Join(said, ", "); got != c.want {
				t.Errorf("%s seems to hold\n%s, want\n%s", c.name, got, c.want)
			}
			told, err := files.Build(t.Context(), t.TempDir(), config, map[string][]byte{table: []byte(c.data)})
			if err != nil || told[table].Rows != 2 && c.name != "headings that are alike" {
				t.Errorf("%s is read as %+v, %v", c.name, told[table], err)
			}
		}
	}
	for _, nothing := range []string{"", "one line\n", "\n\n"} {
		if looked, err := files.Look("x.csv", []byte(nothing)); err == nil {
			t.Errorf("%q seems to hold %+v", nothing, looked)
		}
	}
}
