package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestAReportIsFoundAndFilledIn goes from a word to a run, with every slip on the way.
func TestAReportIsFoundAndFilledIn(t *testing.T) {
	follow(t, demotest.Start(t), []step{
		{"rhea", "catalog hony", 0, "intake-by-origin|Honey intake by origin"},
		{"rhea", "catalog zzzz", 0, "No report meets the search."},
		{"rhea", "catalog --category Intake", 0, "intake-lots|weighing-waits|!trial-balance"},
		{"rhea", "catalog --favourites", 0, "No report meets the search."},
		{"rhea", "favourite intake-lots", 0, "intake-lots is marked."},
		{"rhea", "catalog --favourites", 0, "intake-lots|!intake-by-origin"},
		{"rhea", "describe intake-lots", 0, "Every lot received, with its keeper|1. Choose when the lots were received."},
		{"rhea", "describe intake-lot", 3, "did you mean intake-lots?"},
		{"rhea", "run intake-lots", 7, "needs the role runner; yours is reader"},
		{"dora", "run intake-lots received=yesterdy", 2,
			"received: \"yesterdy\" is not a range of days; write it as last month"},
		{"dora", "run intake-lots received=2026-13", 2, "there is no month 2026-13; months run from 01 to 12"},
		{"dora", "run intake-lots received=2026-10-01/2026-09-01", 2, "the end 1 September 2026 lies before the start"},
		{"dora", "run intake-lots unit=Holin", 2, "did you mean Hollin (UF-HOL)"},
		{"dora", "run intake-lots unit=Marr", 2, "\"Marr\" is not known|!EM-MAR"}, // which is not hers
		{"dora", "run intake-lots grade=Selct", 2, "did you mean Select (A)?"},
		{"dora", "run intake-lots colour=red", 2, "no parameter \"colour\"; it has received, unit, grade"},
		{"dora", "run intake-lots received", 2, "write it as NAME=VALUE"},
		{"dora", "run intake-lots received=2026-09 received=2026-08", 2, "received is given twice"},
		{"dora", "run intake-lots received=2026-13 grade=Selct colour=red", 2, "months run from|did you mean Select|colour:"},
		{"dora", "run intake-lots received=2026-09", 0, "RUN-000001  done|69 rows|mantilla show R-000001"},
		{"dora", "runs", 0, "RUN-000001|done|intake-lots"},
		{"dora", "stop 1", 0, "had ended already: done"},
		{"runa", "runs", 0, "RUN-000001"}, // whose units hold hers
	})
}

// TestAResultIsReadAtTheTerminal filters, sorts, groups, opens and finds, with every slip.
func TestAResultIsReadAtTheTerminal(t *testing.T) {
	s := demotest.Start(t)
	kg := s.Ask(t, "select count(*) from lot where received_on between '2026-09-01' and '2026-09-30' "+
		"and grade = 'A' and site_id in (select id from site where district_id in "+
		"(select id from district where name = 'Hollin'))")
	follow(t, s, []step{
		{"dora", "run intake-lots received=2026-09", 0, "R-000001"},
		{"dora", "show R-1 --limit 3", 0,
			"Received 1–30 September 2026; all of your units|Some of the lots have no price yet"},
		{"dora", "show R-1 --filter grade=Select --limit 2", 0, "Of which grade Select: " + kg[0] + " of 69 rows."},
		{"dora", "show R-1 --total net_kg:median --total keeper:distinct --limit 1", 0,
			"The total of net weight is the median; the total of keeper is how many values differ.|median"},
		{"dora", "show R-1 --total keeper:avg", 2, "Keeper: a text column has no avg"},
		{"dora", "show R-1 --total kg:avg", 2, "there is no column \"kg\"; write a total as net_kg:avg"},
		{"dora", "show R-1 --filter grad=Select", 2, "did you mean grade?|!R-000001|!cooperative"},
		{"dora", "show R-1 --filter grade", 2, "grade"},
		{"dora", "show R-1 --sort=valu", 2, "no column \"valu\" to sort by; did you mean value?"},
		{"dora", "show R-1 --columns lot_no,valu", 2, "did you mean value?"},
		{"dora", "show R-1 --columns lot_no,value --sort=-value --limit 1", 0, "Lot|Value, EUR|!Keeper "},
		{"dora", "show R-1 --group distric", 2, "did you mean district?"},
		{"dora", "show R-1 --group 'month(recieved)'", 2, "recieved"},
		{"dora", "show R-1 --group district", 0, "Grouped by district.|Hollin"},
		{"dora", "show R-1 --view nothing", 3, "there is no view \"nothing\"; there are lots and all_columns"},
		{"dora", "show R-9", 3, "R-"},
		{"dora", "figure R-1 Hollin --group=district --of=value --limit 2", 0,
			"69 rows come to|they agree|--filter 'district=Hollin'"},
		{"dora", "figure R-1 Holin --group=district --of=value", 2, "there is no group \"Holin\"; did you mean Hollin?"},
		{"dora", "figure R-1 Hollin --group=district --of=valu", 2, "there is no column \"valu\"; did you mean value?"},
		{"dora", "figure R-1 Hollin/x --group=district --of=value", 2, "more parts than there are levels"},
		{"dora", "figure R-1 yes '--group=net_kg > 300' --of=net_kg --limit 1", 0,
			"Net weight, kg of net weight > 300 yes:|they agree|'(net_kg > 300)=yes'"},
		{"dora", "show R-1 --filter 'net_kg>300' --limit 1", 0, "Of which net weight more than 300:"},
		{"dora", "show R-1 --filter 'received>2026-09-15' --limit 1", 0, "Of which received after 15 Sep 2026:"},
		{"dora", "show R-1 --filter 'keeper>A'", 2, "> goes with numbers and days, and keeper holds text"},
		{"dora", "values R-1 grade", 0, "Select|" + kg[0]},
		{"dora", "values R-1 grad", 2, "did you mean grade?"},
		{"dora", "values R-1", 2, "accepts 2 arg(s)"},
		{"dora", "find R-1 Brackwick", 0, "line |Oris Brackwick"},
		{"dora", "find R-1 zzzzz", 2, "\"zzzzz\" is not in the view"},
		{"dora", "completeness R-1", 0, "Lot |100.0 %"},
		{"dora", "functions zzz", 0, "none"},
		{"dora", "functions avg", 0, "avg(net_kg)"},
		{"dora", "follow R-1 lot_no", 2, "69 rows|--filter COLUMN=VALUE"},
		{"dora", "columns R-1 mositure", 2, "use moisture"},
		{"dora", "views keep R-1 Mine --group district", 0, "V-1 Mine is kept for you."},
		{"dora", "views keep R-1 Mine --group grade", 2, "the name is taken"},
		{"dora", "views intake-lots", 0, "V-1|Mine|dora"},
		{"dora", "views intake-by-origin", 0, "none"},
		{"dora", "show R-1 --view V-1", 0, "Grouped by district."},
		{"dora", "views delete intake-lots V-9", 3, "V-9"},
		{"dora", "views delete intake-lots V-1", 0, "mantilla return V-1"},
		{"dora", "return V-1", 0, "V-1 is kept again."},
		{"dora", "entries R-1", 2, "its report declares no entry"},
		{"dora", "reconcile open R-1", 2, "R-000001 is no reconciliation"},
		{"dora", "reconcile R-1 /nothing/here.csv", 2, "/nothing/here.csv"},
	})
}

// TestAResultIsTakenAway writes every form that there is, by its ending, and to standard output.
func TestAResultIsTakenAway(t *testing.T) {
	s, dir := demotest.Start(t), t.TempDir()
	follow(t, s, []step{
		{"dora", "run intake-by-origin received=2026-09", 0, "R-000001"},
		{"dora", "export R-1 --format doc", 2, "\"doc\" is not a format; use xlsx, pdf, csv"},
		{"dora", "export R-1 --to " + dir + "/nowhere/x.csv", 2, "there is no directory " + dir + "/nowhere; make it"},
		{"dora", "export R-1 --to " + dir + "/x.unknown", 2, "format"},
		{"dora", "export R-9 --to " + dir + "/x.csv", 3, ""},
	})
	dora := as(t, s, "dora")
	for ending, begins := range map[string]string{"xlsx": "PK\x03\x04", "pdf": "%PDF-1.", "html": "<!",
		"txt": "Honey intake", "json": "{", "csv": "", "parquet": "PAR1"} {
		path := filepath.Join(dir, "taken."+ending)
		if got := dora.types(t, "export", "R-1", "--view", "by_district", "--to", path); got.code != 0 ||
			!strings.Contains(got.err, "bytes") {
			t.Errorf("%s: %+v", ending, got)
			continue
		}
		text, err := os.ReadFile(path)
		if err != nil || len(text) < 100 || !strings.HasPrefix(string(text), begins) {
			t.Errorf("%s begins with %q, %v", ending, text[:min(len(text), 20)], err)
		}
	}
	if got := dora.types(t, "export", "R-1", "--view", "by_district", "--format", "csv", "--to", "-"); got.code != 0 ||
		!strings.HasPrefix(got.out, "Region,District,") {
		t.Errorf("to standard output: %+v", got)
	}
	left, err := filepath.Glob(filepath.Join(dir, ".*"))
	if err != nil || len(left) > 0 {
		t.Errorf("%v is left, %v", left, err)
	}
}

// TestResultsAreLookedAfter deletes, brings back, holds, notes and proves.
func TestResultsAreLookedAfter(t *testing.T) {
	follow(t, demotest.Start(t), []step{
		{"dora", "run intake-lots received=2026-09", 0, "R-000001"},
		{"dora", "run intake-lots received=2026-08", 0, "R-000002"},
		{"dora", "results", 0, "R-000002|R-000001"},
		{"dora", "results --report intake-by-origin", 0, "none"},
		{"dora", "delete R-1", 2, "R-1 would be in the trash for 30 days; repeat with --yes"},
		{"dora", "delete R-1 --yes", 0, "bring it back with: mantilla return R-1"},
		{"dora", "show R-1", 3, ""},
		{"dora", "trash", 0, "R-000001|result|14 Nov 2026"},
		{"rhea", "return R-1", 7, "needs the role runner"},
		{"dora", "export R-2 --format svg --to -", 2, "show this one as a chart"},
		{"dora", "return R-1", 0, "R-1 is kept again."},
		{"dora", "return R-1", 3, ""},
		{"dora", "seal R-1", 0, "R-1 is unchanged; its seal is"},
		{"dora", "notes write R-1 'Looks fine'", 0, "1  dora|Looks fine"},
		{"dora", "notes settle 1", 0, "settled by dora"},
		{"dora", "notes reopen 1", 0, "!settled"},
		{"dora", "hold R-1 'for the audit'", 0, "held|for the audit"},
		{"dora", "delete R-1 --yes", 2, "signed off or held; withdraw that or release it first"},
		{"dora", "sign R-1 Checked", 7, "signed off by adda or lila"},
		{"lila", "sign R-1 Checked", 0, "signed"},
		{"dora", "hold R-1 --release", 0, "released"},
		{"dora", "delete R-1 --yes", 2, "withdraw"},
		{"lila", "sign R-1 --withdraw", 2, "say why the sign-off is withdrawn"},
		{"lila", "sign R-1 --withdraw 'a lot was missing'", 0, "withdrawn"},
		{"dora", "delete R-1 R-2 --yes", 0, "return R-1|return R-2"},
		{"dora", "compare R-1 R-2", 3, ""},
		{"dora", "return R-1 R-2", 0, "R-1 is kept again.|R-2 is kept again."},
		{"dora", "compare R-1 R-2", 0, "From R-000001"},
		{"dora", "compare R-1", 2, ""},
		{"dora", "show R-3 --limit 2", 0, "R-000001|R-000002"},
	})
}

// TestCriteriaAreKept keeps values under names, refuses to overwrite, and brings back.
func TestCriteriaAreKept(t *testing.T) {
	follow(t, demotest.Start(t), []step{
		{"dora", "criteria save intake-lots Hollin received='last month' unit=Hollin", 0,
			"C-1  Hollin: Received 1–30 September 2026"},
		{"dora", "criteria save intake-lots Hollin received='this month'", 2,
			"received: \"last month\" would become \"this month\"|unit: \"Hollin\" would go|--overwrite|!\"\" would go"},
		{"dora", "criteria save intake-lots Hollin received='last month' unit=Hollin", 0, "C-1"},
		{"dora", "criteria save intake-lots Wrong grade=Selct", 0, "C-2  Wrong|did you mean Select (A)?"}, // kept, and told
		{"dora", "criteria list intake-lots", 0, "C-1|Hollin|no longer fits"},
		{"dora", "criteria rename intake-lots Hollin 'My Hollin'", 0, "My Hollin"},
		{"dora", "criteria rename intake-lots Hollin x", 3, "it has "},
		{"dora", "criteria usual intake-lots 'My Hollin'", 0, "is your usual"},
		{"dora", "run intake-lots --criteria 'My Hollin'", 0, "R-000001"},
		{"dora", "run intake-lots --criteria 'My Holin'", 3, "it has My Hollin"},
		{"dora", "criteria save intake-lots 'My Hollin' received='this month' --overwrite", 0, "October 2026"},
		{"dora", "criteria past intake-lots 'My Hollin'", 0, "Received 1–30 September 2026"},
		{"runa", "criteria list intake-lots", 0, "none"},
		{"dora", "criteria save intake-lots 'My Hollin' received='this month' --overwrite --share nobody", 2, "nobody"},
		{"dora", "criteria save intake-lots 'My Hollin' received='this month' --overwrite --share field", 0, ""},
		{"runa", "criteria list intake-lots", 0, "My Hollin"},
		{"runa", "criteria delete intake-lots 'My Hollin'", 7, "belongs to dora; keep a copy of your own"},
		{"dora", "criteria delete intake-lots 'My Hollin'", 0, "mantilla criteria restore C-1 brings it back"},
		{"dora", "return C-1", 0, "C-1 is kept again."},
		{"dora", "marks intake-lots", 0, "none"},
	})
}
