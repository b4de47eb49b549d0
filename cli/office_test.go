package cli_test

import (
	"os"
	"path/filepath"
	"testing"

	"mantilla/demo/demotest"
)

// written is a file of a test.
func written(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

const monthEnd = `title: Month end
steps:
  - {report: intake-lots, values: {received: last month}}
outputs: [kept]
`

// TestRunControlsAreKept writes, runs, overwrites, brings back and deletes one.
func TestRunControlsAreKept(t *testing.T) {
	month := written(t, "month.yaml", monthEnd)
	wrong := written(t, "wrong.yaml", "title: Month end\nsteps:\n  - {report: intake-lot}\n")
	twice := written(t, "twice.yaml", monthEnd+"outputs: [kept]\n")
	more := written(t, "more.yaml", `title: Month's end
steps:
  - {report: intake-lots, values: {received: last month}}
  - {report: intake-by-origin, values: {received: last month}}
outputs: [kept]
`)
	follow(t, demotest.Start(t), []step{
		{"dora", "control put month " + wrong, 2, "intake-lot|did you mean intake-lots?"},
		{"dora", "control put month " + twice, 2, "outputs"},
		{"dora", "control put Month " + month, 2, "\"Month\" is not the id of a run control"},
		{"rhea", "control put month " + month, 7, ""},
		{"dora", "control put month " + month, 0, "mantilla control run month"},
		{"dora", "control put month " + more, 2, "would change it|--overwrite"},
		{"dora", "control try " + wrong, 2, "did you mean intake-lots?"},
		{"dora", "control try month", 0, "Runs Intake lots. It runs when somebody asks.|nobody"},
		{"dora", "control try " + more, 0, "Intake lots and |intake-by-origin"},
		{"rhea", "control try " + month, 7, ""},
		{"dora", "control past month", 0, "!S-000001"},
		{"dora", "control show mont", 3, "did you mean month"},
		{"dora", "control run month", 0, "S-000001|R-000001|done"},
		{"dora", "control run month receved=2026-08", 2, "no report of the run control has a parameter \"receved\""},
		{"dora", "control run month received=2026-08", 0, "S-000002|103"},
		{"dora", "control past month", 0, "S-000002|S-000001"},
		{"dora", "control pause month", 2, "has no timetable"},
		{"dora", "control put month " + more + " --overwrite", 0, "Month's end is kept"},
		{"dora", "control versions month", 0, "dora"},
		{"dora", "control restore month --revision 9", 2, "no earlier version of revision 9"},
		{"dora", "control restore month --revision 1", 0, ""},
		{"dora", "control show month", 0, "title: Month end|!intake-by-origin"},
		{"dora", "history month", 2, "a history needs two results of month at least"},
		{"dora", "history nothing", 3, "there is no run control \"nothing\""},
		{"dora", "control delete month", 0, "brings it back"},
		{"dora", "control run month", 3, ""},
		{"dora", "return month", 0, "month is kept again."},
		{"dora", "timetable", 0, "districts-month|the last working day of the month"},
		{"dora", "timetable dates FREQ=MONTHLY;BYMONTHDAY=-1 --at 18:00", 0,
			"The last day of the month|Sat 31 Oct 2026 18:00 CET|Wed 31 Mar 2027 18:00 CEST"},
		{"dora", "timetable dates FREQ=NEVER", 2, "is not a rule of RFC 5545 such as"},
		{"dora", "timetable dates FREQ=DAILY --at 25:00", 2, "is not a time of day such as 18:00"},
		{"dora", "timetable dates FREQ=DAILY --zone Mars/Phobos", 2, "Mars/Phobos"},
	})
}

// TestSendingAtTheTerminal writes to people of the address book and to nobody.
func TestSendingAtTheTerminal(t *testing.T) {
	s := demotest.Start(t)
	follow(t, s, []step{
		{"dora", "run intake-by-origin received=2026-09", 0, "R-000001"},
		{"dora", "book put hal --mail hal@brackenfell.example", 2, "the name is missing"},
		{"dora", "book put hal --mail nowhere --name Hal", 2, "nowhere"},
		{"dora", "book put hal --mail hal@brackenfell.example --name 'Hal Heath'", 0, "hal is kept."},
		{"dora", "book", 0, "hal|Hal Heath"},
		{"dora", "book delete hal", 2, "hal cannot be brought back; repeat with --yes"},
		{"dora", "send R-1", 2, "name a mail address, or who is in the address book"},
		{"dora", "send R-1 --to nobody", 2, "nobody in the address book is called \"nobody\""},
		{"dora", "send R-1 --to hal --format doc", 2, "doc"},
		{"dora", "send R-1 --to hal --format pdf", 0, "P-000001 waits to be sent to hal@brackenfell.example"},
		{"dora", "parcels", 0, "P-000001"},
		{"dora", "parcels stop 99", 3, ""},
		{"dora", "mailbox nothing", 3, "there is no letter \"nothing\""},
		{"dora", "desk", 0, "none"},
		{"dora", "desk put districts-month nothing", 2, "there is no"},
		{"dora", "book delete hal --yes", 0, "hal is deleted."},
		{"dora", "calendars", 0, "holidays|Days on which the offices are closed"},
		{"dora", "calendars delete holidays", 7, ""},
		{"lila", "calendars put Holidays /nothing", 2, ""},
	})
}

// TestTheOfficeIsForItsRoles refuses who may not, and says which role may.
func TestTheOfficeIsForItsRoles(t *testing.T) {
	unlike := written(t, "unlike.yaml", "title: Month end\n")
	follow(t, demotest.Start(t), []step{
		{"dora", "health", 7, "needs the role author; yours is runner"},
		{"dora", "source", 7, "looking at sources needs the role author"},
		{"dora", "people", 7, "needs the role administrator; yours is runner"},
		{"lila", "people", 7, "needs the role administrator; yours is librarian"},
		{"dora", "secret", 7, "needs the role librarian"},
		{"dora", "open intake-lots", 7, "needs the role librarian"},
		{"dora", "draft begin x", 7, "needs the role author"},
		{"lila", "source", 0, "coop|Records of the cooperative"},
		{"lila", "source get cop", 3, "use coop"},
		{"lila", "source look coop keepr", 3, "there is no table \"keepr\"; did you mean keeper?"},
		{"lila", "source look coop keeper --rows 2", 0, "keeper of coop, 240 rows|no "},
		{"lila", "source look coop keeper --rows 2 --output csv", 0, "!rows; read by"},
		{"lila", "source test coop", 0, "✓  reached|✓  only read"},
		{"lila", "source put " + unlike, 2, ""},
		{"lila", "open intake-lots --people dorra", 2, "there is no account \"dorra\""},
		{"lila", "open intake-lots --groups feld", 2, "feld"},
		{"lila", "definition check " + unlike, 2,
			"the report lacks the key \"report\"|the report lacks the key \"datasets\""},
		{"lila", "definition versions intake-lots", 0, "service"},
		{"lila", "definition dependents intake-lots", 0, "lot-changes|intake-by-origin"},
		{"lila", "definition get intake-lot", 3, "did you mean intake-lots?"},
		{"lila", "definition restore intake-lots 9", 3, ""},
		{"lila", "definition compare intake-lots 9", 3, ""},
		{"lila", "retired", 0, "none"},
		{"lila", "retired add report intake-lots", 2, ""},
		{"lila", "secret", 0, "none"},
		{"lila", "secret delete nothing --yes", 3, "nothing"},
		{"lila", "file coop", 0, "none"},
		{"lila", "file nothing", 3, ""},
		{"lila", "bundle look " + unlike, 2, "the file is no bundle"},
		{"lila", "health intake-lots", 0, "It was never run."},
		{"lila", "shared --output json", 0, "\"parameters\"|\"id\": \"received\""},
		{"lila", "shared --output csv", 2, "--output json"},
		{"lila", "shared put " + unlike, 2, ""},
		{"lila", "glossary zzz", 0, "none"},
		{"adda", "people put dora --withhold take-away --give sources --units UF,-UF-MAR", 0, "dora is kept."},
		{"adda", "people", 0, "UF, -UF-MAR|+sources, -take-away"},
		{"dora", "source", 0, "coop|Records of the cooperative"},
		{"adda", "people put dora --withhold '' --give '' --units UF-HOL", 0, ""},
		{"dora", "source", 7, "looking at sources needs the role author"},
		{"adda", "people put dora --give flying", 2, "use take-away, send-outside, sources, open, personal"},
		{"adda", "people put dora --units UF:cellar", 2, "there are region, district and site"},
		{"adda", "space rules", 0, "none"},
		{"adda", "space keep category:Staf --days 90", 3, "did you mean Staff?"},
		{"adda", "space keep category:Staff --days 90 --final --try", 0, "0 results of 0.0 kB would go."},
		{"adda", "space rules", 0, "none"},
		{"adda", "space keep category:Staff --days 90 --final", 0, "go within the hour"},
		{"adda", "space quota person:dora --mb 500", 0, "person:dora may keep 500 MB."},
		{"adda", "space quota person:dora", 2, "--mb"},
		{"adda", "space rules", 0, "category:Staff|kept for 90 days, then gone for good|person:dora|may keep 500 MB"},
		{"adda", "space keep category:Staff --none", 0, "no rule"},
		{"adda", "space quota person:dora --none", 0, "no quota"},
		{"dora", "space rules", 7, "needs the role administrator"},
		{"dora", "people export dora --output json", 0, "\"person\": [|\"title\": "},
		{"dora", "people export runa", 7, "needs the role administrator"},
		{"adda", "people erase dora --yes", 2, "close it first"},
		{"adda", "people put rhea --closed", 0, ""},
		{"adda", "people erase rhea --yes", 0, "rhea is called gone-"},
		{"adda", "people", 0, "Somebody who left"},
		{"adda", "audit check", 0, "whole"},
		{"adda", "people delete eve", 2, "eve can be brought back for 30 days; repeat with --yes"},
		{"adda", "people delete eve --yes", 3, "there is no account \"eve\""},
		{"adda", "people delete adda --yes", 2, "you cannot delete your own account"},
		{"adda", "groups delete feld --yes", 3, ""},
		{"adda", "people hand-over dora nobody", 3, ""},
		{"adda", "sessions end 99", 3, ""},
		{"dora", "zone Mars/Phobos", 2, "is not an IANA time zone such as Europe/Lisbon"},
		{"dora", "zone Europe/Lisbon", 0, "Europe/Lisbon, your own"},
		{"dora", "zone --output json", 0, "\"zone\": \"Europe/Lisbon\""},
		{"dora", "guide", 0, "desk|results|What was mailed"},
		{"dora", "guide --search 'address book'", 0, "sending"},
		{"dora", "guide results", 0, "# Reading a result|Take away"},
		{"dora", "guide reslts", 3, "did you mean results?"},
		{"dora", "ways --opens cellar", 2, "\"cellar\" is none of desk, catalog, controls, runs, results"},
		{"dora", "ways --opens results --density close", 0, "opens    results|density  close|scheme   as everybody"},
		{"dora", "ways --opens '' --output json", 0, "!results|\"density\": \"close\""},
		{"dora", "zone --none", 0, "Europe/Berlin, the organisation's"},
		{"dora", "zone --none Europe/Lisbon", 2, "name a zone, or --none"},
		{"dora", "who", 0, "Dora Hollinfen (dora), runner|field|only UF-HOL"},
		{"dora", "password", 2, "write it to standard input"},
		{"dora", "sessions", 0, "this one"},
		{"dora", "logout", 0, "Signed out."},
		{"dora", "who", 7, "mantilla login NAME"},
	})
}

// TestWhatTheOfficeDeletesComesBack deletes what the office keeps, and takes it out of the trash by its id, or by
// its kind and id where several things have that.
func TestWhatTheOfficeDeletesComesBack(t *testing.T) {
	link := written(t, "prices.txt", "Prices of the season\n")
	follow(t, demotest.Start(t), []step{
		{"adda", "groups put lot-history --title 'Who look lots up' --members runa,dora", 0, "lot-history is kept."},
		{"lila", "open lot-history --groups lot-history", 0, ""},
		{"lila", "shelf put season " + link + " --title Season --category Accounts --group lot-history", 0,
			"prices.txt is kept as version 1 of season."},
		{"lila", "draft begin lot-history", 0, "D-1"},
		{"adda", "groups delete lot-history --yes", 0, "mantilla return group/lot-history brings it back"},
		{"lila", "definition delete lot-history --yes", 0, "mantilla return report/lot-history brings it back"},
		{"lila", "shelf delete season --yes", 0, "mantilla return document/season"},
		{"lila", "draft delete D-1 --yes", 0, "mantilla return draft/D-1"},
		{"lila", "calendars get holidays", 0, "BEGIN:VCALENDAR|DTSTART"},
		{"lila", "calendars get holiday", 3, "did you mean holidays?"},
		{"dora", "describe lot-history", 3, ""},
		{"lila", "trash", 0, "report|lot-history|document|season|D-1|!group"},
		{"adda", "trash --output json", 0, "\"kind\": \"group\""},
		{"adda", "return lot-history", 2, "say which: group/lot-history and report/lot-history"},
		{"dora", "return lot-history", 3, "mantilla trash lists what is there"},
		{"dora", "return report/lot-history", 7, "librarian"},
		{"lila", "return report/lot-history season D-1", 0,
			"lot-history is kept again.|season is kept again.|D-1 is kept again."},
		{"lila", "return season", 3, "there is no season in the trash"},
		{"lila", "open lot-history", 0, "!lot-history, "},
		{"adda", "return lot-history", 0, "lot-history is kept again."},
		{"lila", "open lot-history", 0, "lot-history"},
		{"dora", "shelf get season --to " + link + ".back", 0, "prices.txt.back: 21 bytes"},
		{"lila", "draft get D-1", 0, "report: "},
	})
}
