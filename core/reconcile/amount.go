package reconcile

import (
	"cmp"
	"context"
	"slices"

	"mantilla/core/period"
)

// byDay are places of lines by their amounts, and those of an amount by their days.
type byDay struct {
	amounts []int64
	places  map[int64][]int
}

func (m *matcher) index() byDay {
	x := byDay{places: map[int64][]int{}}
	for i, it := range m.theirs {
		if !m.usedTheirs[i] {
			x.places[it.Amount] = append(x.places[it.Amount], i)
		}
	}
	for amount, places := range x.places {
		x.amounts = append(x.amounts, amount)
		slices.SortStableFunc(places, func(a, b int) int { return cmp.Compare(m.theirs[a].Day, m.theirs[b].Day) })
	}
	slices.Sort(x.amounts)
	return x
}

// mostCandidates bounds how many pairs of one amount and time are looked at; where there are
// more, nobody could choose among them either.
const mostCandidates = 64

// candidates are lines of the same amount that come within the lag of one of ours.
func (m *matcher) candidates(x byDay, ours int) (out []int) {
	it, w := m.ours[ours], m.window(m.ours[ours].Day)
	at, _ := slices.BinarySearch(x.amounts, it.Amount-m.rule.Tolerance)
	for ; at < len(x.amounts) && m.near(x.amounts[at], it.Amount); at++ {
		places := x.places[x.amounts[at]]
		first, _ := slices.BinarySearchFunc(places, w.First,
			func(i int, day period.Day) int { return cmp.Compare(m.theirs[i].Day, day) })
		for _, i := range places[first:] {
			if m.theirs[i].Day > w.Last || len(out) == mostCandidates {
				break
			}
			out = append(out, i)
		}
	}
	return out
}

// mostPaired bounds what is paired by whoever has one candidate only.
const mostPaired = 256

// byAmount puts together what has the same amount within the lag, where that can be in one way
// only; where it can be in several, it is doubtful.
func (m *matcher) byAmount(ctx context.Context) error {
	x := m.index()
	of, back := map[int][]int{}, map[int][]int{}
	for o, used := range m.usedOurs {
		if o%1024 == 0 && context.Cause(ctx) != nil {
			return context.Cause(ctx)
		}
		if used || m.ours[o].Undated {
			continue
		}
		for _, t := range m.candidates(x, o) {
			of[o], back[t] = append(of[o], t), append(back[t], o)
		}
	}
	for o := range m.ours {
		if m.usedOurs[o] || len(of[o]) == 0 {
			continue
		}
		ours, theirs := connected(o, of, back)
		if pairs, ok := oneWay(ours, theirs, of, back); ok {
			for _, p := range pairs {
				m.settle("by amount and day", []int{p[0]}, []int{p[1]})
			}
			continue
		}
		m.put(Doubtful, "the same amount within the days", ours, theirs)
	}
	return nil
}

// connected is everything that candidates lead to, from one of ours.
func connected(from int, of, back map[int][]int) (ours, theirs []int) {
	seenOurs, seenTheirs := map[int]bool{from: true}, map[int]bool{}
	ours = []int{from}
	for at := 0; at < len(ours); at++ {
		for _, t := range of[ours[at]] {
			if seenTheirs[t] {
				continue
			}
			seenTheirs[t], theirs = true, append(theirs, t)
			for _, o := range back[t] {
				if !seenOurs[o] {
					seenOurs[o], ours = true, append(ours, o)
				}
			}
		}
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	return ours, theirs
}

// oneWay pairs what can be paired in one way only: whoever has one candidate takes it, until
// nobody is left. It tells false where somebody is left, or has none.
func oneWay(ours, theirs []int, of, back map[int][]int) (pairs [][2]int, ok bool) {
	if len(ours) != len(theirs) || len(ours) > mostPaired {
		return nil, false
	}
	goneOurs, goneTheirs := map[int]bool{}, map[int]bool{}
	only := func(from []int, gone map[int]bool) (left, n int) {
		for _, i := range from {
			if !gone[i] {
				left, n = i, n+1
			}
		}
		return left, n
	}
	for len(pairs) < len(ours) {
		before := len(pairs)
		for _, o := range ours {
			if t, n := only(of[o], goneTheirs); !goneOurs[o] && n == 1 {
				goneOurs[o], goneTheirs[t], pairs = true, true, append(pairs, [2]int{o, t})
			}
		}
		for _, t := range theirs {
			if o, n := only(back[t], goneOurs); !goneTheirs[t] && n == 1 {
				goneOurs[o], goneTheirs[t], pairs = true, true, append(pairs, [2]int{o, t})
			}
		}
		if len(pairs) == before {
			return nil, false
		}
	}
	return pairs, true
}
