package timetable_test

import (
	"fmt"
	"time"

	"mantilla/core/period"
	"mantilla/core/timetable"
)

func ExampleTimetable_Check() {
	monthly := timetable.Timetable{Rule: "FREQ=MONTHLY;BYMONTHDAY=3", Start: period.Date(2026, 10, 1), At: 7 * 60,
		Zone: "Europe/Berlin", OffDay: "next", Missed: "once"}
	plan, err := monthly.Check()
	if err != nil {
		panic(err)
	}
	fmt.Println(timetable.Say(plan.Rule))
	for _, due := range plan.Next(time.Date(2026, 9, 30, 0, 0, 0, 0, time.UTC), timetable.Weekend, 3) {
		fmt.Println(due.Format("Mon 2 January 2006 15:04 MST"))
	}
	// Output:
	// day 3 of the month
	// Mon 5 October 2026 07:00 CEST
	// Tue 3 November 2026 07:00 CET
	// Thu 3 December 2026 07:00 CET
}
