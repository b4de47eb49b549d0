package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestAReportAsksWhatFor before anybody reads its rows, by whatever command, and keeps it with each reading.
func TestAReportAsksWhatFor(t *testing.T) {
	s := demotest.Start(t)
	text, err := os.ReadFile("../demo/catalog/reports/pay-checklist.yaml")
	file := filepath.Join(t.TempDir(), "pay-again.yaml")
	if err == nil {
		err = os.WriteFile(file, []byte(strings.Replace(string(text), "pay-checklist", "pay-again", 1)), 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	wants := "say first what you read it for: mantilla purpose REPORT WHY"
	follow(t, s, []step{
		{"lila", "definition put " + file, 0, "is in the catalog"},
		{"lila", "run pay-again paid=2026-08", 0, "RUN-000001"},
		{"lila", "show R-1", 7, wants},
		{"lila", "figure R-1 total --of hours", 7, wants},
		{"lila", "export R-1 --format csv --to -", 7, wants},
		{"lila", "send R-1 --to lila@brackenfell.example --format csv", 7, wants},
		{"lila", "results", 0, "Pay checklist"},
		{"lila", "purpose pay-again no", 2, "say in 5 to 200 characters"},
		{"lila", "purpose pay-lists 'checking August'", 3, "pay-lists"},
		{"lila", "purpose pay-again 'checking   August'", 0, "It is in the audit"},
		{"lila", "show R-1", 0, "Line"},
		{"lila", "export R-1 --format csv --to -", 0, ","},
		{"adda", "show R-1", 7, wants}, // each says it for themselves
		{"adda", "audit --on report:pay-again", 0, "checking August"},
		{"adda", "audit --on result:R-1", 0, "for: checking August"},
	})
}
