package period

import (
	"fmt"
	"slices"
	"strings"
)

// UnitNamed returns the unit with that name, such as month or fiscal year.
func UnitNamed(name string) (Unit, bool) {
	at := slices.Index(unitNames[:], name)
	return Unit(max(at, 0)), at >= 0
}

// coarser lists the units whose periods are made of whole periods of the key.
// Weeks make up nothing coarser: no month or year is whole weeks.
var coarser = map[Unit][]Unit{
	Days:        {Days, Weeks, Months, Quarters, Years, FiscalYears},
	Weeks:       {Weeks},
	Months:      {Months, Quarters, Years, FiscalYears},
	Quarters:    {Quarters, Years, FiscalYears},
	Years:       {Years},
	FiscalYears: {FiscalYears},
}

// Units returns the units that a period of data with that grain may have.
func Units(grain Unit) []Unit { return coarser[grain] }

// Period is one period by its name.
type Period struct {
	Unit  Unit
	Range Range
}

// String writes the period so that it reads back: 2026-09, 2026-Q3, 2026-W36,
// 2026, 2025/26 or 2026-09-30.
func (p Period) String() string {
	first := p.Range.First.Time()
	switch p.Unit {
	case Weeks:
		y, w := first.ISOWeek()
		return fmt.Sprintf("%04d-W%02d", y, w)
	case Months:
		return first.Format("2006-01")
	case Quarters:
		return fmt.Sprintf("%04d-Q%d", first.Year(), (int(first.Month())+2)/3)
	case Years:
		return first.Format("2006")
	case FiscalYears:
		return fmt.Sprintf("%04d/%02d", first.Year(), (first.Year()+1)%100)
	}
	return p.Range.First.String()
}

// Long writes the period as people say it: September 2026, week 36 of 2026.
func (p Period) Long() string {
	first := p.Range.First.Time()
	switch p.Unit {
	case Weeks:
		y, w := first.ISOWeek()
		return fmt.Sprintf("week %d of %d", w, y)
	case Months:
		return first.Format("January 2006")
	case Quarters:
		return fmt.Sprintf("quarter %d of %d", (int(first.Month())+2)/3, first.Year())
	case FiscalYears:
		return "fiscal year " + p.String()
	case Years:
		return p.String()
	}
	return p.Range.First.Long()
}

// ParsePeriod resolves one period that is no finer than the data's grain:
// 2026-09, 2026-Q3, 2026-W36, 2026, 2025/26, a day, or this, last or next and a
// unit.
func (c Calendar) ParsePeriod(text string, grain Unit) (Period, error) {
	t := strings.ToLower(spaced(text))
	u, ok := unitOf(t)
	if !ok {
		return Period{}, fmt.Errorf("%q is not a period; write it as %s", t, c.example(grain))
	}
	r, err := c.ParseRange(t)
	if err != nil {
		return Period{}, err
	}
	if !slices.Contains(coarser[grain], u) {
		return Period{},
			fmt.Errorf("%q is a %s, and the data has one figure a %s; write a period such as %s", t, u, grain, c.example(grain))
	}
	return Period{u, r}, nil
}

func (c Calendar) example(grain Unit) string {
	return Period{grain, c.Shift(grain, c.Today, -1)}.String() + " or last " + grain.String()
}

func unitOf(t string) (Unit, bool) {
	if m := relative.FindStringSubmatch(t); m != nil {
		return unitNamed(m[2]), true
	}
	for u, form := range map[Unit]interface{ MatchString(string) bool }{
		Months:      month,
		Quarters:    quarter,
		Weeks:       week,
		FiscalYears: fiscal,
		Years:       year,
	} {
		if form.MatchString(t) {
			return u, true
		}
	}
	return Days, slices.Contains([]string{"today", "yesterday", "tomorrow"}, t) || len(t) == 10 && t[4] == '-' &&
		t[7] == '-'
}

// Periods returns the periods worth offering for a grain: the last dozen of
// the grain, and this and the last of each coarser unit.
func (c Calendar) Periods(grain Unit) (out []Named) {
	for _, u := range coarser[grain] {
		for _, word := range []string{"this ", "last "} {
			name := word + u.String()
			r, _ := c.named(name)
			out = append(out, Named{name, r})
		}
	}
	for n := range 12 {
		r := c.Shift(grain, c.Today, -n)
		out = append(out, Named{Period{grain, r}.String(), r})
	}
	return out
}
