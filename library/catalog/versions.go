package catalog

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/report"
	"mantilla/core/revision"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/model"
)

// Versions returns the versions that a report had, the newest first.
func (a *Access) Versions(ctx context.Context, id string) ([]model.Version, error) {
	return a.room.records.Versions(ctx, id)
}

// Differences are how two versions of a report differ.
type Differences struct {
	Words []string // what changed, part by part
	Text  string   // line by line, in the unified form
}

// VersionText returns a version of a report, by its number, as it was written.
func (a *Access) VersionText(ctx context.Context, id string, number int) (text string, v model.Version, err error) {
	if err := a.May(access.Write); err != nil {
		return "", v, err
	}
	if v, err = a.version(ctx, id, number); err != nil {
		return "", v, err
	}
	text, _, err = a.room.records.ReportText(ctx, id, v.Version)
	return text, v, err
}

// Earlier is a version of a report, by its number, as it was read then.
func (a *Access) Earlier(ctx context.Context, id string, number int) (*report.Definition, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	v, err := a.version(ctx, id, number)
	if err != nil {
		return nil, err
	}
	return a.room.Version(ctx, id, v.Version, a.room.org.Currency)
}

func (a *Access) version(ctx context.Context, id string, number int) (v model.Version, err error) {
	if _, err := a.Report(id); err != nil && a.room.whyUnread(id) == nil {
		return v, err
	}
	all, err := a.room.records.Versions(ctx, id)
	if err != nil {
		return v, err
	}
	at := slices.IndexFunc(all, func(v model.Version) bool { return v.Number == number })
	if at < 0 {
		return v, model.NoSuch("version", fmt.Sprintf("%s %d", id, number), nil)
	}
	return all[at], nil
}

// Compare tells how a version of a report differs from an earlier one, by their
// numbers.
func (a *Access) Compare(ctx context.Context, id string, earlier, later int) (d Differences, err error) {
	was, from, err := a.VersionText(ctx, id, earlier)
	if err != nil {
		return d, err
	}
	is, to, err := a.VersionText(ctx, id, later)
	if err != nil {
		return d, err
	}
	d.Text = revision.Text(was, is)
	before, err := a.room.Version(ctx, id, from.Version, a.room.org.Currency)
	if err != nil {
		d.Words = []string{"the earlier version cannot be read by this program: " + err.Error()}
		return d, nil
	}
	now, err := a.room.Version(ctx, id, to.Version, a.room.org.Currency)
	if err != nil {
		d.Words = []string{"the later version cannot be read by this program: " + err.Error()}
		return d, nil
	}
	d.Words = revision.Words(before, now)
	return d, nil
}

// ComparePresent tells how a definition differs from the present version of its
// report; ok is false where there is none.
func (a *Access) ComparePresent(d *report.Definition) (diff Differences, ok bool) {
	present := a.room.Present()[d.ID]
	if present == nil {
		return diff, false
	}
	return Differences{revision.Words(present, d), revision.Text(present.Text, d.Text)}, true
}

// BringBack makes an earlier version of a report, by its number, the present one. It is
// checked like any other, since its source may have changed.
func (a *Access) BringBack(ctx context.Context, id string, number int, put Put) (*report.Definition, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return nil, err
	}
	text, _, err := a.VersionText(ctx, id, number)
	if err != nil {
		return nil, err
	}
	put.Back = number
	return a.PutReport(ctx, []byte(text), put)
}

// Opening returns to whom a report is open.
func (a *Access) Opening(id string) ([]model.Opening, error) {
	if err := a.May(access.Grant); err != nil {
		return nil, err
	}
	if _, err := a.Report(id); err != nil {
		return nil, err
	}
	return a.room.people.Openings(id), nil
}

// Open says to whom a report is open from now on, or that somebody wants it so and it waits for another; see
// [access.Access.Open].
func (a *Access) Open(ctx context.Context, id string, to []model.Opening) (waits bool, err error) {
	if err := a.mayOpen(ctx, id, to); err != nil {
		return false, err
	}
	return a.Access.Open(ctx, id, to)
}

// OpenAsked opens a report to somebody who asked for it, and so is the second who wants it.
func (a *Access) OpenAsked(ctx context.Context, id, person string) error {
	to := append(a.room.people.Openings(id), model.Opening{Kind: "person", Name: person})
	if err := a.mayOpen(ctx, id, to); err != nil {
		return err
	}
	return a.room.people.SetOpenings(ctx, id, to)
}

func (a *Access) mayOpen(ctx context.Context, id string, to []model.Opening) error {
	if err := a.May(access.Grant); err != nil {
		return err
	}
	if _, err := a.Report(id); err != nil {
		return err
	}
	acting.Changes(ctx, openTo(a.room.people.Openings(id)), openTo(to))
	return nil
}

// Wish is to whom somebody wants a report to be open; nil where nobody wants another thing than what is.
func (a *Access) Wish(ctx context.Context, id string) (*model.OpeningWish, error) {
	return a.room.people.Wish(ctx, id)
}

// openTo is what the audit has of openings.
func openTo(all []model.Opening) string {
	var names []string
	for _, o := range all {
		names = append(names, strings.TrimSpace(o.Kind+" "+o.Name))
	}
	return strings.Join(names, ", ")
}
