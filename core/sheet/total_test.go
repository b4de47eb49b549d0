package sheet

import (
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/report"
)

// TestTotalsAreWhatAReaderChooses has figures made in another way than the view's, in the groups and
// below them, without a trace in the view itself.
func TestTotalsAreWhatAReaderChooses(t *testing.T) {
	v := report.View{Of: "intake", Levels: []string{"region"}, Columns: []string{"kg"}}
	for op, want := range map[string]string{
		"sum":    "Region,Net weight, kg\nNorth,20.0\nSouth,30.0\n",
		"median": "Region,Net weight, kg\nNorth,5.000\nSouth,15.000\n",
		"max":    "Region,Net weight, kg\nNorth,10.0\nSouth,25.0\n", "count": "Region,Net weight, kg\nNorth,4\nSouth,2\n",
	} {
		s := sheetOf(t, v, ask.Changes{Totals: []string{"kg:" + op}})
		if got := grid(t, s); got != want {
			t.Errorf("as %s: got\n%swant\n%s", op, got, want)
		}
		if told := s.Told(); told != "The total of net weight is "+totalWords[op]+"." {
			t.Errorf("as %s it is told %q", op, told)
		}
	}
	if s := sheetOf(t, v, ask.Changes{}); s.Told() != "" || !strings.Contains(grid(t, s), "North,20.0") {
		t.Errorf("the view has become\n%s", grid(t, s))
	}
}
