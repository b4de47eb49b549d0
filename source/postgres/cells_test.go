package postgres

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/jackc/pgx/v5"

	"mantilla/core/definition"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/cells"
)

// column reads one column of the rows that a piece gives, cells apart by |.
func column(t *testing.T, s *Server, from, is, kind string) (string, error) {
	t.Helper()
	d, faults := definition.Parse([]byte(fmt.Sprintf(`{report: r, title: R, category: C, depth: lines, about: R.,
		source: there,
		datasets: {rows: {from: %q, columns: [{id: x, is: %q, %s}]}}, views: {rows: {of: rows}}}`, from, is, kind)),
		definition.Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	queries, err := query.Plan(d, param.Recall(nil, nil, period.Calendar{}), report.Reach{}, s.Dialect().Quotes())
	if err != nil {
		t.Fatal(err)
	}
	v, err := s.Begin(t.Context())
	if err != nil {
		return "", err
	}
	defer v.Close()
	schema := report.SchemaOf(queries[0].Dataset.Read())
	var out []string
	sink := source.NewSink(schema, 100, func(r arrow.RecordBatch) error {
		f, err := frame.New(schema, r)
		if err != nil {
			return err
		}
		b, err := f.Batch(t.Context(), 0, nil)
		if err != nil {
			return err
		}
		for row := range b.Rows {
			text := "∅"
			if value := b.Value(0, row); !value.Null {
				text = value.String()
			}
			out = append(out, text)
		}
		return nil
	}, func(int64) error { return nil })
	if err := v.Read(t.Context(), queries[0], sink); err != nil {
		return "", err
	}
	err = sink.Close()
	return strings.Join(out, "|"), err
}

// TestCellsOfEveryType reads the types that the agreements of all kinds do not have.
func TestCellsOfEveryType(t *testing.T) {
	s := begun(t, "types", `create type mood as enum ('well', 'unwell');
		create table odd (moods mood, list text[], note jsonb, mark uuid);
		insert into odd values ('well', '{a,"b c"}', '{"a": 1}', '00000000-0000-0000-0000-000000000001')`, nil)
	one := "(select 1) as one"
	for _, c := range []struct{ from, is, kind, want, fault string }{
		{"odd", "moods", "type: text", "well", ""},
		{"odd", "list", "type: text", `{a,"b c"}`, ""},
		{"odd", "note", "type: text", `{"a": 1}`, ""},
		{"odd", "mark", "type: text", "00000000-0000-0000-0000-000000000001", ""},
		{one, "7::smallint", "type: integer", "7", ""},
		{one, "-7::int", "type: integer", "-7", ""},
		{one, "7.000", "type: integer", "7", ""},
		{one, "7.5", "type: integer", "", "declare stored: decimal"},
		{one, "'12'", "type: integer", "12", ""},
		{one, "12345", "type: money", "123.45", ""},
		{one, "0.1::real", "type: decimal, scale: 3, stored: decimal", "0.100", ""},
		{one, "2.675::float8", "type: money, stored: decimal", "2.68", ""},
		{one, "1.005", "type: money, stored: decimal", "1.01", ""},
		{one, "-1.005", "type: money, stored: decimal", "-1.01", ""},
		{one, "1.0005", "type: decimal, scale: 3, stored: decimal", "", "1.0005"},
		{one, "'NaN'::numeric", "type: decimal, scale: 3, stored: decimal", "", "not a number"},
		{one, "1e30::numeric", "type: decimal, scale: 3, stored: decimal", "", "1000000000000000000000000000000"},
		{one, "1e-9::numeric", "type: decimal, scale: 9, stored: decimal", "0.000000001", ""},
		{one, "'4.25'", "type: decimal, scale: 2, stored: decimal", "4.25", ""},
		{one, "date '0001-01-01'", "type: date", "0001-01-01", ""},
		{one, "'infinity'::date", "type: date", "", "infinity"},
		{one, "'2026-09-30'", "type: date", "2026-09-30", ""},
		{one, "timestamp '2026-09-30 00:00'", "type: date", "2026-09-30", ""},
		{one, "timestamp '2026-09-30 10:00'", "type: date", "", "time of day"},
		{one, "timestamp '2026-09-30 10:00'", "type: timestamp", "2026-09-30T10:00:00Z", ""},
		{one, "timestamptz '2026-09-30 10:00:00.5+02'", "type: timestamp", "2026-09-30T08:00:00.5Z", ""},
		{one, "date '2026-09-30'", "type: timestamp", "2026-09-30T00:00:00Z", ""},
		{one, "'-infinity'::timestamptz", "type: timestamp", "", "-infinity"},
		{one, "'2026-09-30 10:00:00+02'", "type: timestamp", "2026-09-30T08:00:00Z", ""},
		{one, "0", "type: flag", "no", ""},
		{one, "'yes'", "type: flag", "yes", ""},
		{one, "'perhaps'", "type: flag", "", "neither yes nor no"},
		{one, "now()::text is not null", "type: flag", "yes", ""},
		{"(values (1), (null), (3)) as v (n)", "n", "type: integer", "1|∅|3", ""},
	} {
		got, err := column(t, s, c.from, c.is, c.kind)
		switch {
		case c.fault != "" && (err == nil || !strings.Contains(err.Error(), c.fault) || !strings.Contains(err.Error(),
			"row 1")):
			t.Errorf("%s as %s: %q, %v; want a fault with %q", c.is, c.kind, got, err, c.fault)
		case c.fault == "" && (err != nil || got != c.want):
			t.Errorf("%s as %s: %q, %v; want %q", c.is, c.kind, got, err, c.want)
		}
	}
}

// TestNumericsAreExact reads random numbers in the protocol's own form as it reads their texts.
func TestNumericsAreExact(t *testing.T) {
	s := begun(t, "numerics", "", nil)
	r := rand.New(rand.NewPCG(3, 4))
	var texts []string
	for range 4000 {
		digits, scale := r.Int64N(1_000_000_000_000_000_000)>>r.IntN(60), r.IntN(13)
		text := frame.Exact(digits, int32(scale)).String()
		if r.IntN(2) == 0 {
			text = "-" + text
		}
		texts = append(texts, text)
	}
	conn, err := own.Connect(t.Context(), "numerics")
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(t.Context())
	rows, err := conn.Query(t.Context(), "select n::numeric from unnest($1::text[]) as n",
		pgx.QueryResultFormats{asBinary}, texts)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	for at := 0; rows.Next(); at++ {
		value := rows.RawValues()[0]
		scale := int32(0)
		if _, places, ok := strings.Cut(texts[at], "."); ok {
			scale = int32(len(places))
		}
		want, err := frame.ParseNumber(texts[at], scale)
		if err != nil {
			t.Fatal(err)
		}
		c := report.Column{Kind: frame.Decimal, Scale: scale}
		slow, err := cells.Decimal(numericText(value), &c)
		if err != nil || slow != want {
			t.Errorf("%s is written as %s and read as %d, %v", texts[at], numericText(value), slow, err)
		}
		if fast, ok := numeric(value, scale); ok && fast != want {
			t.Errorf("%s is read as %d", texts[at], fast)
		} else if !ok && len(strings.Trim(texts[at], "-0.")) < 15 {
			t.Errorf("%s is not read at once", texts[at])
		}
	}
	if err := rows.Err(); err != nil {
		t.Fatal(err)
	}
	_ = s
}
