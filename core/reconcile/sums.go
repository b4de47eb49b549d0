package reconcile

import (
	"cmp"
	"context"
	"fmt"
	"slices"
)

// Bounds of the search for several that make one: with more, sums come out alike by chance.
const (
	mostPieces = 5
	mostAmong  = 18
)

// bySums puts one of ours together with several lines whose sum it is, and one line with several
// of ours, where that can be in one way only.
func (m *matcher) bySums(ctx context.Context) error {
	ours, theirs := left(m.usedOurs), left(m.usedTheirs)
	for _, o := range ours {
		if err := context.Cause(ctx); err != nil {
			return err
		}
		among := m.among(m.theirs, theirs, m.usedTheirs, m.ours[o].Amount, func(t int) bool { return m.within(o, t) })
		m.pieces(m.theirs, among, m.ours[o].Amount, "of the statement", func(t []int) ([]int, []int) { return []int{o}, t })
	}
	for _, t := range theirs {
		if err := context.Cause(ctx); err != nil {
			return err
		}
		if m.usedTheirs[t] {
			continue
		}
		if m.usedTheirs[t] {
			continue
		}
		among := m.among(m.ours, ours, m.usedOurs, m.theirs[t].Amount, func(o int) bool { return m.within(o, t) })
		m.pieces(m.ours, among, m.theirs[t].Amount, "of ours", func(o []int) ([]int, []int) { return o, []int{t} })
	}
	return nil
}

// left are the places that are not used.
func left(used []bool) (places []int) {
	for i, u := range used {
		if !u {
			places = append(places, i)
		}
	}
	return places
}

// among are the items that can be pieces of an amount, the greatest first; none where there are
// too many to tell.
func (m *matcher) among(items []Item, left []int, used []bool, whole int64, fits func(int) bool) (out []int) {
	for _, i := range left {
		it := items[i]
		smaller := it.Amount != 0 && it.Amount < 0 == (whole < 0) && max(it.Amount, -it.Amount) < max(whole, -whole)
		if used[i] || !smaller || !fits(i) {
			continue
		}
		if out = append(out, i); len(out) > mostAmong {
			return nil
		}
	}
	slices.SortStableFunc(out, func(a, b int) int {
		return cmp.Compare(max(items[b].Amount, -items[b].Amount), max(items[a].Amount, -items[a].Amount))
	})
	return out
}

// pieces puts a whole together with the pieces that alone make it; where other pieces would too,
// all are doubtful.
func (m *matcher) pieces(items []Item, among []int, whole int64, side string, both func([]int) ([]int, []int)) {
	found := m.subsets(items, among, whole)
	switch len(found) {
	case 0:
	case 1:
		ours, theirs := both(slices.Sorted(slices.Values(found[0])))
		m.settle(fmt.Sprintf("the sum of %d %s", len(found[0]), side), ours, theirs)
	default:
		either := slices.Concat(found...)
		slices.Sort(either)
		ours, theirs := both(slices.Compact(either))
		m.put(Doubtful, "several sums "+side+" come to it", ours, theirs)
	}
}

// subsets are the first two sets of 2 to [mostPieces] items that make a whole.
func (m *matcher) subsets(items []Item, among []int, whole int64) (found [][]int) {
	var taken []int
	var search func(from int, left int64)
	search = func(from int, left int64) {
		if len(taken) > 1 && m.near(left, 0) {
			found = append(found, slices.Clone(taken))
			return
		}
		if len(taken) == mostPieces {
			return
		}
		for i := from; i < len(among) && len(found) < 2; i++ {
			taken = append(taken, among[i])
			search(i+1, left-items[among[i]].Amount)
			taken = taken[:len(taken)-1]
		}
	}
	search(0, whole)
	return found
}
