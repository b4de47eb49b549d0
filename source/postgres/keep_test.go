package postgres

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/core/table"
	"mantilla/source"
	"mantilla/source/sourcetest"
)

// keeping is what makes an account that keeps results.
const keeping = `
	do $$ begin
		if not exists (select 1 from pg_roles where rolname = 'keeper') then
			create role keeper login password '` + password + `';
		end if;
	end $$;
	create schema results authorization keeper;
	grant usage on schema public to keeper;
	grant select on all tables in schema public to keeper;`

func keepsIn(c *source.Config) {
	c.Keeps = &source.Keeps{Schema: "results", User: "keeper", Password: "there"}
}

// stays is a source whose queries are read from what stays of them in the engine.
type stays struct{ *Server }

func (s stays) Begin(ctx context.Context) (source.Session, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return nil, err
	}
	return &staying{session: v}, nil
}

type staying struct {
	*session
	made int
}

// Reckon is the session's own, which an embedded session would hide from nobody.
func (v *staying) Reckon(ctx context.Context, q query.Query) (int64, error) {
	return v.session.Reckon(ctx, q)
}

func (v *staying) Read(ctx context.Context, q query.Query, to *source.Sink) error {
	v.made++
	name := fmt.Sprintf("%s_%p_%d", q.Dataset.ID, v, v.made)
	stay, rows, err := v.Keep(ctx, q, source.Keeping{Service: "test", Table: name, Most: 200_000})
	if errors.Is(err, source.ErrMore) { // whom the sink tells that there is no room
		return errors.Join(err, to.Tick())
	}
	if err != nil {
		return err
	}
	schema := report.SchemaOf(q.Dataset.Read())
	of := v.server.Engine().Table(stay, rows, schema, table.Fresh{})
	all := make([]int, len(schema))
	for i := range all {
		all[i] = i
	}
	return of.Each(ctx, table.Order{}, all, func(b *frame.Batch) error {
		for row := range b.Rows {
			for col, field := range schema {
				switch {
				case b.Null(col, row):
				case field.Kind == frame.Text:
					to.Rows.String(col, b.Text(col, row))
				default:
					if err := to.Rows.Int(col, b.Int(col, row)); err != nil {
						return err
					}
				}
			}
			if err := to.Rows.EndRow(); err != nil {
				return err
			}
		}
		return to.Tick()
	})
}

// TestWhatStaysIsWhatIsRead holds rows that stay in the engine to all that rows are held to which
// are read.
func TestWhatStaysIsWhatIsRead(t *testing.T) {
	made := 0
	sourcetest.Run(t, func(t *testing.T) sourcetest.Made {
		made++
		name := fmt.Sprint("stays_", made)
		s := begun(t, name, sourcetest.Script(types)+keeping, func(c *source.Config) {
			keepsIn(c)
			c.Lists, c.Units = sourcetest.Lists(), "units"
		})
		return sourcetest.Made{
			Types: types, Source: stays{s},
			Exec:    func(t *testing.T, sql string) { t.Helper(); execAs(t, name, sql) },
			Endless: "(select pg_sleep(600)) as slow", Reckons: true,
		}
	})
}

const lotsThatStay = `
	create table lot (no int, came timestamp, kg numeric, note text, real_kg double precision, checked int);
	insert into lot select i, '2026-10-01', i / 4.0, 'n' || i, i, 1 from generate_series(1, 100) i;`

// lotColumns are read of the lots that stay.
func lotColumns(t *testing.T, s *Server, columns string) query.Query {
	t.Helper()
	return sourcetest.Query(t, s, `report: lots
title: Lots
category: Intake
depth: lines
about: Lots.
source: there
datasets:
  lots:
    from: lot
    key: no
    columns:
      - {id: no, is: lot.no, type: integer}
`+columns+`
views: {lots: {of: lots}}
`)
}

// TestRowsThatStayAreSealedKnownAndDropped follows a table from its making to its end.
func TestRowsThatStayAreSealedKnownAndDropped(t *testing.T) {
	s := begun(t, "sealed", lotsThatStay+keeping, keepsIn)
	v, err := s.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer v.Close()
	q := lotColumns(t, s,
		"      - {id: kg, is: lot.kg, type: decimal, scale: 2, stored: decimal}\n      - {id: note, is: lot.note, type: "+
			"text}")
	stay, rows, err := v.(source.Keeper).Keep(t.Context(), q, source.Keeping{Service: "one", Table: "run_7_1", Most: 100})
	if err != nil || rows != 100 || stay.Bytes == 0 || stay.Columns[2].Letters != "ascii" {
		t.Fatalf("%+v, %d rows, %v", stay, rows, err)
	}
	e := s.Engine()
	for service, want := range map[string]string{"one": "run_7_1", "other": ""} {
		if names, err := e.Kept(t.Context(), service); err != nil || strings.Join(names, " ") != want {
			t.Errorf("the service %s keeps %v, %v", service, names, err)
		}
	}
	again := func() string {
		rows, digests, err := e.Again(t.Context(), stay)
		return fmt.Sprint(rows, digests, err)
	}
	sealed := again()
	for i, c := range stay.Columns {
		if !strings.Contains(sealed, c.Digest) {
			t.Errorf("column %d is sealed as %s, and is %s", i, c.Digest, sealed)
		}
	}
	for _, change := range []string{"update results.run_7_1 set c1 = c1 + 1 where n = 5",
		"update results.run_7_1 set c2 = null where n = 6", "delete from results.run_7_1 where n = 9",
		"update results.run_7_1 set n = n + 1000 where n = 10"} {
		before := again()
		execAs(t, "sealed", change)
		if after := again(); after == before {
			t.Errorf("%s is not found", change)
		}
	}
	for range 2 { // once more is no fault
		if err := e.Drop(t.Context(), "run_7_1"); err != nil {
			t.Fatal(err)
		}
	}
	if _, _, err := e.Again(t.Context(), stay); err == nil || !strings.Contains(err.Error(), "is gone") {
		t.Errorf("a table that is gone: %v", err)
	}
}

// TestWhatCannotStayIsRefused leaves nothing behind, and says why.
func TestWhatCannotStayIsRefused(t *testing.T) {
	s := begun(t, "refused", lotsThatStay+keeping, keepsIn)
	for columns, says := range map[string]string{
		"- {id: kg, is: lot.kg, type: decimal, scale: 1, stored: decimal}":      "it has more than 1 decimal places",
		"- {id: kg, is: lot.kg, type: integer}":                                 "it has decimal places",
		"- {id: kg, is: lot.real_kg, type: decimal, scale: 1, stored: decimal}": "write cast(... as numeric)",
		"- {id: ok, is: lot.no, type: flag}":                                    "it is neither 0 nor 1",
		"- {id: came, is: lot.came + interval '1 hour', type: date}":            "it has a time of day",
		"- {id: came, is: lot.note, type: date}":                                "it is no day",
		"- {id: came, is: lot.no, type: date}":                                  "write cast(... as date)",
		"- {id: large, is: lot.kg * 100000000000000000, type: money}":           "18 digits",
		"- {id: note, is: lot.nothing, type: text}":                             "nothing",
	} {
		v, err := s.Begin(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		_, _, err = v.(source.Keeper).Keep(t.Context(), lotColumns(t, s, "      "+columns),
			source.Keeping{Service: "one", Table: "run_8_1", Most: 1000})
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", columns, err)
		}
		if err := v.Close(); err != nil {
			t.Error(err)
		}
	}
	v, err := s.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer v.Close()
	_, _, err = v.(source.Keeper).Keep(t.Context(), lotColumns(t, s, ""), source.Keeping{Service: "one", Table: "x",
		Most: 99})
	if err == nil || !strings.Contains(err.Error(), source.ErrMore.Error()) {
		t.Errorf("too many rows: %v", err)
	}
	if names, err := s.Engine().Kept(t.Context(), "one"); err != nil || len(names) > 0 {
		t.Errorf("%v were left behind, %v", names, err)
	}
}

// TestAnAccountThatKeepsResultsMayWriteNothingElse refuses one that could.
func TestAnAccountThatKeepsResultsMayWriteNothingElse(t *testing.T) {
	for grant, says := range map[string]string{
		"grant insert on lot to keeper":           "it may change lot",
		"grant create on schema public to keeper": "it may create in the schema public",
	} {
		s := begun(t, "keepers_"+strings.Fields(grant)[1], lotsThatStay+keeping+grant, keepsIn)
		if _, err := s.Engine().Kept(t.Context(), "one"); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", grant, err)
		}
		s.Close()
	}
}
