package report_test

import (
	"slices"
	"strings"
	"testing"

	"mantilla/core/report"
)

// TestPeriodsComparedWithOpenTheirOwnRun lets the figures of a companion period, and
// not the changes on it, open the report for that period.
func TestPeriodsComparedWithOpenTheirOwnRun(t *testing.T) {
	d := orders
	var compared *report.Dataset
	for i := range d.Datasets {
		if d.Datasets[i].Compare != "" {
			compared = &d.Datasets[i]
		}
	}
	settled := d.Settle(resolve(t, d, map[string]string{compared.Compare: "2026-09 against year before and 2026-06"}))
	linked := 0
	for _, c := range settled.Dataset(compared.ID).Columns {
		change := strings.HasPrefix(c.Label, "Change on ")
		switch {
		case c.Companion == 0:
		case change != (c.Opens == nil):
			t.Errorf("column %s, a change: %v, opens %+v", c.ID, change, c.Opens)
		case c.Opens != nil:
			linked++
			at := slices.IndexFunc(c.Opens.With, func(f report.Fill) bool { return f.Parameter == compared.Compare })
			if c.Opens.Report != d.ID || at < 0 || c.Opens.With[at].Companion != c.Companion {
				t.Errorf("column %s opens %+v", c.ID, c.Opens)
			}
		}
	}
	if linked < 2 {
		t.Errorf("only %d columns of companions are linked", linked)
	}
}
