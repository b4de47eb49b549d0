// Package reconcile matches what one side has recorded with what another states of the same
// thing, as payments with the lines of a bank's statement: by reference, by amount and day within
// a lag of working days, one to one or several to one. What it cannot tell it leaves to people.
package reconcile

import (
	"context"
	"fmt"
	"slices"

	"mantilla/core/period"
	"mantilla/core/timetable"
)

// Item is what one side has: a payment, or a line of a statement. Both sides give amounts in the
// same smallest part of the same currency, and with the same sign.
type Item struct {
	Amount    int64
	Day       period.Day
	Reference string
	Text      string // in which a reference may stand
	Undated   bool   // it has no day yet
	Since     string // the reconciliation in which it was first left open; "" for none
}

// Rule says when items of both sides may belong together.
type Rule struct {
	From, To  int               // working days from the day of ours to that of theirs
	Off       timetable.DaysOff // days on which nobody works
	Tolerance int64             // by how much amounts may differ and still be the same
	Until     period.Day        // the last day that the statement covers
	Since     period.Day        // the first day of ours, where nothing is brought from before; 0 where it is
}

// Class is what became of items.
type Class string

// The classes, in the order in which they are told.
const (
	Matched    Class = "matched"
	Differs    Class = "differs"        // they belong together, and their amounts are not the same
	Doubtful   Class = "doubtful"       // there are several candidates
	OnlyOurs   Class = "only ours"      // the statement should have a line, and has none
	OnlyTheirs Class = "only theirs"    // nobody knows what the line is of
	Later      Class = "next period"    // the line is expected after the statement's end
	Before     Class = "earlier period" // the line can be of something before the first day
)

// Classes are all classes in their order.
var Classes = []Class{Matched, Differs, Doubtful, OnlyOurs, OnlyTheirs, Later, Before}

// Set is items that belong together, by their places in both sides, or one that is alone.
type Set struct {
	Class        Class
	How          string // by what they were found
	Ours, Theirs []int
}

// Choice is what a person said belongs together, by numbers in both sides, counted from 1. Items of
// one side alone are such as cancel each other.
type Choice struct {
	Ours   []int `json:"ours"`
	Theirs []int `json:"theirs"`
}

// Match puts every item of both sides into one set. Sets come in the order of their classes,
// and then of their first items. It fails when a choice names what is not there, or twice.
func Match(ctx context.Context, ours, theirs []Item, rule Rule, chosen []Choice) ([]Set, error) {
	m := &matcher{ours: ours, theirs: theirs, rule: rule, usedOurs: make([]bool, len(ours)),
		usedTheirs: make([]bool, len(theirs))}
	if err := m.choose(chosen); err != nil {
		return nil, err
	}
	for _, step := range []func(context.Context) error{m.byReference, m.byAmount, m.bySums} {
		if err := step(ctx); err != nil {
			return nil, err
		}
	}
	m.rest()
	order := map[Class]int{}
	for i, c := range Classes {
		order[c] = i
	}
	slices.SortStableFunc(m.sets, func(a, b Set) int {
		if a.Class != b.Class {
			return order[a.Class] - order[b.Class]
		}
		return a.first(len(ours)) - b.first(len(ours))
	})
	return m.sets, nil
}

// first is where a set stands among those of its class: by ours, and by theirs where it has none.
func (s Set) first(ours int) int {
	if len(s.Ours) > 0 {
		return s.Ours[0]
	}
	return ours + s.Theirs[0]
}

// matcher is a matching under way.
type matcher struct {
	ours, theirs         []Item
	rule                 Rule
	usedOurs, usedTheirs []bool // which items are in a set
	sets                 []Set
}

func (m *matcher) put(class Class, how string, ours, theirs []int) {
	for _, i := range ours {
		m.usedOurs[i] = true
	}
	for _, i := range theirs {
		m.usedTheirs[i] = true
	}
	m.sets = append(m.sets, Set{class, how, ours, theirs})
}

// settle puts items together that belong together, whether their amounts agree or not.
func (m *matcher) settle(how string, ours, theirs []int) {
	class := Matched
	if !m.near(sum(m.ours, ours), sum(m.theirs, theirs)) {
		class = Differs
	}
	m.put(class, how, ours, theirs)
}

// choose puts together what people said belongs together.
func (m *matcher) choose(chosen []Choice) error {
	for _, c := range chosen {
		if len(c.Ours)+len(c.Theirs) < 2 {
			return fmt.Errorf("a choice names at least two that belong together")
		}
		for _, side := range []struct {
			name    string
			numbers []int
			used    []bool
		}{{"of ours", c.Ours, m.usedOurs}, {"of the statement", c.Theirs, m.usedTheirs}} {
			for n, number := range side.numbers {
				switch {
				case number < 1 || number > len(side.used):
					return fmt.Errorf("there is no number %d %s; they go from 1 to %d", number, side.name, len(side.used))
				case side.used[number-1] || slices.Contains(side.numbers[:n], number):
					return fmt.Errorf("number %d %s was chosen twice", number, side.name)
				}
			}
		}
		m.settle("by hand", places(c.Ours), places(c.Theirs))
	}
	return nil
}

// places are those of numbers, in their order.
func places(numbers []int) (out []int) {
	for _, n := range numbers {
		out = append(out, n-1)
	}
	slices.Sort(out)
	return out
}

// rest gives everything that is alone its class.
func (m *matcher) rest() {
	for i, used := range m.usedOurs {
		switch {
		case used:
		case m.ours[i].Undated:
			m.put(Later, "it has no day yet", []int{i}, nil)
		case m.due(m.ours[i].Day, m.rule.To) > m.rule.Until:
			m.put(Later, "", []int{i}, nil)
		default:
			m.put(OnlyOurs, "", []int{i}, nil)
		}
	}
	for i, used := range m.usedTheirs {
		switch {
		case used:
		case m.rule.Since != 0 && m.theirs[i].Day <= m.due(m.rule.Since-1, m.rule.To):
			m.put(Before, "", nil, []int{i})
		default:
			m.put(OnlyTheirs, "", nil, []int{i})
		}
	}
}

// due is the working day that comes so many working days after a day; 0 gives that day or, where
// nobody works on it, the next on which people do.
func (m *matcher) due(day period.Day, after int) period.Day {
	for m.rule.Off(day) && after == 0 {
		day++
	}
	for ; after > 0; after-- {
		for day++; m.rule.Off(day); day++ {
		}
	}
	return day
}

// window is the days on which a line can follow a day of ours.
func (m *matcher) window(day period.Day) period.Range {
	first := day
	if m.rule.From > 0 {
		first = m.due(day, m.rule.From)
	}
	return period.Range{First: first, Last: m.due(day, m.rule.To)}
}

func (m *matcher) near(a, b int64) bool {
	d := a - b
	return d <= m.rule.Tolerance && -d <= m.rule.Tolerance
}

func sum(items []Item, places []int) (total int64) {
	for _, i := range places {
		total += items[i].Amount
	}
	return total
}

// Lag is how many working days a day comes after another; negative where it comes before.
func Lag(from, to period.Day, off timetable.DaysOff) (days int) {
	sign := 1
	if to < from {
		from, to, sign = to, from, -1
	}
	for d := from + 1; d <= to; d++ {
		if !off(d) {
			days++
		}
	}
	return sign * days
}
