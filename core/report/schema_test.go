package report

import (
	"strings"
	"testing"

	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
)

// TestSchemaIsReadAsItWasWritten writes a definition, by names that stay, without
// its SQL, and reads it back.
func TestSchemaIsReadAsItWasWritten(t *testing.T) {
	d := &Definition{ID: "lots", Title: "Lots", Text: "report: lots", Guide: "1. Choose.",
		Parameters: []param.Parameter{{ID: "month", Type: param.Period, Grain: period.Months}},
		Datasets: []Dataset{{ID: "lots", From: Piece{SQL: "from lot"}, Key: []string{"no"}, Columns: []Column{
			{ID: "no", Label: "Lot", Is: Piece{SQL: "lot.no"}, Kind: frame.Text, Total: frame.Distinct},
			{
				ID:       "value",
				Kind:     frame.Money,
				Scale:    2,
				Currency: "EUR",
				Total:    frame.Sum,
				Tones:    []Tone{{When: "value < 0", As: "alert"}},
			},
			{ID: "share", Formula: "share(sum(value))", AtGroups: true, Kind: frame.Decimal, Scale: 1}}}},
		Views: []View{{
			ID:     "by_month",
			Of:     "lots",
			Show:   Table,
			Levels: []string{"month(received)"},
			Sort:   []frame.Key{{Column: "value", Descending: true}},
		}}, Page: []string{"by_month"}}
	text, err := d.Schema()
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`"Kind":"money"`, `"Total":"distinct"`, `"Grain":"month"`, `"Currency":"EUR"`} {
		if !strings.Contains(string(text), want) {
			t.Errorf("%s is not in %s", want, text)
		}
	}
	for _, gone := range []string{"from lot", "lot.no", "report: lots"} {
		if strings.Contains(string(text), gone) {
			t.Errorf("%q is kept", gone)
		}
	}
	if d.Datasets[0].From.SQL == "" || d.Datasets[0].Columns[0].Is.SQL == "" {
		t.Error("writing it changed the definition")
	}
	back, err := FromSchema(text)
	if err != nil {
		t.Fatal(err)
	}
	again, err := back.Schema()
	if err != nil || string(again) != string(text) {
		t.Errorf("read as\n%s\nwritten as\n%s, %v", again, text, err)
	}
	if c := back.Dataset("lots").Columns[1]; c.Kind != frame.Money || c.Total != frame.Sum || c.Scale != 2 ||
		back.Parameters[0].Grain != period.Months {
		t.Errorf("%+v", back)
	}
	for _, wrong := range []string{"", "{", `{"Datasets": [{"Columns": [{"Kind": "colour"}]}]}`,
		`{"Datasets": [{"Columns": [{"Total": "most"}]}]}`, `{"Parameters": [{"Grain": "moon"}]}`} {
		if _, err := FromSchema([]byte(wrong)); err == nil {
			t.Errorf("%s was read", wrong)
		}
	}
}
