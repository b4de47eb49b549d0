package reading

import (
	"strings"
	"testing"

	"mantilla/model"
)

// TestRowsThatStayComeOnlyAsFarAsTheyFit lets rows come from an engine up to a number, and those
// that are kept here whatever they are.
func TestRowsThatStayComeOnlyAsFarAsTheyFit(t *testing.T) {
	kept := &model.Kept{Dataset: "readings", Rows: 1000, Stay: &model.Stay{Source: "coop"}}
	for _, c := range []struct {
		of   Reading
		says string
	}{
		{Reading{}, ""},
		{Reading{stays: kept, most: 1000}, ""},
		{Reading{stays: kept, most: 999}, "readings has 1000 rows that stay in the source coop, and at most 999 may come"},
	} {
		err := c.of.mayCome()
		if c.says == "" && err != nil || c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("%+v: %v", c.of, err)
		}
	}
	if _, _, err := (&Reading{stays: kept, most: 1}).Batches(t.Context(), nil); err == nil {
		t.Error("too many rows come")
	}
}
