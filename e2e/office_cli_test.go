package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/demo"
	"mantilla/demo/demotest"
)

// step is a command of a person, what it must print, and its exit code.
type step struct {
	who, args string // words, with _of_ for a space within one
	code      int
	says      string // pieces that must be printed, with | between
}

// steps carries out commands that build on one another.
func steps(t *testing.T, s *demotest.Service, all []step) {
	t.Helper()
	tokens := map[string]string{}
	for _, c := range all {
		if tokens[c.who] == "" {
			tokens[c.who] = login(t, s.URL, c.who, demo.Password)
		}
		var args []string
		for _, word := range strings.Split(c.args, " ") {
			args = append(args, strings.ReplaceAll(word, "_of_", " of "))
		}
		got := command(t, s.URL, tokens[c.who], args...)
		if got.code != c.code {
			t.Errorf("mantilla %s: exit code %d, want %d\n%s%s", c.args, got.code, c.code, got.out, got.err)
		}
		for _, piece := range strings.Split(c.says, "|") {
			if !strings.Contains(got.out+got.err, piece) {
				t.Errorf("mantilla %s: does not print %q but\n%s%s", c.args, piece, got.out, got.err)
			}
		}
	}
}

// TestTheOfficeOnTheCommandLine says what columns mean, tries figures that are known, looks
// after reports, keeps documents, asks for a report, renames one and hands over.
func TestTheOfficeOnTheCommandLine(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	own := definitionText(t, s, "intake-by-origin")
	wrong := file("wrong.yaml", strings.Replace(own, "sum(lots): 547", "sum(lots): 548", 1))
	page, guide := file("page.txt", "<html>"), file("guide.txt", "Take off the tubs.")
	steps(t, s, []step{
		{"rhea", "glossary mass", 0, "net-weight|Net weight|net; net mass"},
		{"rhea", "glossary put wet --name Wet --meaning Water", 7, ""},
		{"aron", "glossary put wet --name Wetness --meaning Water --also dampness", 0, "wet is kept."},
		{"aron", "glossary put wet --name Moisture", 2, "the term moisture says \"Moisture\" already"},
		{"lila", "glossary delete moisture", 2, "--yes"},
		{"lila", "glossary delete moisture --yes", 2, "the column moisture of the report intake-lots points to it"},
		{"lila", "glossary delete wet --yes", 0, "wet is deleted."},
		{"rhea", "columns lab-measurements place", 0,
			"Formula  100 * (value - low) / (high - low)|Made of  low, high, value|Tables   measure_limit, measurement"},
		{"rhea", "columns lab-measurements plac", 2, `there is no column "plac"`},
		{"runa", "run intake-lots received=2026-09", 0, "R-000001"},
		{"runa", "columns R-000001 net_kg", 0, "Net weight: What is in the tubs|lot.net_g|lot.received_on between|?1 = " +
			"2026-09-01"},
		{"runa", "show R-000001 --limit 1", 0, "! Some of the lots have no price yet"},

		{"aron", "definition try intake-by-origin", 0, "September 2026|547|check parts"},
		{"aron", "definition try " + wrong, 1, "548|547|1 of 2 are not as they were expected"},
		{"lila", "definition put " + wrong + " --force", 2, "sum(lots) is 547 and not 548|take it in untried"},
		{"lila", "definition put " + wrong + " --force --untried", 0, "is in the catalog"},
		{"aron", "definition format " + wrong, 0, "report: intake-by-origin\n"},

		{"lila", "definition care intake-lots --owner aron --review 2026-11-01 --every 6", 0, "aron|1 Nov 2026|6 months"},
		{"lila", "definition care intake-lots --owner runa", 2, "may not write definitions"},
		{"lila", "definition care intake-lots --review tomorrow", 2, "write it as 2027-01-15"},
		{"aron", "definition care intake-lots --reviewed", 0, "15 Apr 2027"},
		{"lila", "definition care", 0, "intake-lots|aron|15 Apr 2027"},
		{"lila", "definition care agent-commission --listed", 0, "listed"},
		{"dora", "catalog agent", 0, "Agent commission; not open to you, ask for it with: mantilla requests ask " +
			"agent-commission"},
		{"dora", "requests ask agent-commission for my agents", 0, "Those who may open it are told."},
		{"dora", "requests ask budget-position", 3, "there is no report"},
		{"lila", "requests", 0, "open|agent-commission|dora|for my agents"},
		{"dora", "requests grant 1", 7, ""},
		{"lila", "requests grant 1 until spring", 0, "agent-commission of dora is granted; dora is told."},
		{"dora", "notices", 0, "The report “Agent commission” is open to you now: until spring"},
		{"dora", "describe agent-commission", 0, "Agent commission"},

		{"lila", "shelf put guide " + page + " --title Guide --category Intake --everyone", 2, "as a web page does"},
		{"rhea", "shelf show guide", 3, "there is no document or link"},
		{"lila", "shelf put guide " + guide + " --title Guide --category Intake --everyone", 0, "version 1 of guide"},
		{"rhea", "shelf get guide --to -", 0, "Take off the tubs."},
		{"rhea", "shelf guide", 0, "guide.txt"},

		{"runa", "views keep R-1 Worth --group district --columns net_kg,own_worth --add Worth=value/net_kg --everyone", 0,
			"V-1"},
		{"aron", "draft begin --from V-1", 0, "D-1 “Worth” is begun"},
		{"aron", "draft preview D-1 received=2026-09", 0, "District"},

		{"runa", "run intake-by-origin received=2026-09", 0, "R-000002"},
		{"lila", "definition rename intake-lots lots", 0, "intake-lots is lots now."},
		{"runa", "run intake-lots", 3, "did you mean lots?"},
		{"runa", "seal R-1", 0, "R-1 is unchanged"},
		{"runa", "--output json show R-2", 0, `"report": "lots"`},
		{"runa", "run lots received=2026-09", 0, "R-000003"},
		{"runa", "catalog --recent", 0, "lots"},
		{"adda", "people hand-over runa aron", 0, "aron has them now: kept views: 1, run controls: 1"},
		{"lila", "health lots", 0, "2026-10|Taken away"},

		{"lila", "shared rename unit place", 0, "unit is place now."},
		{"lila", "shared rename unit place", 3, "there is no shared parameter \"unit\""},
		{"lila", "source rename coop records", 0, "coop is records now."},
		{"lila", "definition get lots", 0, "source: records|{use: place, id: unit}"},
		{"lila", "definition versions lots", 0, "the source coop is records now|the shared parameter unit is place now"},
		{"runa", "run lots received=2026-09 unit=Hollin", 0, "R-000004"},
		{"runa", "show R-000001 --limit 1", 0, "! Some of the lots have no price yet"},
		{"runa", "columns R-000001 net_kg", 0, "Net weight: What is in the tubs"},
		{"adda", "groups rename field fields", 0, "field is fields now."},
		{"lila", "people rename runa rune", 7, ""},
		{"adda", "people rename runa rhea", 2, "there is an account rhea already"},
		{"adda", "people rename runa rune", 0, "runa is rune now."},
		{"runa", "who", 0, "rune"},
		{"runa", "results", 0, "R-000004"},
		{"runa", "seal R-1", 0, "R-1 is unchanged"},
		{"runa", "book put ida --name Ida --mail ida@example.org", 0, "ida is kept."},
		{"runa", "book rename ida I", 2, "is not a nickname"},
		{"runa", "book rename ida i.marr", 0, "ida is i.marr now."},
		{"runa", "book", 0, "i.marr"},
	})
}
