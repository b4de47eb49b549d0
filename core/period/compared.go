package period

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// Companion is a range that another one is compared with.
type Companion struct {
	Name     string // as typed: previous period, year before, 2025-Q3
	Range    Range
	Relative bool // the name means the same whatever the day
}

// LastSigned names the days of the result that was signed off last.
const LastSigned = "last signed"

// MostCompanions is how many companions a range may have.
const MostCompanions = 2

var yearsBefore = regexp.MustCompile(`^(\d{1,2}) years? before$`)

// ParseCompared resolves a range with the ranges that it is compared with:
//
//	last month against previous period
//	2026-Q3 against year before and 2 years before
//	2026-09 against 2019-09
//	last month against last signed      the days of the result that was signed off last
func (c Calendar) ParseCompared(text string) (Range, []Companion, error) {
	t := strings.ToLower(spaced(text))
	main, others, compared := strings.Cut(t, " against ")
	r, err := c.ParseRange(main)
	if err != nil || !compared {
		return r, nil, err
	}
	names := strings.Split(others, " and ")
	if len(names) > MostCompanions {
		return r, nil, fmt.Errorf("%d companions are given; at most %d can be compared with", len(names), MostCompanions)
	}
	var companions []Companion
	for _, name := range names {
		name = strings.TrimSpace(name)
		other, relative, err := c.companion(r, name)
		if err != nil {
			return r, nil, fmt.Errorf("the companion: %w", err)
		}
		for _, known := range companions {
			if known.Range == other {
				return r, nil, fmt.Errorf("the companions %s and %s are the same days, %s", known.Name, name, other.Long())
			}
		}
		companions = append(companions, Companion{name, other, relative})
	}
	return r, companions, nil
}

// Moved is what a range is compared with by a name: previous period, year before, 2 years before.
func (c Calendar) Moved(r Range, name string) (Range, error) {
	other, _, err := c.companion(r, strings.ToLower(spaced(name)))
	return other, err
}

// Name writes a range as people type it: 2025-09, 2025-Q3 or 2025 where it is one of those, else its days.
func (c Calendar) Name(r Range) string {
	for _, u := range []Unit{Years, Quarters, Months} {
		if c.Period(u, r.First) == r {
			return Period{u, r}.String()
		}
	}
	return r.String()
}

func (c Calendar) companion(r Range, name string) (other Range, relative bool, err error) {
	if name == "previous period" {
		return c.previous(r), true, nil
	}
	if name == LastSigned {
		if c.Signed == nil {
			return other, false, errors.New("no result of this report is signed off yet, so there is none to compare with; " +
				"write days such as 2025-09, or previous period or year before")
		}
		return *c.Signed, false, nil
	}
	if name == "year before" {
		return r.monthsBefore(12), true, nil
	}
	if m := yearsBefore.FindStringSubmatch(name); m != nil {
		n, err := strconv.Atoi(m[1])
		return r.monthsBefore(12 * n), true, err
	}
	if other, err = c.ParseRange(name); err != nil {
		err = fmt.Errorf("%w, or as previous period, year before, 2 years before or last signed", err)
	}
	return other, false, err
}

// previous is the period of the same kind before a range: the unit before
// where the range is one whole unit, the months before where it is whole
// months, otherwise as many days.
func (c Calendar) previous(r Range) Range {
	for _, u := range []Unit{FiscalYears, Years, Quarters, Months, Weeks} {
		if c.Period(u, r.First) == r {
			return c.Shift(u, r.First, -1)
		}
	}
	if months, whole := r.wholeMonths(); whole {
		return r.monthsBefore(months)
	}
	return Range{r.First - Day(r.Days()), r.First - 1}
}

func (r Range) wholeMonths() (int, bool) {
	a, after := r.First.Time(), (r.Last + 1).Time()
	return 12*(after.Year()-a.Year()) + int(after.Month()-a.Month()), a.Day() == 1 && after.Day() == 1
}

// monthsBefore moves a range back by months. Whole months stay whole.
func (r Range) monthsBefore(n int) Range {
	if _, whole := r.wholeMonths(); whole {
		return Range{addUnits(r.First, Months, -n), addUnits(r.Last+1, Months, -n) - 1}
	}
	return Range{addUnits(r.First, Months, -n), addUnits(r.Last, Months, -n)}
}
