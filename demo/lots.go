package demo

import (
	"fmt"
	"time"

	"mantilla/core/period"
)

type lot struct {
	no       string
	keeper   keeper
	received period.Day
	grams    int
	cents    int // price of a kilogram
	priced   bool
	paid     bool
}

var grades = []struct {
	code, label string
	current     bool
	cents       int
}{{"A", "Select", true, 940}, {"B", "Table", true, 720}, {"C", "Baking", true, 510},
	{"X", "Unsorted (until 2024)", false, 430}}

var origins = []struct {
	code, label string
	current     bool
	month       time.Month
}{{"HEA", "Heather", true, 8}, {"LIM", "Lime", true, 7}, {"CLO", "Clover", true, 6}, {"RAP", "Rape", true, 5},
	{"WIL", "Wild flower", true, 6}, {"FOR", "Forest", true, 9}, {"BOR", "Borage", false, 7}}

const lotCount = 18_000

// deliveries makes the lots with every change of their state. Deliveries crowd
// in summer; a few are entered late, corrected, or lack something.
func (g *generator) deliveries() error {
	for _, x := range grades {
		if err := g.add("grade", x.code, x.label, x.current); err != nil {
			return err
		}
	}
	for _, x := range origins {
		if err := g.add("origin", x.code, x.label, x.current); err != nil {
			return err
		}
	}
	days := g.harvestDays(lotCount)
	for i, day := range days {
		k := g.delivering(day)
		grade := grades[min(g.rand.IntN(4), g.rand.IntN(3))]
		if grade.code == "X" && day > period.Date(2024, 12, 31) {
			grade = grades[2]
		}
		origin := pick(g, origins...)
		l := lot{no: fmt.Sprintf("L%02d-%05d", day.Time().Year()%100, i+1), keeper: k, received: day,
			grams: g.between(18_000, 420_000), cents: grade.cents + g.between(-60, 90), priced: !g.chance(70)}
		if i%997 == 500 { // a negative correction of an earlier lot
			l.grams = -g.between(500, 9_000)
		}
		if err := g.addLot(l, grade.code, origin.code, i); err != nil {
			return err
		}
	}
	return nil
}

// harvestDays spreads n deliveries over the seasons, in order.
func (g *generator) harvestDays(n int) []period.Day {
	weight := map[time.Month]int{1: 1, 2: 1, 3: 2, 4: 5, 5: 12, 6: 18, 7: 22, 8: 20, 9: 12, 10: 5, 11: 1, 12: 1}
	var calendar []period.Day
	for d := firstDay; d <= Today; d++ {
		if d.Time().Weekday() == time.Sunday {
			continue
		}
		for range weight[d.Time().Month()] {
			calendar = append(calendar, d)
		}
	}
	days := make([]period.Day, n)
	for i := range days {
		days[i] = calendar[i*len(calendar)/n]
	}
	return days
}

// delivering picks a keeper who may deliver on that day.
func (g *generator) delivering(day period.Day) keeper {
	for {
		k := pick(g, g.keepers...)
		open := k.site.closed == 0 || day <= k.site.closed
		if k.delivers && open && day >= k.joined && (k.left == 0 || day <= k.left) {
			return k
		}
	}
}

func (g *generator) addLot(l lot, grade, origin string, i int) error {
	age := int(Today - l.received)
	states := []string{"received", "sampled", "graded", "priced", "paid"}
	reached := min(len(states)-1, age/6)
	if !l.priced {
		reached = min(reached, 2)
	}
	state := states[reached]
	if i%211 == 100 && reached > 1 {
		state, reached = "rejected", 1
	}
	l.paid = state == "paid"
	unsettled := false
	if l.paid { // it is paid when its batch is
		_, _, settles := batchOf(l)
		if unsettled = settles >= Today; unsettled {
			state = "priced"
		}
	}
	entered := at(l.received, g.between(7, 17), g.between(0, 59))
	if g.chance(90) {
		entered = entered.AddDate(0, 0, g.between(5, 40)) // entered late
	}
	var price, corrects any
	if l.priced && reached >= 3 {
		price = l.cents
	}
	if l.grams < 0 {
		corrects = g.lots[len(g.lots)-g.between(1, 50)].no
	}
	if err := g.add("lot", l.no, l.keeper.no, l.keeper.site.id, l.received, entered, grade, maybe(g, 120, origin),
		maybe(g, 40, g.between(1520, 1990)), l.grams, price, state, corrects); err != nil {
		return err
	}
	g.lots = append(g.lots, l)
	if err := g.addChanges(l, states[:reached+1], state, entered, unsettled); err != nil {
		return err
	}
	arrived := at(l.received, g.between(7, 16), g.between(0, 59))
	wait, weighing := time.Duration(g.between(1, 75))*time.Minute, time.Duration(g.between(3, 25))*time.Minute
	if entered.Format(time.DateOnly) == l.received.String() { // it is entered when it has been weighed
		arrived = entered.Add(-wait - weighing)
	}
	called := arrived.Add(wait)
	return g.add("weighing", l.no, pick(g, "north desk", "south desk", "yard desk"), arrived, maybe(g, 60, called),
		maybe(g, 45, called.Add(weighing)))
}

// changers are who brings a lot into a state.
var changers = map[string][]string{"received": {"system"}, "sampled": {"weighing desk", "laboratory"},
	"graded": {"grading table", "laboratory"},
	"priced": {"office"}, "paid": {"system"}, "rejected": {"laboratory"}}

func (g *generator) addChanges(l lot, passed []string, state string, entered time.Time, unsettled bool) error {
	var before any
	moment := entered
	if state == "rejected" {
		passed = append(passed[:len(passed):len(passed)], state)
	}
	for _, s := range passed {
		automatic := s == "received" || s == "paid"
		who := pick(g, changers[s]...)
		if !unsettled || s != "paid" {
			if err := g.add("lot_change", nil, l.no, moment, before, s, who, automatic); err != nil {
				return err
			}
		}
		before, moment = s, workingHour(moment.Add(time.Duration(g.between(20, 130))*time.Hour))
	}
	return nil
}

// workingHour moves a moment of the night to an hour of the same day at which
// somebody works, in UTC.
func workingHour(t time.Time) time.Time {
	if h := t.Hour(); h < 6 || h > 15 {
		t = t.Add(time.Duration(6+h%10-h) * time.Hour)
	}
	return t
}

// laboratory makes about 60,000 measurements of the lots.
func (g *generator) laboratory() error {
	measures := []struct {
		name       string
		mean, span int
	}{{"moisture", 17_400, 900}, {"conductivity", 620, 160}, {"diastase", 18_500, 4_000}, {"hmf", 9_000, 5_000},
		{"colour", 52_000, 18_000}}
	for _, l := range g.lots {
		for _, m := range measures {
			if g.chance(3) {
				continue
			}
			value := max(1, m.mean+int(float64(m.span)*g.rand.NormFloat64()))
			if err := g.add("measurement", nil, l.no, m.name, maybe(g, 150, value),
				min(l.received+period.Day(g.between(1, 9)), Today), pick(g, "bench 1", "bench 2", "field kit")); err != nil {
				return err
			}
		}
	}
	return nil
}

// limits are those of each measure of the laboratory.
func (g *generator) limits() error {
	for _, m := range []struct {
		name      string
		low, high int
	}{{"moisture", 15_500, 19_500}, {"conductivity", 200, 1_000}, {"diastase", 8_000, 28_500}, {"hmf", 0, 40_000},
		{"colour", 10_000, 95_000}} {
		if err := g.add("measure_limit", m.name, m.low, m.high); err != nil {
			return err
		}
	}
	return nil
}
