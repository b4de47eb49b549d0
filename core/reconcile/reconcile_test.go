package reconcile

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"mantilla/core/period"
	"mantilla/core/timetable"
)

// October of 2025 begins on a Wednesday.
func october(day int) period.Day { return period.Date(2025, 10, day) }

func payment(day int, amount int64, reference string) Item {
	return Item{Amount: amount, Day: october(day), Reference: reference}
}

func line(day int, amount int64, reference, text string) Item {
	return Item{Amount: amount, Day: october(day), Reference: reference, Text: text}
}

var rule = Rule{From: 2, To: 5, Off: timetable.Weekend, Until: october(31)}

// told writes sets as class how ours=theirs, numbers from 1.
func told(sets []Set) string {
	var out []string
	for _, s := range sets {
		numbers := func(places []int) string {
			var n []string
			for _, i := range places {
				n = append(n, fmt.Sprint(i+1))
			}
			return strings.Join(n, "+")
		}
		out = append(out, strings.TrimSpace(fmt.Sprintf("%s %s", s.Class, s.How))+" "+numbers(s.Ours)+"="+
			numbers(s.Theirs))
	}
	return strings.Join(out, "; ")
}

func TestMatch(t *testing.T) {
	before := rule
	before.Since = october(1)
	cent := rule
	cent.Tolerance = 5
	for name, c := range map[string]struct {
		ours, theirs []Item
		rule         Rule
		chosen       []Choice
		want         string
	}{
		"by reference, whatever case, signs and accents": {ours: []Item{payment(1, 100, "B-1é")},
			theirs: []Item{line(3, 100, "b 1E", "")}, want: "matched by reference 1=1"},
		"by a reference that stands in the text": {ours: []Item{payment(1, 100, "B2025-1")},
			theirs: []Item{line(3, 100, "", "PAYOUT b2025-1 AND FEE")}, want: "matched by reference 1=1"},
		"a text that names two decides nothing": {ours: []Item{payment(1, 100, "B2025-1"), payment(1, 70, "B2025-2")},
			theirs: []Item{line(3, 170, "", "B2025-1 B2025-2")},
			want:   "matched the sum of 2 of ours 1+2=1"},
		"several lines of one reference make one": {ours: []Item{payment(1, 100, "B1")},
			theirs: []Item{line(3, 60, "B1", ""), line(6, 40, "B1", "")}, want: "matched by reference 1=1+2"},
		"of a reference that comes often, amounts find the pairs": {ours: []Item{payment(1, 100, "K7"), payment(8, 50, "K7"),
			payment(30, 70, "K7")},
			theirs: []Item{line(10, 50, "K7", ""), line(3, 100, "K7", "")},
			want:   "matched by reference and amount 1=2; matched by reference and amount 2=1; next period 3="},
		"paid short": {ours: []Item{payment(1, 1000, "B1")}, theirs: []Item{line(3, 988, "B1", "")},
			want: "differs by reference 1=1"},
		"no line comes before what it is of": {ours: []Item{payment(8, 100, "B1")}, theirs: []Item{line(3, 100, "B1", "")},
			want: "only ours 1=; only theirs =1"},
		"within the tolerance": {ours: []Item{payment(1, 1000, "B1"), payment(2, 600, "")},
			theirs: []Item{line(3, 996, "B1", ""), line(6, 605, "", "")}, rule: cent,
			want: "matched by reference 1=1; matched by amount and day 2=2"},
		"by amount and day, over a weekend": {ours: []Item{payment(3, 100, "")}, theirs: []Item{line(7, 100, "X", "")},
			want: "matched by amount and day 1=1"},
		"too late by a working day": {ours: []Item{payment(1, 100, "")}, theirs: []Item{line(9, 100, "", "")},
			want: "only ours 1=; only theirs =1"},
		"two of one amount, a line for each in one way only": {ours: []Item{payment(1, 100, ""), payment(6, 100, "")},
			theirs: []Item{line(3, 100, "", ""), line(8, 100, "", "")},
			want:   "matched by amount and day 1=1; matched by amount and day 2=2"},
		"two of one amount and one line": {ours: []Item{payment(1, 100, ""), payment(2, 100, "")},
			theirs: []Item{line(6, 100, "", "")}, want: "doubtful the same amount within the days 1+2=1"},
		"chosen by hand": {ours: []Item{payment(1, 100, ""), payment(2, 100, "")},
			theirs: []Item{line(6, 100, "", "")}, chosen: []Choice{{Ours: []int{2}, Theirs: []int{1}}},
			want: "matched by hand 2=1; only ours 1="},
		"lines that cancel each other": {theirs: []Item{line(3, 100, "", ""), line(8, -100, "", "")},
			chosen: []Choice{{Theirs: []int{1, 2}}}, want: "matched by hand =1+2"},
		"chosen by hand, and not the same": {ours: []Item{payment(1, 100, "")}, theirs: []Item{line(20, 90, "", "")},
			chosen: []Choice{{Ours: []int{1}, Theirs: []int{1}}}, want: "differs by hand 1=1"},
		"a line that is the sum of several": {ours: []Item{payment(1, 100, ""), payment(2, 55, ""), payment(2, 31, "")},
			theirs: []Item{line(6, 155, "", "")}, want: "matched the sum of 2 of ours 1+2=1; only ours 3="},
		"lines that sum to one": {ours: []Item{payment(1, 155, "")},
			theirs: []Item{line(6, 100, "", ""), line(3, 55, "", ""), line(6, -20, "", "")},
			want:   "matched the sum of 2 of the statement 1=1+2; only theirs =3"},
		"two sums that come to it": {ours: []Item{payment(1, 100, "")},
			theirs: []Item{line(3, 60, "", ""), line(3, 40, "", ""), line(6, 70, "", ""), line(6, 30, "", "")},
			want:   "doubtful several sums of the statement come to it 1=1+2+3+4"},
		"over the end": {ours: []Item{payment(28, 100, "B1"), payment(23, 90, "B2")}, theirs: nil,
			want: "only ours 2=; next period 1="},
		"from before": {theirs: []Item{line(7, 100, "B0", ""), line(8, 90, "B9", "")}, rule: before,
			want: "only theirs =2; earlier period =1"},
	} {
		if c.rule.Off == nil {
			c.rule = rule
		}
		sets, err := Match(t.Context(), c.ours, c.theirs, c.rule, c.chosen)
		if err != nil {
			t.Fatal(name, err)
		}
		if got := told(sets); got != c.want {
			t.Errorf("%s: %s\nand not %s", name, got, c.want)
		}
	}
}

func TestChoicesThatCannotBe(t *testing.T) {
	ours, theirs := []Item{payment(1, 1, "")}, []Item{line(3, 1, "", "")}
	for want, chosen := range map[string][]Choice{
		"number 2 of ours; they go from 1 to 1":      {{Ours: []int{2}, Theirs: []int{1}}},
		"no number 3 of the statement":               {{Ours: []int{1}, Theirs: []int{3}}},
		"number 1 of the statement was chosen twice": {{Ours: []int{1}, Theirs: []int{1, 1}}},
		"number 1 of ours was chosen twice": {{Ours: []int{1}, Theirs: []int{1}}, {Ours: []int{1},
			Theirs: []int{1}}},
		"at least two": {{Ours: []int{1}}},
	} {
		if _, err := Match(t.Context(), ours, theirs, rule, chosen); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v and not %s", err, want)
		}
	}
}

// Whatever is given, every item is in one set, and the classes explain the difference of both
// sides.
func TestEveryItemIsSomewhere(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	for round := range 300 {
		side := func() (items []Item) {
			for range r.IntN(40) {
				it := Item{Amount: int64(r.IntN(30) - 8), Day: october(1 + r.IntN(31))}
				if r.IntN(3) > 0 {
					it.Reference = fmt.Sprintf("B%d", r.IntN(25))
				}
				items = append(items, it)
			}
			return items
		}
		ours, theirs := side(), side()
		by := rule
		by.Tolerance, by.Since = int64(r.IntN(2)), october(1)
		sets, err := Match(t.Context(), ours, theirs, by, nil)
		if err != nil {
			t.Fatal(err)
		}
		var seenOurs, seenTheirs []int
		for _, s := range sets {
			seenOurs, seenTheirs = append(seenOurs, s.Ours...), append(seenTheirs, s.Theirs...)
			if d := sum(ours, s.Ours) - sum(theirs, s.Theirs); s.Class == Matched && max(d, -d) > by.Tolerance {
				t.Errorf("round %d: matched with a difference of %d: %+v", round, d, s)
			}
		}
		for _, seen := range []struct {
			places []int
			items  int
		}{{seenOurs, len(ours)}, {seenTheirs, len(theirs)}} {
			slices.Sort(seen.places)
			if len(seen.places) != seen.items || len(slices.Compact(seen.places)) != seen.items {
				t.Fatalf("round %d: of %d items %d stand in sets", round, seen.items, len(seen.places))
			}
		}
	}
}

// Many items of one amount and time end soon, as doubtful.
func TestManyAlike(t *testing.T) {
	var ours, theirs []Item
	for i := range 20_000 {
		ours, theirs = append(ours, payment(1+i%3, 500, "")), append(theirs, line(6+i%2, 500, "", ""))
	}
	sets, err := Match(t.Context(), ours, theirs, rule, nil)
	if err != nil || sets[0].Class != Doubtful {
		t.Errorf("%v: %d sets, the first is %s", err, len(sets), sets[0].Class)
	}
	stopped, stop := context.WithCancel(t.Context())
	stop()
	if _, err := Match(stopped, ours, theirs, rule, nil); err == nil {
		t.Error("it cannot be stopped")
	}
}

func TestLag(t *testing.T) {
	for days, want := range map[[2]int]int{{1, 3}: 2, {3, 6}: 1, {6, 3}: -1, {4, 5}: 0, {1, 1}: 0} {
		if got := Lag(october(days[0]), october(days[1]), timetable.Weekend); got != want {
			t.Errorf("from %d to %d October: %d and not %d", days[0], days[1], got, want)
		}
	}
}
