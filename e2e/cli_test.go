package e2e

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestCommandLine goes from the catalog to files, and looks at what is printed
// and at the exit codes. Its steps build on one another.
func TestCommandLine(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := t.TempDir()
	file := func(name string) string { return filepath.Join(dir, name) }
	if err := os.WriteFile(file("bad.yaml"), []byte("report: Bad\ntitel: Bad\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		args     string // words, with _ for a space within one
		code     int
		out, err string // pieces that must be printed, with | between
	}{
		{"catalog", 0, "intake-by-origin|Stock near its best-before day|never", ""},
		{"catalog lot histroy", 0, "lot-history", ""},
		{"catalog zeppelin", 0, "No report meets the search.", ""},
		{"describe intake-lots", 0, "Every lot received|received     Received: range, needed, at most 12 years, otherwise " +
			"last month|Companion   intake-by-origin", ""},
		{"describe intake-lotz", 3, "", "did you mean intake-lots?"},
		{"run intake-lots unit=Hollin;Marr", 0, "", "RUN-000001  done  Received 1–30 September 2026; districts Hollin and " +
			"Marr|117 rows|mantilla show R-000001"},
		{"run intake-lots recieved=today grade=Z received=2026-02-30", 2, "",
			`recieved: the report has no parameter "recieved"; did you mean received?|February 2026 has 28 days|"Z" ` +
				`is not known`},
		{"run intake-lots today", 2, "", "write it as NAME=VALUE"},
		{"run intake-lots grade=A grade=B", 2, "", "given twice"},
		{"run lot-history", 2, "", "Lot is needed"},
		{"run intake-by-origin --no-wait", 0, "", "RUN-000002"},
		{"run near-best-before --to " + file("near.csv"), 0, "", "337 rows|near.csv"},
		{"run near-best-before --to " + file("near.doc"), 2, "", "is not a format"},
		{"runs", 0, "RUN-000003  done|near-best-before|R-000001", ""},
		{"runs --state failed", 0, "Run  State", ""},
		{"stop RUN-000001", 0, "RUN-000001 had ended already: done.", ""},
		{"stop RUN-999999", 3, "", "not found"},
		{"results hollin", 0, "R-000001|117", ""},
		{"show R-000001 --limit 3 --sort=-value", 0, "Lots\n|Net weight, kg|L26-17520  10 Sep 2026  " +
			"Hollin|4,071.75|27,353.094|187,391.21|rows 1 to 3 of 117", ""},
		{"show R-1 --filter net_kg>=400 --filter grade=Select --columns lot_no,net_kg", 0, "the filters leave out", ""},
		{"show R-1 --filter lot_no=none", 0, "None of the 117 rows meets the filters.", ""},
		{"show R-1 --sort valu", 2, "", "did you mean value?"},
		{"show R-1 --view lotz", 3, "", "did you mean lots?"},
		{"show R-999", 3, "", "not found"},
		{"export R-1 --to " + file("lots.xlsx"), 0, "", "lots.xlsx"},
		{"export R-1 --format csv --columns lot_no --sort lot_no", 0, "Lot\r\nL26-173", ""},
		{"export R-1 --to " + file("none/lots.csv"), 2, "", "none; make it, or name another file"},
		{"show R-1 --group district,month(received) --columns net_kg,lot_no", 0,
			"District, Month of received|Hollin (69)|  Sep 2026 (69)|Total", ""},
		{"show R-1 --show crosstab --down district --across grade --cells net_kg", 0,
			"District|Baking|Select|Table|Total|Hollin|Marr", ""},
		{"show R-1 --show chart --group grade --cells net_kg", 0, "Select  |█|· Net weight, kg", ""},
		{"show R-1 --add Half=valu/2", 2, "", "the column Half, character 1|did you mean value?"},
		{"figure R-1 Hollin --group district --of net_kg --by grade", 0,
			"Net weight, kg of Hollin: |69 rows come to |they agree|--filter 'district=Hollin'|Baking (|Select (", ""},
		{"figure R-1 Nowhere --group district --of net_kg", 2, "", "there is no group"},
		{"values R-1 grade --filter district=Hollin", 0, "Value   Rows|Select", ""},
		{"values R-1 grate", 2, "", "did you mean grade or state?"},
		{"find R-1 l26-1752", 0, "line |L26-17520|of ", ""},
		{"find R-1 zeppelin", 2, "", "is not in the view"},
		{"completeness R-1", 0, "Column|Filled|Price per kg, EUR|100.0 %", ""},
		{"functions median", 0, "median(x)|median(net_kg)", ""},
		{"views keep R-1 By_grade --group grade --columns net_kg --everyone", 0, "V-1 By_grade is kept for everyone.", ""},
		{"views keep R-1 By_grade --group grade", 2, "", "taken"},
		{"views intake-lots", 0, "V-1|By_grade|everyone|adda", ""},
		{"show R-1 --view V-1", 0, "By_grade\n|Grade|Select (", ""},
		{"views delete intake-lots v-1", 0, "", "v-1 is in the trash"},
		{"show R-1 --view V-1", 3, "", "not found"},
		{"seal R-1", 0, "R-1 is unchanged", ""},
		{"definition check " + file("bad.yaml"), 2, "",
			`line 1, column 9: "Bad" is not an id|line 2, column 1: a report has no key "titel"; did you mean title?`},
		{"definition check " + file("gone.yaml"), 2, "", "no such file"},
		{"definition get lot-history", 0, "report: lot-history\n", ""},
		{"delete R-1", 2, "", "repeat with --yes"},
		{"delete R-1 --yes", 0, "", "R-1 is in the trash"},
		{"delete R-1 --yes", 3, "", "not found"},
		{"--output yaml catalog", 2, "", "is not human, json or csv"},
		{"--colour catalog", 2, "", "unknown flag"},
		{"__complete run intake", 0, "intake-lots\tIntake lots", ""},
		{"__complete run intake-lots received=today gr", 0, "grade=\tGrade", ""},
		{"__complete run intake-lots unit=holl", 0, "unit=UF-HOL\tHollin", ""},
		{"__complete run intake-lots received=", 0, "received=last_month\t1–30 September 2026", ""},
		// Two runs were made at once: which result got which number is their affair.
		{"__complete show ", 0, "\tStock near its best-before day|\tHoney intake by origin", ""},
	} {
		var args []string
		for _, word := range strings.Split(c.args, " ") {
			args = append(args, strings.ReplaceAll(word, "_of_", " of "))
		}
		got := command(t, s.URL, s.Token, args...)
		if got.code != c.code {
			t.Errorf("mantilla %s: exit code %d, want %d\n%s%s", c.args, got.code, c.code, got.out, got.err)
		}
		for text, pieces := range map[string]string{got.out: c.out, got.err: c.err} {
			for _, piece := range strings.Split(pieces, "|") {
				if !strings.Contains(text, piece) {
					t.Errorf("mantilla %s: does not print %q but\n%s%s", c.args, piece, got.out, got.err)
				}
			}
		}
	}
	text, err := os.ReadFile(file("near.csv"))
	if err != nil {
		t.Fatal(err)
	}
	if rows, err := csv.NewReader(strings.NewReader(string(text))).ReadAll(); err != nil || len(rows) != 285 {
		t.Errorf("near.csv has %d lines, %v", len(rows), err)
	}
	files, err := os.ReadDir(dir)
	if err != nil || len(files) != 3 {
		t.Errorf("files are left half-written: %v, %v", files, err)
	}
}

func TestJSONOutput(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	var run api.Run
	var shown struct {
		Result api.Result
		Sheets []api.Sheet
	}
	for args, into := range map[string]any{"catalog": &api.Catalog{}, "describe lot-history": &api.Report{},
		"runs": &[]api.Run{}, "results": &[]api.ResultLine{}} {
		if got := command(t, s.URL, s.Token, append(strings.Fields(args), "--output", "json")...); got.code != 0 ||
			json.Unmarshal([]byte(got.out), into) != nil {
			t.Errorf("%s: %+v", args, got)
		}
	}
	got := command(t, s.URL, s.Token, "run", "payout-detail", "settled=2026-08", "--output", "json")
	if err := json.Unmarshal([]byte(got.out), &run); err != nil || run.Result == nil {
		t.Fatalf("%v: %+v", err, got)
	}
	got = command(t, s.URL, s.Token, "show", *run.Result, "--output", "json", "--limit", "2")
	if err := json.Unmarshal([]byte(got.out), &shown); err != nil || len(shown.Sheets) != 1 ||
		len(shown.Sheets[0].Cells) != 2 || shown.Result.Seal == "" {
		t.Fatalf("%v: %+v", err, got)
	}
	if day := *shown.Sheets[0].Cells[0][1]; day != "2026-08-04" {
		t.Errorf("a day for programs is written %q", day)
	}
}

func TestUnreachableService(t *testing.T) {
	t.Parallel()
	if got := command(t, "http://127.0.0.1:1", "", "catalog"); got.code != 6 ||
		!strings.Contains(got.err, "cannot be reached") {
		t.Errorf("%+v", got)
	}
}
