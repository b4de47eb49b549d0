package timetable

import (
	"fmt"
	"strings"
	"time"
)

var dayNames = [...]string{"SU", "MO", "TU", "WE", "TH", "FR", "SA"}

// Say reads a rule back in words; a rule that is none of the plain choices is
// told as it stands.
func Say(rule string) string {
	parts := map[string]string{}
	for part := range strings.SplitSeq(strings.TrimPrefix(rule, "RRULE:"), ";") {
		name, value, _ := strings.Cut(part, "=")
		parts[strings.ToUpper(name)] = strings.ToUpper(value)
	}
	every := ""
	if n := parts["INTERVAL"]; n != "" && n != "1" {
		every = n
	}
	known := func(names ...string) bool {
		rest := len(parts)
		for _, n := range append(names, "FREQ", "INTERVAL") {
			if _, ok := parts[n]; ok {
				rest--
			}
		}
		return rest == 0
	}
	month := "the month"
	if parts["FREQ"] == "MONTHLY" && every != "" {
		month = "every " + every + "rd month"
		if every == "2" {
			month = "every 2nd month"
		} else if every != "3" {
			month = "every " + every + "th month"
		}
	}
	pos := parts["BYSETPOS"]
	if parts["FREQ"] == "MONTHLY" && parts["BYMONTH"] == "1,4,7,10" {
		month = "the month after each quarter"
		delete(parts, "BYMONTH")
	}
	switch {
	case parts["FREQ"] == "DAILY" && known():
		if every != "" {
			return "every " + every + " days"
		}
		return "every day"
	case parts["FREQ"] == "WEEKLY" && known("BYDAY"):
		said := "every week"
		if every != "" {
			said = "every " + every + " weeks"
		}
		switch days := parts["BYDAY"]; days {
		case "":
			return said
		case "MO,TU,WE,TH,FR":
			return strings.Replace(said, "every week", "every weekday", 1)
		default:
			return said + " on " + weekdays(days)
		}
	case parts["FREQ"] == "MONTHLY" && parts["BYDAY"] == "MO,TU,WE,TH,FR" && known("BYDAY", "BYSETPOS"):
		if pos == "-1" {
			return "the last working day of " + month
		}
		if pos == "" || strings.ContainsAny(pos, ",-") {
			return rule
		}
		return "the " + ordinal(pos) + " working day of " + month
	case parts["FREQ"] == "MONTHLY" && known("BYMONTHDAY"):
		day := parts["BYMONTHDAY"]
		if day == "-1" {
			return "the last day of " + month
		}
		if day == "" {
			return "once in " + month
		}
		return "day " + day + " of " + month
	case parts["FREQ"] == "MONTHLY" && known("BYDAY") && len(strings.TrimLeft(parts["BYDAY"], "-12345")) == 2:
		day := parts["BYDAY"]
		nth := strings.TrimRight(day, "MOTUWEHFRSA")
		which := "last"
		if nth != "-1" {
			which = ordinal(nth)
		}
		return "the " + which + " " + weekdays(day[len(nth):]) + " of " + month
	case parts["FREQ"] == "YEARLY" && known("BYMONTH", "BYMONTHDAY") && parts["BYMONTH"] != "":
		var m int
		if _, err := fmt.Sscan(parts["BYMONTH"], &m); err != nil || m < 1 || m > 12 {
			return rule
		}
		return "every year on " + strings.TrimSpace(parts["BYMONTHDAY"]+" "+time.Month(m).String())
	}
	return rule
}

func ordinal(n string) string {
	switch n {
	case "1":
		return "first"
	case "2":
		return "second"
	case "3":
		return "third"
	case "4":
		return "fourth"
	case "5":
		return "fifth"
	}
	return n + "th"
}

func weekdays(codes string) string {
	var names []string
	for code := range strings.SplitSeq(codes, ",") {
		for i, name := range dayNames {
			if code == name {
				names = append(names, time.Weekday(i).String())
			}
		}
	}
	if len(names) == 0 {
		return codes
	}
	if len(names) == 1 {
		return names[0]
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}
