package period_test

import (
	"fmt"
	"time"

	"mantilla/core/period"
)

func ExampleCalendar_ParseRange() {
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		panic(err)
	}
	today := period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, berlin), berlin, time.April)
	for _, typed := range []string{"last month", "this fiscal year", "2026-W07", "2026-13"} {
		days, err := today.ParseRange(typed)
		if err != nil {
			fmt.Println(typed, "-", err)
			continue
		}
		fmt.Println(typed, "-", days, "-", days.Long())
	}
	// Output:
	// last month - 2026-09-01/2026-09-30 - 1–30 September 2026
	// this fiscal year - 2026-04-01/2027-03-31 - 1 April 2026 – 31 March 2027
	// 2026-W07 - 2026-02-09/2026-02-15 - 9–15 February 2026
	// 2026-13 - there is no month 2026-13; months run from 01 to 12
}
