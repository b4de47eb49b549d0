package controls

import (
	"context"
	"time"

	"mantilla/library/access"
	"mantilla/library/sending"
	"mantilla/model"
)

// Trial is what would come of a control, of which nothing was kept and nothing sent.
type Trial struct {
	Next  []time.Time
	Parts []TriedPart
}

// TriedPart is one set of runs with who would get it.
type TriedPart struct {
	Name string // "" where there is one
	To   []sending.Recipient
	Not  []string // who would get nothing, and why
	Runs []TriedRun
}

// TriedRun is a run that would be, with its rows, or why it would fail.
type TriedRun struct {
	model.Run
	Counted bool
	Failed  string
}

// mostTried is how many runs of a trial are counted; the others are planned alone.
const mostTried = 40

// Try plans a control as it would run now, kept or not, and counts the rows that there would be.
func (a *Access) Try(ctx context.Context, c Control) (t Trial, err error) {
	if err := a.May(access.Run); err != nil {
		return t, err
	}
	if c.ID == "" {
		c.ID = "trial" // one that is not kept needs none
	}
	if err := a.checkControl(ctx, &c); err != nil {
		return t, err
	}
	if c.Timetable != nil {
		if _, t.Next, err = a.NextDates(ctx, *c.Timetable, 3); err != nil {
			return t, err
		}
	}
	parts := []sending.Part{{As: a.Access}}
	if c.Send != nil {
		if parts, err = a.sending.Parts(ctx, c.order()); err != nil {
			return t, err
		}
	}
	left := mostTried
	for _, p := range parts {
		as := a.room.As(p.As)
		batch, err := as.planPart(ctx, c, nil)
		if err != nil {
			return t, err
		}
		tried := TriedPart{Name: p.Name, To: p.Recipients(), Not: p.Nobody()}
		for _, run := range batch.Runs {
			r := TriedRun{Run: run}
			if left--; left >= 0 {
				if r.Rows, err = as.capture.Count(ctx, run); err != nil && ctx.Err() != nil {
					return t, err
				}
				if r.Counted = err == nil; err != nil {
					r.Failed = err.Error()
				}
			}
			tried.Runs = append(tried.Runs, r)
		}
		t.Parts = append(t.Parts, tried)
	}
	return t, nil
}
