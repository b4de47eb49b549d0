package query_test

import (
	"fmt"
	"time"

	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
)

// A definition with its values becomes what is to be read, with values beside the text and never in it.
func ExamplePlan() {
	d, faults := definition.Parse([]byte(weighings), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		panic(faults)
	}
	calendar := period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), time.UTC, time.January)
	values := param.Recall(d.Parameters, map[string]string{"day": "2026-09-01/2026-09-30", "desk": "North'; drop"},
		calendar)
	queries, err := query.Plan(d, values, report.Reach{}, report.AnyQuotes)
	if err != nil {
		panic(err)
	}
	for _, condition := range queries[0].Where {
		if condition.Within != nil {
			fmt.Println(condition.Is[0].Text, "within", condition.Within.Days)
			continue
		}
		for _, part := range condition.Is {
			if part.Value != nil {
				fmt.Printf("bound: %v\n", part.Value.Is)
				continue
			}
			fmt.Printf("%q\n", part.Text)
		}
	}
	// Output:
	// weighing.on_day within 2026-09-01/2026-09-30
	// "weighing.desk = "
	// bound: North'; drop
	// ""
}
