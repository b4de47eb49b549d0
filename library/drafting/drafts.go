package drafting

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/definition"
	"mantilla/core/manuscript"
	"mantilla/library/access"
	"mantilla/model"
)

// Drafts returns the drafts that the person writes, keeps the catalog for, or is asked
// to try.
func (a *Access) Drafts(ctx context.Context) ([]model.Draft, error) {
	all, err := a.room.records.Drafts(ctx)
	if err != nil {
		return nil, err
	}
	seen := []model.Draft{}
	for _, d := range all {
		switch {
		case a.Writes(&d):
			seen = append(seen, d)
		case a.Opens(d.ReportID()): // a tester needs no text
			d.Text = ""
			seen = append(seen, d)
		}
	}
	return seen, nil
}

// Writes tells whether a draft is the person's to change.
func (a *Access) Writes(d *model.Draft) bool {
	return a.Has(access.KeepCatalog) ||
		a.Has(access.Write) && (d.Owner == a.Person().Name || slices.Contains(d.Writers, a.Person().Name))
}

// Draft returns a draft to one who writes it.
func (a *Access) Draft(ctx context.Context, number int64) (model.Draft, error) {
	if err := a.May(access.Write); err != nil {
		return model.Draft{}, err
	}
	d, err := a.room.records.Draft(ctx, number)
	if err == nil && !a.Writes(&d) {
		err = model.ErrNotFound
	}
	if errors.Is(err, model.ErrNotFound) {
		return model.Draft{}, model.NoSuch("draft", fmt.Sprintf("D-%d", number), nil)
	}
	return d, err
}

// add keeps a new draft of the person.
func (a *Access) add(ctx context.Context, text, base string) (model.Draft, error) {
	if err := a.May(access.Write); err != nil {
		return model.Draft{}, err
	}
	d := model.Draft{Text: text, Base: base, Owner: a.Person().Name, State: model.Writing, Revision: 1}
	a.headed(&d)
	var err error
	if d.Number, err = a.room.records.AddDraft(ctx, d); err != nil {
		return d, err
	}
	return a.put(ctx, d)
}

// headed reads what a draft is called out of its text, and says who changed it now.
func (a *Access) headed(d *model.Draft) {
	id, title := manuscript.Head([]byte(d.Text))
	d.Report = id
	if title != "" {
		d.Title = title
	}
	if d.Title == "" {
		d.Title = "Untitled"
	}
	d.ChangedAt, d.ChangedBy = a.room.org.Now(), a.Person().Name
}

// Change is what a writer changes about a draft.
type Change struct {
	Text     string
	Writers  []string        // nil where they stay
	Testers  []model.Opening // nil where they stay
	Revision int64           // that was seen
}

// PutDraft keeps a draft as it then is; the text need not be right. It fails with
// [model.ErrStale] when somebody changed the draft since the revision seen.
func (a *Access) PutDraft(ctx context.Context, number int64, c Change) (model.Draft, error) {
	d, err := a.Draft(ctx, number)
	if err != nil {
		return d, err
	}
	if len(c.Text) > definition.MostText {
		return d, model.Refuse("text", "the text has %d bytes; a definition has at most %d", len(c.Text), definition.MostText)
	}
	if err := a.knownWriters(ctx, c.Writers); err != nil {
		return d, err
	}
	asked := newTesters(d.Testers, c.Testers)
	d.Text, d.Revision = c.Text, c.Revision
	if c.Writers != nil {
		d.Writers = c.Writers
	}
	if c.Testers != nil {
		d.Testers = c.Testers
	}
	a.headed(&d)
	if d, err = a.put(ctx, d); err != nil {
		return d, err
	}
	return d, a.askToTry(ctx, d, asked)
}

func (a *Access) knownWriters(ctx context.Context, names []string) error {
	for _, name := range names {
		who, err := a.room.people.AsPerson(ctx, name)
		if err != nil {
			return model.Refuse("writers", "there is no account %q", name)
		}
		if !who.Has(access.Write) {
			return model.Refuse("writers", "%s cannot write definitions; that needs the role author", name)
		}
	}
	return nil
}

// put keeps a draft and lets it be tried out where it is right, by those who write it
// and those to whom it is open.
func (a *Access) put(ctx context.Context, d model.Draft) (model.Draft, error) {
	read, faults, err := a.catalog.ReadReport([]byte(d.Text))
	if err != nil {
		return d, err
	}
	if len(faults) > 0 {
		read = nil
	}
	tried := ""
	if read != nil {
		tried = read.Version
	}
	if err := a.room.records.PutDraft(ctx, d, tried); err != nil {
		return d, fmt.Errorf("the draft D-%d: %w", d.Number, err)
	}
	a.room.catalog.SetDraft(d.ReportID(), read)
	accounts, err := a.room.people.Accounts(ctx)
	if err != nil {
		return d, err
	}
	openTo := slices.Clone(d.Testers)
	for _, name := range append([]string{d.Owner}, d.Writers...) {
		if accounts[name] { // one who left, or the service, has none
			openTo = append(openTo, model.Opening{Kind: "person", Name: name})
		}
	}
	if err := a.room.people.SetOpenings(ctx, d.ReportID(), openTo); err != nil {
		return d, err
	}
	return a.room.records.Draft(ctx, d.Number)
}

// DeleteDraft deletes a draft. Results of trying it out stay.
func (a *Access) DeleteDraft(ctx context.Context, number int64) error {
	d, err := a.Draft(ctx, number)
	if err != nil {
		return err
	}
	thrown := a.Throws(model.ThrownDraft, fmt.Sprintf("D-%d", d.Number), d.Title)
	thrown.Report = d.Report
	if err := a.room.records.DeleteDraft(ctx, thrown); err != nil {
		return err
	}
	return a.left(ctx, d)
}

// PutBack brings a draft back that was deleted, which whoever calls has seen to be the person's to bring back.
func (a *Access) PutBack(ctx context.Context, number int64) error {
	if err := a.May(access.Write); err != nil {
		return err
	}
	if err := a.room.records.PutBack(ctx, model.ThrownDraft, fmt.Sprintf("D-%d", number)); err != nil {
		return err
	}
	d, err := a.room.records.Draft(ctx, number)
	if err != nil {
		return err
	}
	read, faults, err := a.catalog.ReadReport([]byte(d.Text))
	if err == nil && len(faults) == 0 {
		a.room.catalog.SetDraft(d.ReportID(), read)
	}
	return errors.Join(err, a.room.people.Reopen(ctx))
}

// left tells that a draft is tried out no more.
func (a *Access) left(ctx context.Context, d model.Draft) error {
	a.room.catalog.SetDraft(d.ReportID(), nil)
	return a.room.people.Reopen(ctx)
}

// newTesters are those to whom a draft was not open before.
func newTesters(was, is []model.Opening) (out []model.Opening) {
	for _, o := range is {
		if !slices.Contains(was, o) {
			out = append(out, o)
		}
	}
	return out
}

// askToTry tells people that a draft is open to them.
func (a *Access) askToTry(ctx context.Context, d model.Draft, to []model.Opening) error {
	var names []string
	for _, o := range to {
		members, err := a.room.people.Named(ctx, o)
		if err != nil {
			return err
		}
		names = append(names, members...)
	}
	return a.tell(ctx, names, "draft", "/reports/"+d.ReportID(), "%s asks you to try the draft “%s”.",
		a.Person().Title, strings.TrimSpace(d.Title))
}
