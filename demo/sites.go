package demo

import (
	"fmt"
	"math"

	"mantilla/core/period"
)

// returns makes the monthly return of every site: some late, some missing, one in
// three some kilograms off what the weighing desk took in. What was expected is
// about that: 15 percent more or less.
func (g *generator) returns() error {
	weighed := map[string]int{} // grams by site and month
	for _, l := range g.lots {
		weighed[l.keeper.site.id+monthText(l.received)] += l.grams
	}
	for _, month := range months() {
		for _, s := range g.sites {
			if s.closed != 0 && month > s.closed {
				continue
			}
			in := max(weighed[s.id+monthText(month)]/1000, 0) * 1000
			expected := in / 1000 * g.between(850, 1150) / 10_000 * 10_000
			off := g.between(-90, 90)
			if in == 0 || off > -60 && off < 60 {
				off = 0
			}
			received, returned := any(max(in+off*1000, 0)), any(month+period.Day(g.between(31, 48)))
			if g.chance(12) || month+31 > Today {
				received, returned = nil, nil
			}
			if err := g.add("site_return", s.id, monthText(month), expected, received, returned); err != nil {
				return err
			}
		}
	}
	return nil
}

// scales makes hourly readings of three hive scales over a year, with gaps.
func (g *generator) scales() error {
	const hours = 24 * 400
	for i := range 3 {
		id := fmt.Sprintf("W%d", i+1)
		if err := g.add("scale", id, g.sites[i*30].id, "Hive "+id); err != nil {
			return err
		}
		for h := range hours {
			if g.chance(200) {
				continue
			}
			day := Today - hours/24 + period.Day(h/24)
			season := math.Sin(2 * math.Pi * float64(day.Time().YearDay()-100) / 365)
			weight := 38_000 + int(9_000*season) + h*i/2 + g.between(-120, 120)
			heat := 90 + int(110*season+40*math.Sin(2*math.Pi*float64(h%24-9)/24)) + g.between(-15, 15)
			if err := g.add("scale_reading", id, at(day, h%24, 0), maybe(g, 300, weight), maybe(g, 300, heat)); err != nil {
				return err
			}
		}
	}
	return nil
}

// finished is how far a task is, in hundredths of a percent; of a project that is
// done all of it.
func (g *generator) finished(state string) int {
	done := g.between(0, 100) * 100
	if state == "done" {
		return 10_000
	}
	return done
}

// projects makes building projects with tasks and cost lines.
func (g *generator) projects() error {
	for i, name := range []string{"New weighing hall", "Cold store roof", "Laboratory benches", "Solar field",
		"Yard drainage", "Grading line", "Keeper portal", "Bottling room", "Road to Quarl Ford", "Archive move"} {
		id, starts := fmt.Sprintf("J-%02d", i+1), firstDay+period.Day(g.between(0, 1000))
		ends := starts + period.Day(g.between(120, 700))
		state := "under way"
		if ends < Today {
			state = "done"
		}
		if err := g.add("project", id, name, maybe(g, 4, pick(g, g.sites...).id), starts, maybe(g, 8, ends),
			state); err != nil {
			return err
		}
		for t := range g.between(6, 14) {
			from := starts + period.Day(t*20)
			if err := g.add("task", nil, id,
				fmt.Sprintf("%s %d", pick(g, "Survey", "Permit", "Order", "Build", "Fit", "Test", "Hand over"), t+1), from,
				maybe(g, 9, from+period.Day(g.between(10, 60))), g.finished(state), maybe(g, 5, g.personName())); err != nil {
				return err
			}
		}
		for d := starts; d < ends; d += 30 {
			for _, line := range []string{"material", "labour", "fees"} {
				planned := g.between(300, 9_000) * 100
				spent := any(planned + g.between(-400, 900)*100)
				if d > Today {
					spent = nil
				}
				if err := g.add("project_cost", nil, id, line, monthText(d), planned, spent); err != nil {
					return err
				}
			}
		}
	}
	return nil
}
