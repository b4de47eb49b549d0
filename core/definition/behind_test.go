package definition

import (
	"slices"
	"strings"
	"testing"
)

// grouped is the good definition with days that its source added up, and the lots
// of which they are.
var grouped = strings.Replace(good, "views:\n", `  days:
    from: lot
    where: [lot.received_on between :received.start and :received.end]
    group_by: received_on
    key: day
    behind: {of: weighed, by: [day]}
    columns:
      - {id: day, is: received_on, type: date}
      - {id: kg, is: sum(net_g), type: decimal, scale: 3, total: sum}
  weighed:
    from: lot
    columns:
      - {id: day, is: received_on, type: date}
      - {id: kg, is: net_g, type: decimal, scale: 3, total: sum}
views:
`, 1)

func TestRowsBehindAreChecked(t *testing.T) {
	d := parse(t, grouped)
	days := d.Dataset("days")
	if days.Behind == nil || days.Behind.Of != "weighed" || !slices.Equal(days.Behind.By, []string{"day"}) {
		t.Fatalf("read as %+v", days.Behind)
	}
	if !days.OpensBehind(*days.Column("kg")) || days.OpensBehind(*days.Column("day")) ||
		d.Dataset("weighed").OpensBehind(*d.Dataset("weighed").Column("kg")) {
		t.Error("other cells open than the figures of what was grouped")
	}
	for _, c := range []struct{ name, from, to, says string }{
		{"no dataset", "of: weighed", "of: weighd", "did you mean weighed?"},
		{"itself", "of: weighed", "of: days", "none of the others"},
		{"no column here", "by: [day]", "by: [date]", "not a column of dataset days"},
		{"no column there", "{id: day, is: received_on, type: date}\n      - {id: kg, is: net_g",
			"{id: on, is: received_on, type: date}\n      - {id: kg, is: net_g", "not a column of dataset weighed"},
		{"other kinds", "{id: day, is: received_on, type: date}\n      - {id: kg, is: net_g",
			"{id: day, is: received_on, type: text}\n      - {id: kg, is: net_g", "is of one kind"},
		{"a figure without rows", "is: net_g, type: decimal, scale: 3, total: sum", "is: net_g, type: decimal, scale: 3",
			"give weighed the column kg with a total"},
		{"one behind the other", "  weighed:\n    from: lot\n", "  weighed:\n    from: lot\n    behind: {of: lots}\n",
			"has rows of another dataset behind it"},
		{"no dataset named", "{of: weighed, by: [day]}", "{by: [day]}", `lacks the key "of"`},
	} {
		text := strings.Replace(grouped, c.from, c.to, 1)
		if text == grouped {
			t.Fatalf("%s: nothing was changed", c.name)
		}
		_, faults := Parse([]byte(text), Defaults{Currency: "EUR"})
		if !slices.ContainsFunc(faults, func(f Fault) bool { return strings.Contains(f.Message, c.says) }) {
			t.Errorf("%s: got\n%v\nwant … %s", c.name, faults, c.says)
		}
	}
}
