package controls

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"mantilla/core/timetable"
	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/model"
)

// onTime is how long after its moment a run still counts as on time; what is
// later was missed.
const onTime = 15 * time.Minute

// keepTime queues what is due.
func (room *Room) keepTime() {
	failures := 0
	for room.work.Context().Err() == nil {
		more, err := room.settleDue(room.work.Context(), room.org.Now())
		wait := time.Duration(0)
		switch {
		case err != nil:
			failures++
			wait = background.PauseAfter(failures)
			if room.work.Context().Err() == nil {
				room.log.Error("looking for what is due", "error", err, "failures", failures)
			}
		case more:
			failures = 0
			continue
		default:
			failures = 0
			wait = room.untilDue()
		}
		if !room.work.Sleep(wait, room.toDue) {
			return
		}
	}
}

// untilDue is how long nothing is due.
func (room *Room) untilDue() time.Duration {
	next, err := room.records.NextDue(context.Background())
	if err != nil || next.IsZero() {
		return 30 * time.Second
	}
	return min(max(next.Sub(room.org.Now()), 100*time.Millisecond), 30*time.Second)
}

// dueAtOnce is how many controls are settled in one transaction.
const dueAtOnce = 250

// settleDue settles some of what is due; more tells that there may be others.
// Several controls are settled in one transaction. When that fails, each is
// settled alone, and one that fails alone stops only itself and says why.
func (room *Room) settleDue(ctx context.Context, now time.Time) (more bool, err error) {
	controls, err := room.records.DueControls(ctx, now, dueAtOnce)
	if err != nil || len(controls) == 0 {
		return false, err
	}
	all := make([][]model.Due, len(controls))
	people := map[string]*Access{}
	for i, kept := range controls {
		err := room.work.Guard(func() (err error) {
			all[i], err = room.dueOf(ctx, kept, people, now)
			return err
		})
		if err != nil {
			return false, err
		}
	}
	queued, err := room.records.SettleDue(ctx, slices.Concat(all...))
	if err != nil {
		if queued, err = room.settleEach(ctx, all, err); err != nil {
			return false, err
		}
	}
	room.log.InfoContext(ctx, "due moments settled", "controls", len(controls), "runs", queued)
	room.rooms.Capture.Wake()
	return len(controls) == dueAtOnce, nil
}

// settleEach settles controls one by one after they failed together.
func (room *Room) settleEach(ctx context.Context, all [][]model.Due, together error) (queued int, err error) {
	if errors.Is(together, model.ErrFull) || ctx.Err() != nil {
		return 0, together
	}
	room.log.WarnContext(ctx, "due moments are settled one by one", "error", together)
	for _, due := range all {
		n, err := room.records.SettleDue(ctx, due)
		queued += n
		if err == nil || len(due) == 0 {
			continue
		}
		last := due[0]
		last.Next, last.Reason = due[len(due)-1].Next, "its runs could not be queued: "+err.Error()
		room.log.ErrorContext(ctx, "a run control cannot be settled", "control", last.Control, "error", err)
		if err := room.records.Refuse(ctx, last); err != nil {
			return queued, err
		}
	}
	return queued, nil
}

// mostMissed bounds how many moments of one control are caught up on at once.
const mostMissed = 400

// dueOf settles the moments of one control that have come.
func (room *Room) dueOf(ctx context.Context, kept model.Control, people map[string]*Access,
	now time.Time) (all []model.Due, err error) {
	never := []model.Due{{Control: kept.ID, Moment: kept.Next}}
	refuse := func(err error) []model.Due {
		never[0].State, never[0].Reason = "refused", err.Error()
		return never
	}
	owner := people[kept.Owner]
	if owner == nil {
		who, err := room.rooms.People.AsPerson(ctx, kept.Owner)
		var nobody *access.Unanswered
		switch {
		case errors.Is(err, model.ErrNotFound):
			return refuse(fmt.Errorf("the account %s, whose run control it is, is gone", kept.Owner)), nil
		case errors.As(err, &nobody):
			return refuse(err), nil
		case err != nil:
			return nil, err
		}
		owner = room.As(who)
		people[kept.Owner] = owner
	}
	c := readControl(kept, kept.Owner)
	if c.Broken != "" {
		return refuse(errors.New(c.Broken)), nil
	}
	if c.Timetable == nil {
		return never, nil
	}
	plan, off, err := room.planOf(ctx, c.Timetable)
	var gone *model.Missing
	var part *timetable.Part
	switch {
	case errors.As(err, &gone), errors.As(err, &part):
		return refuse(err), nil
	case err != nil: // the records cannot be read just now
		return nil, err
	}
	moments := []time.Time{kept.Next}
	for len(moments) < mostMissed {
		next := plan.Next(moments[len(moments)-1], off, 1)
		if len(next) == 0 || next[0].After(now) {
			break
		}
		moments = append(moments, next[0])
	}
	for i, m := range moments {
		d := model.Due{Control: c.ID, Moment: m}
		if next := plan.Next(m, off, 1); len(next) > 0 {
			d.Next = next[0]
		}
		late := now.Sub(m) > onTime
		switch {
		case owner.Person().Closed:
			d.State, d.Reason = "refused", fmt.Sprintf("the account %s, whose run control it is, is closed", kept.Owner)
		case late && plan.Missed == "skip":
			d.State, d.Reason = "skipped", "it passed while the service was down"
		case i < len(moments)-1 && plan.Missed == "once":
			d.State, d.Reason = "skipped", "it passed while the service was down; the control ran once, for the last moment"
		default:
			room.runDue(ctx, owner, c, &d)
		}
		all = append(all, d)
	}
	return all, nil
}

// runDue plans the runs of one due moment. What is wrong with them is noted:
// the moment has passed then.
func (room *Room) runDue(ctx context.Context, owner *Access, c Control, d *model.Due) {
	at := room.As(owner.At(d.Moment))
	err := room.work.Guard(func() (err error) {
		if err = at.May(access.Run); err == nil {
			d.Runs, err = at.planControl(ctx, c, nil, c.Send != nil)
		}
		return err
	})
	if err != nil {
		d.Runs, d.State, d.Reason = nil, "refused", err.Error()
	}
}

// planOf reads a timetable with its days off.
func (room *Room) planOf(ctx context.Context, t *timetable.Timetable) (*timetable.Plan, timetable.DaysOff, error) {
	plan, err := t.Check()
	if err != nil || t.Calendar == "" {
		return plan, timetable.Weekend, err
	}
	off, err := room.DaysOff(ctx, t.Calendar)
	return plan, off, err
}

// DaysOff are the days off of a calendar; weekends alone where none is named.
func (room *Room) DaysOff(ctx context.Context, calendar string) (timetable.DaysOff, error) {
	if calendar == "" {
		return timetable.Weekend, nil
	}
	all, err := room.records.Calendars(ctx)
	if err != nil {
		return nil, err
	}
	var known []string
	for _, c := range all {
		if c.ID == calendar {
			return timetable.Off(c.Days), nil
		}
		known = append(known, c.ID)
	}
	return nil, model.NoSuch("calendar", calendar, known)
}

// nextOf is when a control is due next; zero for never.
func (room *Room) nextOf(ctx context.Context, c Control, after time.Time) (time.Time, error) {
	if c.Timetable == nil {
		return time.Time{}, nil
	}
	plan, off, err := room.planOf(ctx, c.Timetable)
	if err != nil {
		return time.Time{}, err
	}
	if next := plan.Next(after, off, 1); len(next) > 0 {
		return next[0], nil
	}
	return time.Time{}, nil
}

func (a *Access) checkTimetable(ctx context.Context, c *Control) error {
	if c.Timetable == nil {
		return nil
	}
	if c.Timetable.Zone == "" {
		c.Timetable.Zone = a.room.org.Zone.String()
	}
	if c.Timetable.Start == 0 {
		c.Timetable.Start = a.Calendar().Today
	}
	plan, _, err := a.room.planOf(ctx, c.Timetable)
	var part *timetable.Part
	var none *model.Missing
	switch {
	case errors.As(err, &part):
		return model.Refuse("timetable."+part.Name, "%w", part.Err)
	case errors.As(err, &none):
		return model.Refuse("timetable.calendar", "%w", err)
	case err != nil:
		return err
	}
	*c.Timetable = plan.Timetable
	return nil
}

// NextDates returns the next moments of a timetable, and the rule in words.
func (a *Access) NextDates(ctx context.Context, t timetable.Timetable, n int) (says string, moments []time.Time,
	err error) {
	c := Control{Timetable: &t}
	if err := a.checkTimetable(ctx, &c); err != nil {
		return "", nil, err
	}
	plan, off, err := a.room.planOf(ctx, c.Timetable)
	if err != nil {
		return "", nil, err
	}
	return timetable.Say(plan.Rule), plan.Next(a.room.org.Now(), off, n), nil
}

// PauseControl stops a control's timetable for a while, or lets it go on from
// now.
func (a *Access) PauseControl(ctx context.Context, id string, paused bool) (Control, error) {
	c, err := a.Control(ctx, id)
	if err == nil {
		err = a.May(access.Run)
	}
	if err == nil {
		err = a.MayChange(fmt.Sprintf("the run control %q", c.Title), c.Owner)
	}
	if err != nil {
		return c, err
	}
	if c.Timetable == nil {
		return c, model.Refuse("timetable", "the run control %q has no timetable", c.Title)
	}
	next, err := a.room.nextOf(ctx, c, a.room.org.Now())
	if err == nil {
		err = a.room.records.PauseControl(ctx, id, paused, next)
	}
	if err != nil {
		return c, err
	}
	a.room.toDue.Ring()
	return a.Control(ctx, id)
}

// catchUp brings nearer the next moments that lie beyond the next one by the
// rule: a clock that was once set ahead leaves such. Others stay.
func (room *Room) catchUp(ctx context.Context) error {
	timed, err := room.records.Timed(ctx, model.Seen{All: true})
	if err != nil {
		return err
	}
	now := room.org.Now()
	for _, k := range timed {
		c := readControl(k, "")
		if c.Broken != "" || c.Timetable == nil || !k.Next.After(now) {
			continue
		}
		next, err := room.nextOf(ctx, c, now)
		if err != nil || next.IsZero() || !next.Before(k.Next) {
			continue // what is wrong with it is told when it is due
		}
		if err := room.records.SetNext(ctx, c.ID, next); err != nil {
			return err
		}
		room.log.WarnContext(ctx, "a next moment lay too far ahead", "control", c.ID, "was", k.Next, "is", next)
	}
	return nil
}

// Timetable is what is due, what ran, and what did not.
type Timetable struct {
	Due   []Control
	Ran   []model.ControlRun
	Notes []model.DueNote
}

// Timetable returns what the person sees of the timetable.
func (a *Access) Timetable(ctx context.Context, limit int) (t Timetable, err error) {
	if err := a.May(access.Run); err != nil {
		return t, err
	}
	kept, err := a.room.records.Timed(ctx,
		model.Seen{Person: a.Person().Name, Groups: a.Person().Groups, All: a.Has(access.KeepCatalog)})
	if err != nil {
		return t, err
	}
	seen, own := map[string]bool{}, map[string]bool{}
	for _, k := range kept {
		seen[k.ID], own[k.ID] = true, k.Owner == a.Person().Name
		if c := readControl(k, a.Person().Name); c.Timetable != nil && !c.Next.IsZero() {
			t.Due = append(t.Due, c)
		}
	}
	ran, err := a.room.records.TimedRuns(ctx, limit)
	if err != nil {
		return t, err
	}
	for _, r := range ran {
		if seen[r.Control] {
			if r.Runs, err = a.capture.SeenRuns(ctx, r.Runs); err != nil {
				return t, err
			}
			if a.Limited() && len(r.Runs) == 0 {
				continue // of a part that is not theirs
			}
			t.Ran = append(t.Ran, r)
		}
	}
	notes, err := a.room.records.DueNotes(ctx, a.room.org.Now().AddDate(0, -3, 0), limit)
	for _, n := range notes {
		if seen[n.Control] && (own[n.Control] || !a.Limited()) { // reasons name units and people
			t.Notes = append(t.Notes, n)
		}
	}
	return t, err
}
