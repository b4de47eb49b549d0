package care

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"mantilla/core/period"
	"mantilla/library/access"
	"mantilla/library/notices"
	"mantilla/model"
)

// mostMonths is how far one review may be from the next.
const mostMonths = 120

// Care is how a report is looked after.
func (a *Access) Care(report string) (model.Care, error) {
	if _, err := a.catalog.Report(report); err != nil {
		return model.Care{}, err
	}
	return a.room.of(report), nil
}

// Cares are how all reports are looked after, by their ids.
func (a *Access) Cares() ([]model.Care, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	var out []model.Care
	for id := range a.room.catalog.Present() {
		out = append(out, a.room.of(id))
	}
	slices.SortFunc(out, func(a, b model.Care) int { return strings.Compare(a.Report, b.Report) })
	return out, nil
}

// PutCare changes how a report is looked after: those who keep the catalog may, and who owns
// it, who cannot list it.
func (a *Access) PutCare(ctx context.Context, c model.Care) (model.Care, error) {
	d, err := a.catalog.Report(c.Report)
	if err != nil {
		return c, err
	}
	if model.IsDraft(c.Report) {
		return c, model.Refuse("report", "%s is a draft; it is looked after by who writes it", c.Report)
	}
	before := a.room.of(c.Report)
	if err := a.May(access.KeepCatalog); err != nil && (before.Owner != a.Person().Name || c.Listed != before.Listed) {
		return c, err
	}
	if c.Every < 0 || c.Every > mostMonths {
		return c, model.Refuse("everyMonths", "a report is reviewed every 1 to %d months, or once", mostMonths)
	}
	if c.Owner != "" {
		p, err := a.room.people.Person(ctx, c.Owner)
		switch {
		case errors.Is(err, model.ErrNotFound) || err == nil && p.Closed:
			return c, model.Refuse("owner", "there is no account %q that could look after it", c.Owner)
		case err != nil:
			return c, err
		case !a.room.people.As(p).Has(access.Write):
			return c, model.Refuse("owner", "%s may not write definitions; an author or a librarian can look after a report",
				p.Title)
		}
	}
	past := c.Review && c.ReviewOn < a.room.org.Calendar().Today && c.ReviewOn != before.ReviewOn
	if past && a.Person().Name != access.ServiceName {
		return c, model.Refuse("reviewOn", "%s is past; choose a day to come", c.ReviewOn)
	}
	if err := a.room.records.PutCare(ctx, c); err != nil {
		return c, fmt.Errorf("report %s: %w", c.Report, err)
	}
	a.room.mu.Lock()
	a.room.cares[c.Report] = c
	a.room.mu.Unlock()
	if c.Listed != before.Listed {
		a.room.catalog.Changed()
	}
	if c.Owner != before.Owner {
		err = a.room.notices.Tell(ctx, a.Person().Name, []string{c.Owner},
			notices.Subject{About: "report", Place: "/reports/" + c.Report}, "You look after the report “%s” now.", d.Title)
	}
	return c, err
}

// Reviewed says that a report was looked at: its next review is so many months on, or none.
func (a *Access) Reviewed(ctx context.Context, report string) (model.Care, error) {
	if _, err := a.catalog.Report(report); err != nil {
		return model.Care{}, err
	}
	c := a.room.of(report)
	if err := a.May(access.KeepCatalog); err != nil && c.Owner != a.Person().Name {
		return c, err
	}
	if !c.Review {
		return c, model.Refuse("report", "%s has no day of review; set one first", report)
	}
	if c.Every == 0 {
		c.Review, c.ReviewOn = false, 0
	} else {
		today := a.room.org.Calendar().Today
		c.ReviewOn = period.DayOf(today.Time().AddDate(0, c.Every, 0), time.UTC)
	}
	if err := a.room.records.PutCare(ctx, c); err != nil {
		return c, fmt.Errorf("report %s: %w", report, err)
	}
	a.room.mu.Lock()
	a.room.cares[report] = c
	a.room.mu.Unlock()
	a.room.log.InfoContext(ctx, "report reviewed", "report", report, "by", a.Person().Name)
	return c, nil
}

// Adopt gives a report without an owner to one.
func (room *Room) Adopt(ctx context.Context, report, owner string) error {
	if owner == access.ServiceName {
		owner = ""
	}
	c, err := room.records.Adopt(ctx, report, owner)
	if err != nil {
		return fmt.Errorf("who looks after %s: %w", report, err)
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	room.cares[report] = c
	return nil
}

// Begin reminds owners, now and every hour.
func (room *Room) Begin() {
	room.work.Go(func() {
		for more := true; more; more = room.work.Sleep(time.Hour, nil) {
			if err := room.Remind(room.work.Context()); err != nil && room.work.Context().Err() == nil {
				room.log.Error("reminding of reviews", "error", err)
			}
		}
	})
}

// Remind tells the owners of reports whose day of review has come, once for each such day;
// where there is no owner who could, those who keep the catalog.
func (room *Room) Remind(ctx context.Context) error {
	due, err := room.records.Unreminded(ctx, room.org.Calendar().Today)
	if err != nil || len(due) == 0 {
		return err
	}
	accounts, err := room.people.Accounts(ctx)
	if err != nil {
		return err
	}
	for _, c := range due {
		to := []string{c.Owner}
		if !accounts[c.Owner] {
			if to, err = room.people.WhoMay(ctx, access.KeepCatalog); err != nil {
				return err
			}
		}
		title := c.Report
		if d := room.catalog.Present()[c.Report]; d != nil {
			title = d.Title
		}
		err := room.notices.Tell(ctx, "", to, notices.Subject{About: "report", Place: "/reports/" + c.Report},
			"The report “%s” is to be looked at again since %s: is it still right, and needed? Say then that it was "+
				"reviewed.",
			title, c.ReviewOn.Time().Format("2 January 2006"))
		if err != nil {
			return err
		}
		if err := room.records.Reminded(ctx, c); err != nil {
			return err
		}
	}
	return nil
}
