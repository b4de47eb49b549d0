package sourcetest

import (
	"slices"
	"strings"
	"testing"

	"mantilla/core/report"
	"mantilla/source"
)

// Run holds a kind of source to all agreements, each on a source of its own.
func Run(t *testing.T, begun func(t *testing.T) Made) {
	for _, agreement := range []struct {
		name string
		hold func(t *testing.T, m Made)
	}{
		{"cells", cells}, {"parameters", parameters}, {"reach", reach}, {"lists", lists}, {"sought", sought},
		{"tables", tables},
		{"faults", faults}, {"one state", oneState}, {"stopped", stopped}, {"only read", onlyRead}, {"examined", examined},
		{"reckoned", reckoned}, {"others", others},
	} {
		t.Run(agreement.name, func(t *testing.T) { agreement.hold(t, begun(t)) })
	}
}

// cells are read as they are held.
func cells(t *testing.T, m Made) {
	d := parse(t, lots)
	rows, err := read(t, begin(t, m.Source), planned(t, m.Source, d, nil, report.Reach{})[0])
	if err != nil {
		t.Fatal(err)
	}
	slices.Sort(rows)
	for i, want := range []string{
		`1|Ford, Nöt|A|2026-09-01|2026-09-01T05:30:00.123456Z|1.250|10.50|3|yes|Ærø, 茶, 🐝 'quoted' "twice"`,
		`2|Ford, Nöt|B|2024-02-29|1969-12-31T23:59:59.999999Z|-0.001|-0.01|-7|no|`,
		`3|South|∅|1899-12-31|2026-10-25T00:30:00Z|` + m.Types.LargeDecimal + `|` + m.Types.LargeMoney +
			`|9223372036854775807|∅|∅`,
		`4|South|A|∅|∅|∅|∅|∅|yes|a;b`,
		`5|North|B|2026-09-30|2026-09-30T22:00:00Z|0.000|0.00|0|no| spaced `,
	} {
		if i >= len(rows) || rows[i] != want {
			t.Errorf("row %d is read as\n%s, want\n%s", i+1, append(rows, "nothing")[min(i, len(rows))], want)
		}
	}
	sums, err := read(t, begin(t, m.Source), planned(t, m.Source, d, nil, report.Reach{})[1])
	slices.Sort(sums)
	if err != nil || strings.Join(sums, "; ") != "N1|2|-4.0; N|1|0.0; S|2|9223372036854775807.0" {
		if err == nil || !strings.Contains(err.Error(), "digits") { // its sum has more than a cell holds
			t.Errorf("grouped it gives %v, %v", sums, err)
		}
	}
}

// parameters reach the source bound, of every type, alone and together.
func parameters(t *testing.T, m Made) {
	d := parse(t, lots)
	v := begin(t, m.Source)
	for _, c := range []struct {
		facts map[string]string
		want  string
	}{
		{nil, "1 2 3 4 5"},
		{map[string]string{"came": "2026-09-01/2026-09-30"}, "1 5"},
		{map[string]string{"came": "2024-02-29/2024-02-29"}, "2"},
		{map[string]string{"came": "1899-01-01/1899-12-31"}, "3"},
		{map[string]string{"month": "2026-09"}, "1 5"},
		{map[string]string{"arrived": "2026-09-01T05:30:00.123456Z/2026-09-01T05:30:00.123457Z"}, "1"},
		{map[string]string{"spans": "1969-12-31T23:00:00Z/1970-01-01T00:00:00Z; 2026-10-25T00:30:00Z/2026-10-25T01:00:00Z"},
			"2 3"},
		{map[string]string{"day": "2026-09-02"}, "5"},
		{map[string]string{"site": "N1"}, "1 2"},
		{map[string]string{"grade": "A; B"}, "1 2 4 5"},
		{map[string]string{"grade": "Z"}, ""},
		{map[string]string{"one": "B"}, "2 5"},
		{map[string]string{"one": "'; drop table lot; --"}, ""},
		{map[string]string{"least": "1"}, "1 3"},
		{map[string]string{"least": "-4"}, "1 2 3 5"},
		{map[string]string{"heavy": "0.6"}, "1 3"},
		{map[string]string{"worth": "10.50"}, "1 3"},
		{map[string]string{"checked": "yes"}, "1 4"},
		{map[string]string{"checked": "no"}, "2 5"},
		{map[string]string{"first": "2"}, "4 5"},
		{map[string]string{"grade": "A; B", "came": "2026-01-01/2026-12-31", "checked": "yes"}, "1"},
	} {
		q := planned(t, m.Source, d, c.facts, report.Reach{})[0]
		if err := m.Source.Prepare(t.Context(), q); err != nil {
			t.Errorf("%v: %v", c.facts, err)
			continue
		}
		rows, err := read(t, v, q)
		slices.Sort(rows)
		if err != nil || numbers(rows) != c.want {
			t.Errorf("%v gives %q, %v; want %q", c.facts, numbers(rows), err, c.want)
		}
	}
	many := "N1"
	for range 3000 {
		many += "; X"
	}
	rows, err := read(t, v, planned(t, m.Source, d, map[string]string{"site": many}, report.Reach{})[0])
	if slices.Sort(rows); err != nil || numbers(rows) != "1 2" {
		t.Errorf("a long list gives %q, %v", numbers(rows), err)
	}
}

// reach cuts rows to units; none of them gives no row.
func reach(t *testing.T, m Made) {
	d := parse(t, lots)
	v := begin(t, m.Source)
	for units, want := range map[string]string{"N1": "1 2", "N1 S": "1 2 3 4", "": ""} {
		rows, err := read(t, v, planned(t, m.Source, d, nil, report.Reach{Limited: true, Units: strings.Fields(units)})[0])
		if slices.Sort(rows); err != nil || numbers(rows) != want {
			t.Errorf("units %q see %q, %v; want %q", units, numbers(rows), err, want)
		}
	}
}

// lists are read with what finds, orders and narrows them.
func lists(t *testing.T, m Made) {
	units, err := m.Source.List(t.Context(), "units")
	if err != nil || len(units) != 4 || units[1].Code != "N" || units[1].Parent != "C" || units[2].Label != "Ford, Nöt" ||
		units[0].Parent != "" || units[2].Kind != "site" || !units[0].Current {
		t.Errorf("the units are %+v, %v", units, err)
	}
	grades, err := m.Source.List(t.Context(), "grades")
	if err != nil || len(grades) != 2 || grades[0].Code != "B" || grades[0].Current || !grades[1].Current ||
		grades[0].Find[0] != "dark" || grades[1].Fields["sort"] != "x" {
		t.Errorf("the grades are %+v, %v", grades, err)
	}
	if _, err := m.Source.List(t.Context(), "unit"); err == nil ||
		!strings.Contains(err.Error(), "grades, named, sites and units") {
		t.Errorf("a list that there is not: %v", err)
	}
}

// sought entries of large lists are found by code, by name and by words, within limits.
func sought(t *testing.T, m Made) {
	plain := "N1"
	if m.Accents {
		plain = ""
	}
	for _, c := range []struct {
		list string
		w    source.Sought
		want string
	}{
		{"sites", source.Sought{Limit: 9}, "C N N1 S"},
		{"sites", source.Sought{Limit: 2}, "C N"},
		{"sites", source.Sought{Codes: []string{"S", "N1", "X"}, Limit: 9}, "N1 S"},
		{"sites", source.Sought{Codes: []string{}, Limit: 9}, ""},
		{"sites", source.Sought{Name: "North", Limit: 9}, "N"},
		{"sites", source.Sought{Name: "N1", Limit: 9}, "N1"},
		{"sites", source.Sought{Name: "Nor", Limit: 9}, ""},
		{"sites", source.Sought{Words: []string{"FORD", "nö"}, Limit: 9}, "N1"},
		{"sites", source.Sought{Words: []string{"ford", "NOT"}, Limit: 9}, plain},
		{"sites", source.Sought{Words: []string{"region"}, Limit: 9}, "N S"},
		{"sites", source.Sought{Words: []string{"region", "sou"}, Limit: 9}, "S"},
		{"sites", source.Sought{Words: []string{"%"}, Limit: 9}, ""},
		{"sites", source.Sought{Words: []string{"N_"}, Limit: 9}, ""},
		{"sites", source.Sought{Words: []string{"|', "}, Limit: 9}, ""},
		{"sites", source.Sought{Cut: true, Units: []string{"C"}, Limit: 9}, "N S"},
		{"sites", source.Sought{Cut: true, Units: []string{}, Limit: 9}, ""},
		{"sites", source.Sought{Cut: true, Units: []string{"N"}, Words: []string{"o"}, Limit: 9}, "N1"},
		{"sites", source.Sought{By: map[string][]string{"kind": {"site", "coop"}}, Limit: 9}, "C N1"},
		{"named", source.Sought{Words: []string{"Ford,", "Nöt"}, Limit: 9}, "N1"},
		{"named", source.Sought{Words: []string{"S"}, Limit: 9}, "S"},
		{"named", source.Sought{Words: []string{"ord"}, Limit: 9}, ""},
	} {
		items, err := m.Source.Find(t.Context(), c.list, c.w)
		var codes []string
		for _, item := range items {
			codes = append(codes, item.Code)
		}
		if got := strings.Join(codes, " "); err != nil || got != c.want {
			t.Errorf("%s %+v finds %q, %v, want %q", c.list, c.w, got, err, c.want)
		}
	}
	if _, err := m.Source.Find(t.Context(), "none", source.Sought{Limit: 1}); err == nil {
		t.Error("a list that there is not is searched")
	}
}

// tables are shown with their columns, keys and counts, and their first rows.
func tables(t *testing.T, m Made) {
	all, err := m.Source.Tables(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	at := slices.IndexFunc(all, func(x source.Table) bool { return x.Name == "lot" })
	if at < 0 || all[at].Rows != 5 || len(all[at].Columns) != 10 || all[at].View {
		t.Fatalf("the tables are %+v", all)
	}
	columns := all[at].Columns
	if columns[0].Name != "no" || !columns[0].Key || columns[1].References != "unit" || !columns[1].Required ||
		columns[9].Required || columns[9].Type == "" {
		t.Errorf("its columns are %+v", columns)
	}
	rows, err := m.Source.Sample(t.Context(), "lot", 2)
	if err != nil || len(rows.Rows) != 2 || len(rows.Columns) != 10 || *rows.Rows[0][1] != "N1" {
		t.Errorf("its first rows are %+v, %v", rows, err)
	}
	for _, wrong := range []string{"lots", "lot; drop table lot", `"lot"`} {
		if _, err := m.Source.Sample(t.Context(), wrong, 2); err == nil {
			t.Errorf("%s is a table", wrong)
		}
	}
}

// faults of a definition are told with the name that was probably meant.
func faults(t *testing.T, m Made) {
	for _, c := range []struct{ from, to, says string }{
		{"is: lot.note", "is: lot.notes", "note"},
		{"from: lot join unit", "from: lots as lot join unit", "lots"},
		{"lot.jars >= :least * 2", "lot.jars >= :least * ", "syntax"},
	} {
		text := strings.Replace(lots, c.from, c.to, 1)
		if text == lots {
			t.Fatalf("%s: nothing was changed", c.from)
		}
		q := planned(t, m.Source, parse(t, text), map[string]string{"least": "1"}, report.Reach{})[0]
		if err := m.Source.Prepare(t.Context(), q); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.to, err)
		}
	}
}

// oneState is what all queries of a session see, whatever is written meanwhile; another session
// and the fingerprint tell that something was.
func oneState(t *testing.T, m Made) {
	d := parse(t, lots)
	q := planned(t, m.Source, d, nil, report.Reach{})[0]
	before, err := m.Source.Fingerprint(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	v := begin(t, m.Source)
	again, err := m.Source.Fingerprint(t.Context())
	if err != nil || (again != before || v.Fingerprint() != before) != m.Timeless {
		t.Errorf("nothing was written, and the fingerprint went from %s to %s (%s in the session), %v", before, again,
			v.Fingerprint(), err)
	}
	if rows, err := read(t, v, q); err != nil || len(rows) != 5 {
		t.Fatal(rows, err)
	}
	m.Exec(t, "insert into lot (no, site) values (6, 'S')")
	if rows, err := read(t, v, q); err != nil || len(rows) != 5 {
		t.Errorf("within a session there are %d rows after something was written, %v", len(rows), err)
	}
	if rows, err := read(t, begin(t, m.Source), q); err != nil || len(rows) != 6 {
		t.Errorf("another session sees %d rows, %v", len(rows), err)
	}
	if after, err := m.Source.Fingerprint(t.Context()); err != nil || after == before {
		t.Errorf("something was written, and the fingerprint is still %s, %v", after, err)
	}
}

// onlyRead can the source be, whatever a definition says.
func onlyRead(t *testing.T, m Made) {
	v := begin(t, m.Source)
	for _, piece := range []string{
		"(delete from lot)", "(select 1); delete from lot; --", "1; commit; delete from lot",
		"(insert into unit values ('x', 'x'))",
		"(with gone as (delete from lot returning 1) select count(*) from gone)", "(update lot set net = 0)", "drop",
		"(select 1) into copied",
	} {
		text := strings.Replace(lots, "is: lot.note", "is: \""+strings.ReplaceAll(piece, `"`, `\"`)+"\"", 1)
		q := planned(t, m.Source, parse(t, text), nil, report.Reach{})[0]
		if err := m.Source.Prepare(t.Context(), q); err != nil {
			continue
		}
		if _, err := read(t, v, q); err == nil {
			t.Errorf("%s is read", piece)
		}
	}
	d := parse(t, lots)
	if rows, err := read(t, begin(t, m.Source), planned(t, m.Source, d, nil, report.Reach{})[0]); err != nil ||
		len(rows) != 5 {
		t.Errorf("afterwards there are %d rows, %v", len(rows), err)
	}
}

// examined tells of each step that it is well.
func examined(t *testing.T, m Made) {
	var looked []string
	for _, f := range m.Source.Examine(t.Context()) {
		if !f.Good || f.Says == "" {
			t.Errorf("%s: %s", f.What, f.Says)
		}
		looked = append(looked, f.What)
	}
	for _, want := range []string{"reached", "only read", "list units", "list grades"} {
		if !slices.Contains(looked, want) {
			t.Errorf("%s is not looked at, of %v", want, looked)
		}
	}
}
