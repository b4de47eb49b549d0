package param_test

import (
	"context"
	"fmt"
	"time"

	"mantilla/core/param"
	"mantilla/core/period"
)

func ExampleResolve() {
	declared := []param.Parameter{
		{ID: "received", Label: "Received", Type: param.Range, Required: true, Default: "last month"},
		{ID: "grade", Label: "Grade", Type: param.Choice, Many: true,
			Options: []param.Entry{{Code: "A", Label: "Select"}, {Code: "B", Label: "Table"}}},
	}
	today := period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), time.UTC, time.January)
	for _, typed := range []map[string]string{{"grade": "table; Select"}, {"received": "2026-02-30", "grade": "Tabel"}} {
		values, faults, err := param.Resolve(context.Background(), declared, typed, param.Setting{Calendar: today})
		if err != nil {
			panic(err)
		}
		for _, fault := range faults {
			fmt.Println(fault.Parameter, "-", fault.Message)
		}
		if len(faults) > 0 {
			continue
		}
		fmt.Println(param.Describe(values))
		for _, v := range values {
			fmt.Println(v.Parameter.ID, v.Resolved())
		}
	}
	// Output:
	// Received 1–30 September 2026; grade Table and Select.
	// received 2026-09-01/2026-09-30
	// grade B; A
	// received - there is no day 2026-02-30; February 2026 has 28 days
	// grade - "Tabel" is not known; did you mean Table (B)?
}
