// Package sourcetest holds every kind of source to the same agreements: what is read is
// what the source holds, what is asked for reaches it bound, all queries of a run see one
// state, whoever leaves ends the work, and nothing can be written.
package sourcetest

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/definition"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
)

// Made is a source with the tables of [Script], and a way to change them behind its back.
type Made struct {
	Source source.Source
	Types  Types
	Exec   func(t *testing.T, sql string)
	// Endless is a piece that takes longer than any test, as the engine writes it.
	Endless string
	Reckons bool // its sessions are a [source.Reckoner]
	// Accents tells that texts are only found with the accents that they have.
	Accents bool
	// Timeless tells that nothing says whether something was written: each fingerprint is another.
	Timeless bool
}

// Types are how an engine calls the types of the script, and the largest numbers with 3 and
// with 2 places that it holds exactly.
type Types struct {
	Whole, Decimal, Money, Day, Moment, Flag, LargeDecimal, LargeMoney string

	// Stamped writes a moment as the engine reads it; nil where it reads ISO 8601.
	Stamped func(iso string) string
}

// Lists are those that the source is to declare.
func Lists() map[string]source.List {
	return map[string]source.List{
		"units": {From: "unit", Code: "id", Label: "name", Parent: "parent_id", Kind: "kind", Order: "id"},
		"grades": {From: "grade", Code: "code", Label: "label", Current: "current_now", Find: []string{"note"},
			Fields: map[string]string{"sort": "sort_of"}},
		"sites": {From: "unit", Code: "id", Label: "name", Order: "id", Find: []string{"kind"}, Scope: "parent_id",
			Fields: map[string]string{"kind": "kind"}, Large: true},
		"named": {From: "unit", Code: "id", Label: "name", Large: true, Search: "name = :text or id = :text"},
	}
}

// Script makes the tables.
func Script(types Types) string {
	text := strings.NewReplacer("WHOLE", types.Whole, "DECIMAL", types.Decimal, "MONEY", types.Money, "DAY", types.Day,
		"MOMENT", types.Moment, "FLAG", types.Flag, "LARGE1", types.LargeDecimal, "LARGE2", types.LargeMoney).Replace(script)
	if types.Stamped == nil {
		return text
	}
	return stamp.ReplaceAllStringFunc(text, types.Stamped)
}

var stamp = regexp.MustCompile(`\d{4}-\d\d-\d\dT[\d:.]+Z`)

const script = `
create table unit (id varchar(20) primary key, name varchar(80) not null, parent_id varchar(20), kind varchar(20));
insert into unit values ('C', 'All', null, 'coop'), ('N', 'North', 'C', 'region'), ('N1', 'Ford, Nöt', 'N', 'site'),
	('S', 'South', 'C', 'region');
create table grade (code varchar(5) primary key, label varchar(40) not null, note varchar(80), current_now FLAG,
	sort_of varchar(9));
insert into grade values ('A', 'Select', 'pale', true, 'x'), ('B', 'Kitchen', 'dark', false, 'y');
create table lot (
	no WHOLE primary key, site varchar(20) not null references unit (id), grade varchar(5), came DAY, at_moment MOMENT,
	net DECIMAL, paid MONEY, jars WHOLE, checked FLAG, note varchar(200));
insert into lot values
	(1, 'N1', 'A', '2026-09-01', '2026-09-01T05:30:00.123456Z', '1.250', '10.50', 3, true, 'Ærø, 茶, 🐝 ''quoted'' "twice"'),
	(2, 'N1', 'B', '2024-02-29', '1969-12-31T23:59:59.999999Z', '-0.001', '-0.01', -7, false, ''),
	(3, 'S', null, '1899-12-31', '2026-10-25T00:30:00Z', 'LARGE1', 'LARGE2', 9223372036854775807,
		null, null),
	(4, 'S', 'A', null, null, null, null, null, true, 'a;b'),
	(5, 'N', 'B', '2026-09-30', '2026-09-30T22:00:00Z', '0.000', '0.00', 0, false, ' spaced ');
`

// lots reads all columns of all lots, under conditions on each kind of parameter.
const lots = `report: lots
title: Lots
category: Intake
depth: lines
about: Every lot.
source: there
parameters:
  - {id: came, type: range}
  - {id: month, type: period, grain: month}
  - {id: arrived, type: range, time: true}
  - {id: spans, type: ranges, time: true}
  - {id: day, type: date}
  - {id: site, type: unit, from: units}
  - {id: grade, type: choice, many: true, from: grades}
  - {id: one, type: choice, from: grades}
  - {id: least, type: integer}
  - {id: heavy, type: decimal, scale: 3}
  - {id: worth, type: money}
  - {id: checked, type: flag}
  - {id: first, type: newest}
datasets:
  lots:
    from: lot join unit on unit.id = lot.site
    where:
      - lot.came between :came.start and :came.end
      - {is: lot.came, within: month}
      - {is: lot.at_moment, within: arrived, as: moments}
      - {is: lot.at_moment, within: spans, as: moments}
      - lot.came >= :day
      - lot.site in :site
      - lot.grade in :grade
      - lot.grade = :one
      - lot.jars >= :least * 2
      - lot.net >= :heavy * 2
      - lot.paid >= :worth
      - lot.checked = :checked
    scope: lot.site
    newest: first
    order: lot.no desc
    key: no
    columns:
      - {id: no, is: lot.no, type: integer}
      - {id: site, is: unit.name, type: text}
      - {id: grade, is: lot.grade, type: text}
      - {id: came, is: lot.came, type: date}
      - {id: at, is: lot.at_moment, type: timestamp}
      - {id: net, is: lot.net, type: decimal, scale: 3, stored: decimal}
      - {id: paid, is: lot.paid, type: money, stored: decimal}
      - {id: jars, is: lot.jars, type: integer}
      - {id: checked, is: lot.checked, type: flag}
      - {id: note, is: lot.note, type: text}
  sums:
    from: lot
    group_by: lot.site
    key: site
    scope: lot.site
    columns:
      - {id: site, is: lot.site, type: text}
      - {id: lots, is: count(*), type: integer}
      - {id: jars, is: sum(lot.jars * 1.0), type: decimal, scale: 1, stored: decimal}
views:
  lots: {of: lots}
  sums: {of: sums}
`

// parse reads a definition.
func parse(t *testing.T, text string) *report.Definition {
	t.Helper()
	d, faults := definition.Parse([]byte(text), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	return d
}

// Query is that of the first dataset of a definition without parameters.
func Query(t *testing.T, s source.Source, text string) query.Query {
	t.Helper()
	return planned(t, s, parse(t, text), nil, report.Reach{})[0]
}

// planned are the queries of a definition for facts.
func planned(t *testing.T, s source.Source, d *report.Definition, facts map[string]string,
	reach report.Reach) []query.Query {
	t.Helper()
	values := param.Recall(d.Parameters, facts, period.Calendar{Today: period.Date(2026, 10, 15)})
	queries, err := query.Plan(d.Settle(values), values, reach, s.Dialect().Quotes())
	if err != nil {
		t.Fatal(err)
	}
	return queries
}

// read pours a query and writes its rows, a line each, with cells apart by |, and ∅ for no value.
func read(t *testing.T, v source.Session, q query.Query) (rows []string, err error) {
	t.Helper()
	schema := report.SchemaOf(q.Dataset.Read())
	var records []arrow.RecordBatch
	sink := source.NewSink(schema, 2, func(r arrow.RecordBatch) error { records = append(records, r); return nil },
		func(int64) error { return nil })
	if err := v.Read(t.Context(), q, sink); err != nil {
		return nil, err
	}
	if err := sink.Close(); err != nil {
		return nil, err
	}
	f, err := frame.New(schema, records...)
	if err != nil {
		return nil, err
	}
	for i := range f.Batches() {
		b, err := f.Batch(t.Context(), i, nil)
		if err != nil {
			return nil, err
		}
		for r := range b.Rows {
			var cells []string
			for col := range schema {
				if value := b.Value(col, r); value.Null {
					cells = append(cells, "∅")
				} else {
					cells = append(cells, value.String())
				}
			}
			rows = append(rows, strings.Join(cells, "|"))
		}
	}
	return rows, nil
}

// numbers are the first cells of rows, in order.
func numbers(rows []string) string {
	var out []string
	for _, r := range rows {
		first, _, _ := strings.Cut(r, "|")
		out = append(out, first)
	}
	return strings.Join(out, " ")
}

// begin begins a session that the test ends.
func begin(t *testing.T, s source.Source) source.Session {
	t.Helper()
	v, err := s.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := v.Close(); err != nil {
			t.Error(fmt.Errorf("ending a session: %w", err))
		}
	})
	return v
}

// Lots is the first query of the definition of the agreements for facts, as a source is asked it.
func Lots(t *testing.T, s source.Source, facts map[string]string) query.Query {
	t.Helper()
	return planned(t, s, parse(t, lots), facts, report.Reach{})[0]
}

// Read reads a query in a session of its own, a line for each row, with cells apart by |, and ∅
// for no value.
func Read(t *testing.T, s source.Source, q query.Query) ([]string, error) {
	t.Helper()
	return read(t, begin(t, s), q)
}
