package keeping

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/library/notices"
	"mantilla/model"
)

// grace is how long the runs of a due moment may take before people are told that nothing is kept.
const grace = time.Hour

// missedAtOnce is of how many moments people are told in one go.
const missedAtOnce = 1000

// Watch tells people, now and every minute, of due moments that gave no result.
func (room *Room) Watch(work *background.Work) {
	for more := true; more; more = work.Sleep(time.Minute, nil) {
		if err := room.Alarm(work.Context()); err != nil && work.Context().Err() == nil {
			room.log.Error("looking for what was missed", "error", err)
		}
	}
}

// Alarm tells the owner of a run control, and librarians, of due moments that gave no result:
// what its source held then may be kept nowhere. Each is told once, those of one control together.
func (room *Room) Alarm(ctx context.Context) error {
	room.alarming.Lock()
	defer room.alarming.Unlock()
	by := room.org.Now().Add(-grace)
	if by.Before(room.began) {
		by = time.Time{} // what waited while the service was down goes on now, and has its hour
	}
	missed, err := room.records.Missed(ctx, by, missedAtOnce)
	if err != nil || len(missed) == 0 {
		return err
	}
	librarians, err := room.people.WhoMay(ctx, access.KeepCatalog)
	if err != nil {
		return err
	}
	// Who is told is noted too, also where the service ends meanwhile: otherwise they are told again.
	ctx = context.WithoutCancel(ctx)
	byControl := map[string][]model.MissedMoment{}
	for _, m := range missed {
		byControl[m.Control] = append(byControl[m.Control], m)
	}
	for _, control := range slices.Sorted(maps.Keys(byControl)) {
		all := byControl[control]
		slices.SortFunc(all, func(x, y model.MissedMoment) int { return x.Moment.Compare(y.Moment) })
		last := all[len(all)-1]
		if err := room.notices.Tell(ctx, "", append([]string{last.Owner}, librarians...),
			notices.Subject{About: "run control", Place: "/controls/" + control},
			"Nothing was kept of “%s” for %s: %s. What its source held then may be kept nowhere; run it again while it is "+
				"there.",
			last.Title, room.moments(all), last.Reason); err != nil {
			return err
		}
		for _, m := range all {
			if err := room.records.ToldMissed(ctx, m); err != nil {
				return err
			}
		}
	}
	return nil
}

// moments says one moment, or how many from which to which.
func (room *Room) moments(all []model.MissedMoment) string {
	said := func(m model.MissedMoment) string {
		return m.Moment.In(room.org.Zone).Format("2 January 2006, 15:04 MST")
	}
	if len(all) == 1 {
		return said(all[0])
	}
	return fmt.Sprintf("%d due moments from %s to %s; the last", len(all), said(all[0]), said(all[len(all)-1]))
}
