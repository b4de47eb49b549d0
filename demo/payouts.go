package demo

import (
	"fmt"
	"strings"
	"time"

	"mantilla/core/period"
	"mantilla/core/timetable"
)

// Batches are made every so many days of a month; the last takes the rest of it.
const (
	batchDays    = 4
	batchesMonth = 8
)

// batchOf tells in which batch a lot is paid for, when that is made, and when it
// settles.
func batchOf(l lot) (id string, made, settles period.Day) {
	made = min(l.received+30, Today)
	n := min(1+(made.Time().Day()-1)/batchDays, batchesMonth)
	month := period.Calendar{}.Period(period.Months, made)
	settles = month.First + period.Day(n*batchDays) - 1
	if n == batchesMonth {
		settles = month.Last
	}
	return fmt.Sprintf("B%s-%d", strings.ReplaceAll(monthText(made), "-", ""), n), made, settles
}

// batch is a payout batch as the bank sees it.
type batch struct {
	id    string
	paid  period.Day // 0 when it is not paid
	cents int
}

// payouts gathers lots that are due into batches and has the bank say what it booked of those
// that were paid. Some are paid in the month after.
func (g *generator) payouts() error {
	var batches []*batch
	known, delays := map[string]*batch{}, map[period.Day]delay{}
	for _, l := range g.lots {
		if !l.paid {
			continue
		}
		id, made, settles := batchOf(l)
		b := known[id]
		if b == nil {
			b = &batch{id: id, paid: g.payday(made, settles, delays)}
			known[id], batches = b, append(batches, b)
			var paid any
			if b.paid != 0 {
				paid = b.paid
			}
			if err := g.add("payout_batch", id, settles-batchDays+1, settles, paid); err != nil {
				return err
			}
		}
		amount := halfAway(l.grams*l.cents, 1000)
		b.cents += amount
		if err := g.add("payout", nil, id, l.no, l.keeper.no, amount); err != nil {
			return err
		}
	}
	g.stated = state(batches)
	return nil
}

// delay is how much later than due the batches of half a month are paid.
type delay struct{ days, over int }

// payday is when a batch is paid: on a working day, up to two days after it is due, the last of
// half a month now and then in the month after; 0 for one that is not due yet.
func (g *generator) payday(made, settles period.Day, delays map[period.Day]delay) period.Day {
	month := period.Calendar{}.Period(period.Months, made)
	half := month.First + period.Day(made.Time().Day()/16)
	d, known := delays[half]
	if !known {
		d.days = g.between(0, 2)
		if g.chance(6) {
			d.over = g.between(1, 8)
		}
		delays[half] = d
	}
	if settles >= Today {
		return 0
	}
	paid := settles + period.Day(d.days)
	if last := settles == month.Last || settles == month.First+15; last && d.over > 0 {
		paid = month.Last + period.Day(d.over)
	}
	for timetable.Weekend(paid) {
		paid++
	}
	if paid > Today {
		return 0
	}
	return paid
}

// stated is a line of the bank's statement; money that leaves is negative there.
type stated struct {
	booked          period.Day
	reference, text string
	cents           int
}

// state is what the bank booked: two to five working days after a batch was paid, so that some
// spill over the month's end. In October 2025 a batch comes in two lines, one is paid short,
// whose rest follows in November, one is booked twice and without its reference, one never comes,
// and a line is nobody's.
func state(batches []*batch) (lines []stated) {
	for i, b := range batches {
		booked := afterWorkingDays(b.paid, 2+i%4)
		if b.paid == 0 || booked > Today {
			continue
		}
		line := stated{booked, b.id, "KEEPERS PAYOUT " + b.id, -b.cents}
		first, second := line, line
		switch b.id {
		case "B202510-2":
			first.cents, second.cents = -b.cents/2, -(b.cents - b.cents/2)
			first.text, second.text = line.text+" 1/2", line.text+" 2/2"
			lines = append(lines, first, second)
		case "B202510-3":
			const short = 1250
			first.cents += short
			second.booked, second.cents, second.text = period.Date(2025, time.November, 6), -short, "REST OF "+b.id
			lines = append(lines, first, second)
		case "B202510-4":
			first.reference, first.text = "", "KEEPERS PAYOUT"
			second = first
			second.booked = afterWorkingDays(b.paid, 5)
			lines = append(lines, first, second)
		case "B202510-5": // it never comes
		default:
			lines = append(lines, line)
		}
	}
	return append(lines, stated{period.Date(2025, time.October, 21), "X4711", "STANDING ORDER", -18_900})
}
