package standing

import (
	"context"
	"fmt"
	"slices"

	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/model"
)

// KeepRules are how long results are kept.
func (a *Access) KeepRules(ctx context.Context) ([]model.KeepRule, error) {
	if err := a.May(access.KeepService); err != nil {
		return nil, err
	}
	return a.room.records.KeepRules(ctx)
}

// sample is how many results are named of those that go by a rule.
const sample = 20

// TryKeepRule tells what goes by a rule as soon as it is kept.
func (a *Access) TryKeepRule(ctx context.Context, x model.KeepRule) (e model.RuleEffect, err error) {
	if err := a.checkRule(x); err != nil {
		return e, err
	}
	x.By, x.At = a.Person().Name, a.room.org.Now()
	return a.room.records.TryKeepRule(ctx, x, a.room.org.Now(), sample)
}

// PutKeepRule keeps a rule; what goes by it goes within the hour.
func (a *Access) PutKeepRule(ctx context.Context, x model.KeepRule) (e model.RuleEffect, err error) {
	if e, err = a.TryKeepRule(ctx, x); err != nil {
		return e, err
	}
	acting.On(ctx, "rule", x.Kind+":"+x.ID)
	acting.Changes(ctx, "", fmt.Sprintf("%d days, final %t, %d results go", x.Days, x.Final, e.Results))
	x.By, x.At = a.Person().Name, a.room.org.Now()
	return e, a.room.records.PutKeepRule(ctx, x)
}

// DeleteKeepRule forgets a rule.
func (a *Access) DeleteKeepRule(ctx context.Context, kind, id string) error {
	if err := a.May(access.KeepService); err != nil {
		return err
	}
	acting.On(ctx, "rule", kind+":"+id)
	if err := a.room.records.DeleteKeepRule(ctx, kind, id); err != nil {
		return fmt.Errorf("a rule for %s %s: %w", kind, id, err)
	}
	return nil
}

func (a *Access) checkRule(x model.KeepRule) error {
	const longest = 36_500
	if err := a.May(access.KeepService); err != nil {
		return err
	}
	var known []string
	switch x.Kind {
	case "all":
		known = []string{"all"}
	case "report":
		known = a.room.catalog.ReportIDs()
	case "category":
		for _, id := range a.room.catalog.ReportIDs() {
			known = append(known, a.room.catalog.Present()[id].Category)
		}
		slices.Sort(known)
		known = slices.Compact(known)
	default:
		return model.Refuse("kind", "%q is not report, category or all", x.Kind)
	}
	switch {
	case !slices.Contains(known, x.ID):
		return model.NoSuch(x.Kind, x.ID, known)
	case x.Days < 1 || x.Days > longest:
		return model.Refuse("days", "results are kept for 1 to %d days", longest)
	}
	return nil
}

// Quotas are how much people's results may take.
func (a *Access) Quotas(ctx context.Context) ([]model.Quota, error) {
	if err := a.May(access.KeepService); err != nil {
		return nil, err
	}
	return a.room.records.Quotas(ctx)
}

// PutQuota says how much the results of somebody may take; 0 bytes for anything.
func (a *Access) PutQuota(ctx context.Context, x model.Quota) error {
	if err := a.May(access.KeepService); err != nil {
		return err
	}
	var known []string
	switch x.Kind {
	case "person":
		all, err := a.People(ctx)
		if err != nil {
			return err
		}
		for _, p := range all {
			known = append(known, p.Name)
		}
	case "group":
		all, err := a.Groups(ctx)
		if err != nil {
			return err
		}
		for _, g := range all {
			known = append(known, g.ID)
		}
	case "everyone":
		known = []string{"everyone"}
	default:
		return model.Refuse("kind", "%q is not person, group or everyone", x.Kind)
	}
	switch {
	case !slices.Contains(known, x.ID) && x.Bytes > 0:
		return model.NoSuch(x.Kind, x.ID, known)
	case x.Bytes < 0:
		return model.Refuse("megabytes", "a quota is more than nothing; 0 takes it away")
	}
	acting.On(ctx, "quota", x.Kind+":"+x.ID)
	acting.Changes(ctx, "", size(x.Bytes))
	if err := a.room.records.PutQuota(ctx, x); err != nil {
		return fmt.Errorf("a quota of %s %s: %w", x.Kind, x.ID, err)
	}
	return nil
}

// MayKeepMore says why somebody's runs are not started: their results take what they may.
func (room *Room) MayKeepMore(ctx context.Context, person string) error {
	x, err := room.records.Allowance(ctx, person)
	if err != nil || x.Allowed == 0 || x.Used < x.Allowed {
		return err
	}
	whose := map[string]string{"person": "your quota", "group": "the quota of your group",
		"everyone": "the quota of everyone"}
	return model.Forbid("your results take %s, and %s is %s; delete some, empty the trash of them, or ask an "+
		"administrator",
		size(x.Used), whose[x.Of], size(x.Allowed))
}
