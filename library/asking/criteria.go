package asking

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
)

// Criteria are values kept under a name, with what they come to today.
type Criteria struct {
	model.Criteria
	Mine     bool
	Sentence string   // what they come to; "" when they no longer fit
	Unfit    []string // what of them no longer fits, with the mend
}

// FindCriteria returns criteria that the person sees and whose report is open.
func (a *Access) FindCriteria(ctx context.Context, number int64) (model.Criteria, error) {
	c, err := a.room.records.CriteriaOf(ctx, number, a.Person().Name)
	if err != nil {
		return c, fmt.Errorf("criteria C-%d: %w", number, err)
	}
	shared := c.Shared == "everyone" || slices.Contains(a.Person().Groups, c.Shared)
	if c.Owner != a.Person().Name && !shared && !a.Has(access.KeepCatalog) || !a.Opens(c.Report) {
		return c, fmt.Errorf("criteria C-%d: %w", number, model.ErrNotFound)
	}
	return c, nil
}

// CriteriaWish says which criteria of a report are wanted.
type CriteriaWish struct {
	Search string // words in their names
	Limit  int
}

// CriteriaFor returns the criteria of a report that the person sees, their
// usual first, each with what it comes to today.
func (a *Access) CriteriaFor(ctx context.Context, id string, w CriteriaWish) ([]Criteria, error) {
	if _, err := a.catalog.Report(id); err != nil {
		return nil, err
	}
	kept, err := a.room.records.CriteriaFor(ctx, id, model.Seen{Person: a.Person().Name, Groups: a.Person().Groups},
		w.Search, w.Limit)
	if err != nil {
		return nil, err
	}
	out := []Criteria{}
	if len(kept) == 0 {
		return out, nil
	}
	q, err := a.ask(ctx, id, With{Criteria: kept[0].Number})
	if err != nil {
		return nil, err
	}
	for _, c := range kept {
		q.with = With{Criteria: c.Number}
		described, err := a.describe(ctx, q, c)
		if err != nil {
			return nil, err
		}
		out = append(out, described)
	}
	return out, nil
}

// CriteriaOf returns one set of criteria with what it comes to today.
func (a *Access) CriteriaOf(ctx context.Context, number int64) (Criteria, error) {
	c, err := a.FindCriteria(ctx, number)
	if err != nil {
		return Criteria{}, err
	}
	q, err := a.ask(ctx, c.Report, With{Criteria: number})
	if err != nil {
		return Criteria{}, err
	}
	return a.describe(ctx, q, c)
}

// describe adds what criteria come to, or what of them no longer fits. They
// are never changed by themselves.
func (a *Access) describe(ctx context.Context, q *asking, c model.Criteria) (Criteria, error) {
	r, err := a.resolve(ctx, q, c.Typed)
	if err != nil {
		return Criteria{}, err
	}
	if a.Limited() && c.Owner != a.Person().Name {
		c.LastRows = -1 // counted over units that may be foreign to the person
	}
	out := Criteria{Criteria: c, Mine: c.Owner == a.Person().Name, Sentence: r.Sentence, Unfit: []string{}}
	for _, f := range r.Faults {
		out.Unfit = append(out.Unfit, f.Message)
	}
	return out, nil
}

// KeepCriteria keeps values under a new name. What was typed is kept: moving
// ranges stay moving. Values need not be complete.
func (a *Access) KeepCriteria(ctx context.Context, c model.Criteria) (Criteria, error) {
	if err := a.May(access.Run); err != nil {
		return Criteria{}, err
	}
	d, err := a.catalog.Report(c.Report)
	if err != nil {
		return Criteria{}, err
	}
	if err := a.NameAndShare(&c.Name, c.Shared); err != nil {
		return Criteria{}, err
	}
	c.Owner, c.Version, c.ChangedAt = a.Person().Name, d.Version, a.room.org.Now()
	c.Typed = whole(d, c.Typed)
	kept, err := a.room.records.AddCriteria(ctx, c)
	if err != nil {
		return Criteria{}, fmt.Errorf("criteria %q: %w", c.Name, err)
	}
	return a.CriteriaOf(ctx, kept.Number)
}

// whole completes values by the declared defaults, so that criteria mean the
// same for everyone whatever is usual for them.
func whole(d *report.Definition, typed map[string]string) map[string]string {
	all := map[string]string{}
	for _, p := range d.Parameters {
		all[p.ID] = p.Default
	}
	maps.Copy(all, typed)
	return all
}

// NameAndShare checks a name, and a group to share with.
func (a *Access) NameAndShare(name *string, shared string) error {
	*name = strings.Join(strings.Fields(*name), " ")
	if *name == "" || len(*name) > 120 {
		return model.Refuse("name", "a name has 1 to 120 characters")
	}
	if shared != "" && shared != "everyone" && !slices.Contains(a.Person().Groups, shared) && !a.Has(access.KeepCatalog) {
		return model.Refuse("shared", "you are not in the group %q; share with %s", shared,
			nearest.Or(append([]string{"everyone"}, a.Person().Groups...)))
	}
	return nil
}

// ChangeCriteria overwrites criteria whose revision is still the one seen.
func (a *Access) ChangeCriteria(ctx context.Context, c model.Criteria) (Criteria, error) {
	present, err := a.FindCriteria(ctx, c.Number)
	if err == nil {
		err = a.MayChange(fmt.Sprintf("%q", present.Name), present.Owner)
	}
	if err == nil {
		err = a.NameAndShare(&c.Name, c.Shared)
	}
	if err != nil {
		return Criteria{}, err
	}
	d, err := a.catalog.Report(present.Report)
	if err != nil {
		return Criteria{}, err
	}
	c.Version, c.ChangedAt, c.Typed = d.Version, a.room.org.Now(), whole(d, c.Typed)
	if maps.Equal(c.Typed, present.Typed) {
		c.Version = present.Version // renaming does not say that the values fit
	}
	if err := a.room.records.PutCriteria(ctx, c); err != nil {
		return Criteria{}, fmt.Errorf("criteria %q: %w", c.Name, err)
	}
	return a.CriteriaOf(ctx, c.Number)
}

// DeleteCriteria takes criteria out of sight; RestoreCriteria brings them back.
func (a *Access) DeleteCriteria(ctx context.Context, number int64) error {
	c, err := a.FindCriteria(ctx, number)
	if err == nil {
		err = a.MayChange(fmt.Sprintf("%q", c.Name), c.Owner)
	}
	if err == nil {
		err = a.room.records.DeleteCriteria(ctx, number, a.room.org.Now())
	}
	return err
}

// PastCriteria returns what criteria held before they were overwritten, the newest
// first, each with what it comes to today: for those who may change them.
func (a *Access) PastCriteria(ctx context.Context, number int64) ([]Criteria, error) {
	c, err := a.FindCriteria(ctx, number)
	if err == nil {
		err = a.MayChange(fmt.Sprintf("%q", c.Name), c.Owner)
	}
	if err != nil {
		return nil, err
	}
	past, err := a.room.records.PastCriteria(ctx, number)
	if err != nil {
		return nil, err
	}
	q, err := a.ask(ctx, c.Report, With{Criteria: number})
	if err != nil {
		return nil, err
	}
	out := []Criteria{}
	for _, p := range past {
		was := c
		was.Revision, was.Typed, was.Version, was.ChangedAt = p.Revision, p.Typed, p.Version, p.ChangedAt
		described, err := a.describe(ctx, q, was)
		if err != nil {
			return nil, err
		}
		out = append(out, described)
	}
	return out, nil
}

// RestoreCriteria brings deleted criteria back or, for a revision other than 0, the
// values that were overwritten after it; what they replace is kept in turn.
func (a *Access) RestoreCriteria(ctx context.Context, number, revision int64) (Criteria, error) {
	c, err := a.FindCriteria(ctx, number)
	if err == nil {
		err = a.MayChange(fmt.Sprintf("%q", c.Name), c.Owner)
	}
	switch {
	case err != nil:
	case revision != 0:
		err = a.bringBack(ctx, c, revision)
	default:
		err = a.room.records.RestoreCriteria(ctx, number)
	}
	if err != nil {
		return Criteria{}, err
	}
	return a.CriteriaOf(ctx, number)
}

// bringBack gives criteria the values of an earlier revision.
func (a *Access) bringBack(ctx context.Context, c model.Criteria, revision int64) error {
	past, err := a.room.records.PastCriteria(ctx, c.Number)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(past, func(p model.Criteria) bool { return p.Revision == revision })
	if at < 0 {
		return model.Refuse("revision", "%q has no earlier values of revision %d", c.Name, revision)
	}
	c.Typed, c.Version, c.ChangedAt = past[at].Typed, past[at].Version, a.room.org.Now()
	if err := a.room.records.PutCriteria(ctx, c); err != nil {
		return fmt.Errorf("criteria %q: %w", c.Name, err)
	}
	return nil
}

// SetUsual makes criteria the values that the person's form begins with, or
// no longer.
func (a *Access) SetUsual(ctx context.Context, number int64, usual bool) error {
	c, err := a.FindCriteria(ctx, number)
	if err != nil {
		return err
	}
	if !usual {
		number = 0
	}
	return a.room.records.SetUsual(ctx, a.Person().Name, c.Report, number)
}
