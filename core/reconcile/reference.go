package reconcile

import (
	"context"
	"slices"
	"strings"
	"unicode"

	"mantilla/core/fold"
)

// leastToken is how many letters and digits a reference has at least that is sought within texts:
// shorter ones stand there by chance.
const leastToken = 4

// byReference puts items together whose references are the same, or where the statement's line
// names one of ours: pairs of the same amount first, then all of a reference together.
func (m *matcher) byReference(ctx context.Context) error {
	ours, order := map[string][]int{}, []string(nil)
	for i, it := range m.ours {
		if ref := plain(it.Reference); ref != "" && !m.usedOurs[i] {
			if ours[ref] == nil {
				order = append(order, ref)
			}
			ours[ref] = append(ours[ref], i)
		}
	}
	theirs := map[string][]int{}
	for i, it := range m.theirs {
		if m.usedTheirs[i] {
			continue
		}
		if ref := named(it, ours); ref != "" {
			theirs[ref] = append(theirs[ref], i)
		}
	}
	for _, ref := range order {
		if err := context.Cause(ctx); err != nil {
			return err
		}
		m.ofReference(ours[ref], theirs[ref])
	}
	return nil
}

// ofReference settles what has one reference.
func (m *matcher) ofReference(ours, theirs []int) {
	if len(ours) == 0 || len(theirs) == 0 {
		return
	}
	if len(ours) == 1 && len(theirs) == 1 {
		if m.follows(ours[0], theirs[0]) {
			m.settle("by reference", ours, theirs)
		}
		return
	}
	for _, o := range ours {
		for _, t := range theirs {
			if !m.usedOurs[o] && !m.usedTheirs[t] && m.within(o, t) && m.near(m.ours[o].Amount, m.theirs[t].Amount) {
				m.settle("by reference and amount", []int{o}, []int{t})
			}
		}
	}
	var restOurs, restTheirs []int
	for _, o := range ours {
		if !m.usedOurs[o] && !m.ours[o].Undated && m.due(m.ours[o].Day, m.rule.From) <= m.rule.Until {
			restOurs = append(restOurs, o)
		}
	}
	for _, t := range theirs {
		if !m.usedTheirs[t] && slices.ContainsFunc(restOurs, func(o int) bool { return m.follows(o, t) }) {
			restTheirs = append(restTheirs, t)
		}
	}
	if len(restOurs) > 0 && len(restTheirs) > 0 {
		m.settle("by reference", restOurs, restTheirs)
	}
}

// follows tells whether a line comes no sooner than it can.
func (m *matcher) follows(ours, theirs int) bool {
	return m.ours[ours].Undated || m.theirs[theirs].Day >= m.window(m.ours[ours].Day).First
}

// within tells whether a line comes within the lag.
func (m *matcher) within(ours, theirs int) bool {
	if m.ours[ours].Undated {
		return false
	}
	w, day := m.window(m.ours[ours].Day), m.theirs[theirs].Day
	return w.First <= day && day <= w.Last
}

// named is the reference of ours that a line has, or that alone stands in its texts; "" for none.
func named(it Item, ours map[string][]int) string {
	if ref := plain(it.Reference); ours[ref] != nil {
		return ref
	}
	found := ""
	for _, text := range []string{it.Reference, it.Text} {
		for _, word := range strings.Fields(text) {
			ref := plain(word)
			if len(ref) < leastToken || ours[ref] == nil || ref == found {
				continue
			}
			if found != "" {
				return "" // it names two
			}
			found = ref
		}
	}
	return found
}

// plain is a reference without what people write differently: case, marks, spaces and signs.
func plain(ref string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return -1
	}, fold.Text(ref))
}
