package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/api"
	"mantilla/demo/demotest"
	"mantilla/demo/pgserver"
)

const sales = `
	create role reports login password 'only-reads';
	grant usage on schema public to reports;
	create table site (id text primary key, name text not null, parent_id text);
	insert into site values ('UF', 'All', null), ('UF-HOL', 'Hollin', 'UF'), ('UF-MAR', 'Marr', 'UF');
	create table sale (no int primary key, site_id text not null references site, sold_on date not null,
		at timestamptz, amount numeric(12, 2), jars int, paid boolean, state text);
	insert into sale select i, case when i % 3 = 0 then 'UF-HOL' else 'UF-MAR' end, date '2026-01-01' + (i % 280),
		timestamptz '2026-01-01 10:00+01' + (i || ' hours')::interval, (i % 997) * 1.25, i % 12, i % 2 = 0,
		(array['open', 'sent', 'returned'])[1 + i % 3] from generate_series(1, 20000) i;
	create view sold as select * from sale where state = 'sent';
	grant select on all tables in schema public to reports;`

// fillText puts a text into a field of several lines.
func (b *browser) fillText(css, text string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(e => {
		if (!e) return false
		Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set.call(e, %q)
		e.dispatchEvent(new Event('input', { bubbles: true }))
		return true
	})(document.querySelector(%q))`, text, css))
}

// TestADatabaseIsDeclared goes from a PostgreSQL server to a report that is limited to units: its
// librarian declares it, keeps its password and tests it in the console, begins a report from one
// of its tables, and sees what it says when it does not answer.
func TestADatabaseIsDeclared(t *testing.T) {
	t.Parallel()
	own, err := pgserver.Start(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { own.Stop() })
	if err := own.Exec(t.Context(), "postgres", sales); err != nil {
		t.Fatal(err)
	}
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "lila")
	b.open(s.URL + "/office?desk=sources")
	text := `[aria-label="Declaration of a source"]`
	b.fillText(text, fmt.Sprintf(`source: shop
title: Shop
kind: postgres
server:
  host: 127.0.0.1
  port: %d
  database: postgres
  user: reports
  password: shop-reports
  tls: off
units: units
lists:
  units: {from: site, code: id, label: name, parent: parent_id}
`, own.Port))
	b.press("Test")
	b.shows(`there is no secret "shop-reports"`)
	b.fill(`[name=secret-text]`, "only-reads")
	b.press("Keep it")
	b.shows("kept here, sealed")
	b.press("Test")
	b.until(`document.querySelector('[data-findings=good]')?.innerText.includes('list units')`)
	b.shows("the account may read and nothing else")
	b.shot("source-tested")
	b.press("Keep")
	b.shows("It is kept.")
	steps(t, s, []step{
		{"lila", "source", 0, "shop|postgres"},
		{"lila", "source test shop", 0, "only read|list units|3 entries"},
		{"lila", "source look shop", 0, "sale|20000|sold"},
		{"aron", "secret", 7, "needs the role librarian"},
		{"lila", "draft begin Sales --source shop --table sale", 0, "D-1"},
		{"lila", "run draft-1 sold=2026-09", 0, "2130 rows"},
		{"lila", "draft take D-1 --everyone", 0, ""},
		{"runa", "run sales sold=2026-09 unit=Hollin", 0, "rows"},
		{"dora", "run sales sold=2026-09", 0, "rows"},
	})
	result := s.Sheet(t, "R-000003", "rows", api.ReadViewParams{})
	if !strings.Contains(*result.Cells[0][1], "UF-HOL") || result.Rows >= 2130 || result.Rows == 0 {
		t.Errorf("who is limited to Hollin sees %d rows, such as %v", result.Rows, result.Cells[0])
	}
	if err := own.Kill(); err != nil {
		t.Fatal(err)
	}
	steps(t, s, []step{{"runa", "run sales sold=2026-08", 4, "does not answer"}})
	b.open(s.URL + "/reports/sales")
	b.until(`document.querySelector('[data-source-fault]')?.innerText.includes('does not answer since')`)
	b.shot("source-silent")
	b.open(s.URL + "/office?desk=health")
	b.shows("has not answered for")
	b.open(s.URL + "/results/R-000003")
	b.until(`document.querySelector('[data-sheet] [aria-rowindex="2"]')`)
}

// TestFilesPeopleBring begins a source from a file in the console, brings a file that does not
// fit and then one that does, joins it with another table, and uses the earlier one again.
func TestFilesPeopleBring(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := t.TempDir()
	write := func(name, text string) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	good := write("budget.csv", "Budget of the districts;;;\nDistrict;Month;Amount;Freed\n"+
		"Hollin;01.09.2026;1.234,50;yes\nMarr;01.09.2026;99,00;no\nQuarl;01.10.2026;12.000,25;yes\n")
	bad := write("bad.csv", "District;Month;Amount;Freed\nHollin;31.13.2026;1.234,50;yes\nMarr;01.09.2026;9.9.9;perhaps\n")
	later := write("later.csv", "District;Month;Amount;Freed\nHollin;01.11.2026;5,00;no\n")
	b := openBrowser(t)
	b.signIn(s, "lila")
	b.open(s.URL + "/office?desk=sources")
	b.shows("Begin one from a file")
	b.gives(`input[type=file]`, good)
	b.until(`document.querySelector('[data-first-rows]')?.innerText.includes('12.000,25')`)
	b.until(`document.querySelector('[aria-label="Declaration of a source"]').value.includes('decimal: comma')`)
	b.shot("file-looked")
	b.press("Keep")
	b.shows("It is kept.")
	b.until(`document.querySelector('[data-file-table=budget] input[type=file]')`)
	b.gives(`[data-file-table=budget] input[type=file]`, bad)
	b.until(`document.querySelector('[data-taken=refused]')?.innerText.includes('2 lines do not fit')`)
	b.shows(`"31.13.2026" is no day`)
	b.shot("file-refused")
	b.gives(`[data-file-table=budget] input[type=file]`, good)
	b.shows("3 rows are taken.")
	steps(t, s, []step{
		{"lila", "file budget", 0, "budget|in use|3|budget.csv"},
		{"lila", "file put budget budget " + bad, 2, "line 2, Month|nothing was taken"},
		{"lila", "file put budget budget " + later, 0, "Rows in budget: 1."},
		{"lila", "source look budget budget", 0, "numeric(15,2)|Hollin|2026-11-01"},
		{"rhea", "file put budget budget " + good, 7, "needs the role librarian"},
		{"lila", "file use budget budget 1", 0, "is in use"},
		{"lila", "file get budget budget 2", 0, "01.11.2026"},
		{"lila", "file use budget budget nine", 2, "is no number of a file"},
		{"lila", "draft begin Budgets --source budget --table budget", 0, "D-1"},
		{"lila", "run draft-1", 0, "3 rows"},
		{"lila", "draft take D-1 --everyone", 0, ""},
	})
	b.open(s.URL + "/reports/budgets")
	b.until(`document.querySelector('[data-file-table=budget] [data-in-use]')?.innerText.includes('budget.csv')`)
	b.pick(`[data-file-table=budget] button`, "Use it again")
	b.until(`document.querySelector('[data-file-table=budget] [data-in-use]')?.innerText.includes('later.csv')`)
	b.shot("file-brought")

	inbox := filepath.Join(s.Dir, "inbox", "budgets")
	if err := os.MkdirAll(inbox, 0o700); err != nil {
		t.Fatal(err)
	}
	drop := func(name, text string) {
		t.Helper()
		path := filepath.Join(inbox, name)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(path, time.Time{}, time.Now().Add(-time.Minute)); err != nil {
			t.Fatal(err)
		}
	}
	watched := write("watched.yaml", "source: watched\ntitle: Watched\nkind: files\ntables:\n  spent:\n"+
		"    from: {folder: budgets, files: 'spent-*.csv'}\n    columns: [{name: district, type: text}]\n")
	drop("spent-1.csv", "district\nHollin\nMarr\n")
	steps(t, s, []step{{"lila", "source put " + watched, 0, ""},
		{"lila", "file fetch watched spent", 0, "has the newest file"},
		{"lila", "file watched", 0, "spent-1.csv|itself|spent comes from inbox/budgets/spent-*.csv; looked at 15 Oct 2026"},
		{"rhea", "file fetch watched spent", 7, "needs the role librarian"},
		{"lila", "file fetch budget budget", 2, "no files come by themselves for budget"}})
	drop("spent-2.csv", "place\nHollin\n")
	steps(t, s, []step{{"lila", "file fetch watched spent", 2, "spent-2.csv was not taken|no row has the headings"}})
	b.open(s.URL + "/office?desk=sources&source=watched")
	b.shot("file-watched")
	b.shows("Comes by itself from inbox/budgets/spent-*.csv")
	b.shows("no row has the headings district")
	if err := os.Remove(filepath.Join(inbox, "spent-2.csv")); err != nil {
		t.Fatal(err)
	}
	drop("spent-3.csv", "district\nQuarl\n")
	b.press("Look now")
	b.until(`document.querySelector('[data-in-use]')?.innerText.includes('spent-3.csv')`)
	b.until(`document.querySelector('[data-in-use]').innerText.includes('by itself')`)
}

// TestResultsComeBackAsFiles takes a result away as Parquet, Arrow and lines of JSON, and brings each
// file as a source of its own, whose rows come to the same.
func TestResultsComeBackAsFiles(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := t.TempDir()
	lila := login(t, s.URL, "lila", "honey-and-wax")
	do := func(args string, want ...string) string {
		t.Helper()
		got := command(t, s.URL, lila, strings.Fields(args)...)
		for _, piece := range want {
			if got.code != 0 || !strings.Contains(got.out+got.err, piece) {
				t.Fatalf("mantilla %s lacks %q: %+v", args, piece, got)
			}
		}
		return got.out
	}
	s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	for _, kind := range []string{"parquet", "arrow"} {
		file := filepath.Join(dir, kind+"ed."+kind)
		do("export R-1 --view lots --format "+kind+" --to "+file, "")
		declared := do("file look "+file, "type: date", "type: decimal, scale: 3", "kind: files")
		if strings.Contains(declared, "separator") {
			t.Errorf("a separator is declared of %s:\n%s", kind, declared)
		}
		text := filepath.Join(dir, kind+".yaml")
		if err := os.WriteFile(text, []byte(declared), 0o600); err != nil {
			t.Fatal(err)
		}
		do("source put " + text)
		do("file put "+kind+"ed "+kind+"ed "+file, "Rows in "+kind+"ed: 547.")
		do("source look "+kind+"ed "+kind+"ed", "numeric(15,3)", "2026-09-30")
	}
	lines := filepath.Join(dir, "readings.jsonl")
	if err := os.WriteFile(lines, []byte(`{"hive": "W1", "at": "2026-10-01T06:00:00Z", "kg": 41.5}
{"hive": "W2", "at": "2026-10-01T06:00:00Z", "kg": 3e1, "note": "new queen"}
`), 0o600); err != nil {
		t.Fatal(err)
	}
	text := filepath.Join(dir, "lines.yaml")
	if err := os.WriteFile(text, []byte(do("file look "+lines, "type: timestamp", "note", "type: decimal, scale: 1")),
		0o600); err != nil {
		t.Fatal(err)
	}
	do("source put " + text)
	do("file put readings readings "+lines, "Rows in readings: 2.")
	do("source look readings readings", "new queen", "41.5")
	if got := command(t, s.URL, lila, "file", "put", "readings", "readings", text); got.code != 2 {
		t.Errorf("a file without the headings is taken: %+v", got)
	}
}
