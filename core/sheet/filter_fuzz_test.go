package sheet

import (
	"testing"

	"mantilla/core/ask"
	"mantilla/core/report"
)

// FuzzFilter lays a view out under whatever is typed as a filter: it is refused, or
// leaves rows that each meet it when it is put on once more.
func FuzzFilter(f *testing.F) {
	for _, seed := range []string{"district=Hollin", "region<>North;South", "kg>=5", "received=2026-09",
		"month(received)=2026-Q3", "lot~L1", "kg=", "kg<>", "place='Mill; Ford'",
		"band(kg, 5, 10)=5 to below 10", "received=last month", "=", "kg>=5<=6", "upper(lot)=x", "kg>=1e400", "\x00=\xff",
		"lot='"} {
		f.Add(seed)
	}
	frame := frameOf(f, &intake, 2, deliveries)
	view := report.View{ID: "v", Of: "intake", Show: report.Table, Open: -1}
	f.Fuzz(func(t *testing.T, typed string) {
		once, err := Lay(t.Context(), frame, &intake, &view, ask.Changes{Filters: []string{typed}}, setting)
		if err != nil {
			return
		}
		twice, err := Lay(t.Context(), frame, &intake, &view, ask.Changes{Filters: []string{typed, typed}}, setting)
		if err != nil || twice.Rows != once.Rows || once.Rows > frame.Rows() {
			t.Errorf("%q leaves %d rows, twice %v, %v", typed, once.Rows, twice, err)
		}
		if once.Told() == "" && typed != "none" { // which is no filter
			t.Errorf("%q is not told", typed)
		}
	})
}
