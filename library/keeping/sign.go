package keeping

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"mantilla/core/nearest"
	"mantilla/library/access"
	"mantilla/library/notices"
	"mantilla/library/reading"
	"mantilla/model"
)

// SignRule is who may sign the results of a report off.
func (a *Access) SignRule(ctx context.Context, report string) (model.SignRule, error) {
	if !a.Opens(report) {
		return model.SignRule{}, model.NoSuch("report", report, nil)
	}
	rule, err := a.room.records.SignRule(ctx, report)
	if errors.Is(err, model.ErrNotFound) {
		err = model.NoSuch("report", report, nil)
	}
	return rule, err
}

// PutSignRule says who may sign the results of a report off, and in how many steps.
func (a *Access) PutSignRule(ctx context.Context, rule model.SignRule) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	if rule.Steps != 1 && rule.Steps != 2 {
		return model.Refuse("steps", "a result is signed off in 1 step or in 2, not in %d", rule.Steps)
	}
	if slices.ContainsFunc(rule.Who, func(o model.Opening) bool { return o.Kind == "everyone" }) {
		return model.Refuse("who", "a sign-off that anybody can give is none; name groups and people")
	}
	if err := a.room.people.CheckOpenings(ctx, rule.Who); err != nil {
		return err
	}
	err := a.room.records.PutSignRule(ctx, rule)
	if errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("report", rule.Report, nil)
	}
	if err == nil {
		a.room.log.InfoContext(ctx, "who signs off", "report", rule.Report, "who", rule.Who, "steps", rule.Steps, "by",
			a.Person().Name)
	}
	return err
}

// signers are the accounts that may sign the results of a report off.
func (a *Access) signers(ctx context.Context, rule model.SignRule) (names []string, err error) {
	if len(rule.Who) == 0 {
		names, err = a.room.people.WhoMay(ctx, access.KeepCatalog)
		if owner := a.room.owner(rule.Report); owner != "" {
			names = append(names, owner)
		}
		return names, err
	}
	for _, o := range rule.Who {
		named, err := a.room.people.Named(ctx, o)
		if err != nil {
			return nil, err
		}
		names = append(names, named...)
	}
	return names, nil
}

// place is where in the console a result is.
func place(result int64) notices.Subject {
	return notices.Subject{About: "result", Place: fmt.Sprintf("/results/R-%06d", result)}
}

// SignOff gives the person's word that a result was checked. With the last step it is signed off,
// and held. Each step is another person's.
func (a *Access) SignOff(ctx context.Context, result int64, says string) (*reading.Result, error) {
	r, err := a.reading.Result(ctx, result)
	if err != nil {
		return nil, err
	}
	rule, err := a.room.records.SignRule(ctx, r.Report)
	if errors.Is(err, model.ErrNotFound) { // its report was deleted, and its results stay
		rule, err = model.SignRule{Report: r.Report, Steps: 1}, nil
	}
	if err != nil {
		return nil, fmt.Errorf("who signs results of %s: %w", r.Report, err)
	}
	may, err := a.signers(ctx, rule)
	if err != nil {
		return nil, err
	}
	name := a.Person().Name
	switch {
	case !slices.Contains(may, name):
		return nil, model.Forbid("results of %s are signed off by %s", r.Report, nearest.Or(compacted(may)))
	case r.Signed:
		return nil, model.Refuse("result", "R-%06d is signed off already", result)
	case slices.ContainsFunc(r.Signs, func(s model.Sign) bool { return s.Person == name }):
		return nil, model.Refuse("result", "you signed R-%06d; another person signs the next step", result)
	case model.IsDraft(r.Report):
		return nil, model.Refuse("result", "R-%06d is of a draft; take that into the catalog first", result)
	}
	at := a.room.org.Now()
	signs := append(slices.Clone(r.Signs), model.Sign{Person: name, Title: a.Person().Title, At: at, Says: says})
	whole := len(signs) >= rule.Steps
	if err := a.room.records.PutSigns(ctx, result, r.Signs, signs, whole,
		model.Act{What: model.ActSigned, Person: name, At: at, Says: says}); err != nil {
		return nil, fmt.Errorf("signing R-%06d: %w", result, err)
	}
	told, word := []string{r.Manifest.AskedBy}, "signed off"
	if !whole {
		told, word = append(told, may...), "signed, and waits for the second step"
	}
	if err := a.room.notices.Tell(ctx, name, told, place(result), "R-%06d, %s, was %s by %s.", result, r.Title, word,
		a.Person().Title); err != nil {
		return nil, err
	}
	return a.reading.Result(ctx, result)
}

func compacted(names []string) []string {
	names = slices.Sorted(slices.Values(names))
	return slices.Compact(names)
}

// Withdraw takes back all signs of a result; that it was done, and why, stays. Those who signed
// may, and librarians.
func (a *Access) Withdraw(ctx context.Context, result int64, why string) (*reading.Result, error) {
	r, err := a.reading.Result(ctx, result)
	if err != nil {
		return nil, err
	}
	name := a.Person().Name
	switch {
	case len(r.Signs) == 0:
		return nil, model.Refuse("result", "nobody signed R-%06d", result)
	case why == "":
		return nil, model.Refuse("why", "say why the sign-off is withdrawn; it stays on record")
	case !a.Has(access.KeepCatalog) && !slices.ContainsFunc(r.Signs, func(s model.Sign) bool { return s.Person == name }):
		return nil, model.Forbid("those who signed R-%06d withdraw it, or a librarian", result)
	}
	if err := a.room.records.PutSigns(ctx, result, r.Signs, nil, false,
		model.Act{What: model.ActWithdrawn, Person: name, At: a.room.org.Now(), Says: why}); err != nil {
		return nil, fmt.Errorf("withdrawing R-%06d: %w", result, err)
	}
	told := []string{r.Manifest.AskedBy}
	for _, s := range r.Signs {
		told = append(told, s.Person)
	}
	if err := a.room.notices.Tell(ctx, name, told, place(result), "The sign-off of R-%06d, %s, was withdrawn by %s: %s",
		result, r.Title, a.Person().Title, why); err != nil {
		return nil, err
	}
	return a.reading.Result(ctx, result)
}

// Hold keeps a result from being deleted, by people and by retention, until it is released.
// People hold results of their own runs, librarians any.
func (a *Access) Hold(ctx context.Context, result int64, held bool, why string) (*reading.Result, error) {
	r, err := a.reading.Result(ctx, result)
	if err != nil {
		return nil, err
	}
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	if err := a.MayChange(fmt.Sprintf("the result R-%06d", result), r.Manifest.AskedBy); err != nil {
		return nil, err
	}
	what := model.ActHeld
	if !held {
		what = model.ActReleased
	}
	if r.Held == held {
		return nil, model.Refuse("result", "R-%06d is %s already", result, what)
	}
	if err := a.room.records.PutHold(ctx, result, held, model.Act{What: what, Person: a.Person().Name,
		At: a.room.org.Now(), Says: why}); err != nil {
		return nil, fmt.Errorf("R-%06d: %w", result, err)
	}
	return a.reading.Result(ctx, result)
}

// Acts are what was done about keeping a result: signed, withdrawn, held, released.
func (a *Access) Acts(ctx context.Context, result int64) ([]model.Act, error) {
	if _, err := a.reading.Result(ctx, result); err != nil {
		return nil, err
	}
	return a.room.records.Acts(ctx, result)
}
