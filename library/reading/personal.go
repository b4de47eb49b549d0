package reading

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/mask"
	"mantilla/core/nearest"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/model"
)

// hidden are the columns of a dataset that are hidden from the person, with how.
func (a *Access) hidden(d *report.Dataset) map[string]string { return mask.Columns(d, a.Clear) }

// tellHidden says with the view of a reading which of its columns are hidden from the person, and gives
// what the cache keeps of it a name of its own.
func (a *Access) tellHidden(read *Reading, hidden map[string]string) (cache string) {
	if len(hidden) == 0 {
		return ""
	}
	labels := map[string][]string{}
	for _, c := range read.Dataset.Columns { // in their order
		if by := hidden[c.ID]; by != "" {
			labels[by] = append(labels[by], shown.Uncapitalised(c.Label))
		}
	}
	var says []string
	for _, how := range []struct{ by, says string }{{report.MaskPseudonym, "by pseudonyms"},
		{report.MaskPart, "by first letters"}, {report.MaskWhole, "hidden"}} {
		if all := labels[how.by]; len(all) > 0 {
			says = append(says, nearest.And(all)+" "+how.says)
		}
	}
	told := *read.View
	told.Hides = strings.Join(says, "; ")
	read.View = &told
	return "hidden/" + strings.Join(slices.Sorted(maps.Keys(hidden)), ",") + "/"
}

// purposed is why rows of a result cannot be read yet: its report asks what for.
func (a *Access) purposed(ctx context.Context, r *Result) error {
	if !r.Definition.AsksPurpose {
		return nil
	}
	return a.Purposed(ctx, r.Report, r.Title)
}

// AsksPurpose tells whether the person has to say first what they read a result for.
func (a *Access) AsksPurpose(r *Result) bool { return a.purposed(context.Background(), r) != nil }

// wholly refuses what only who sees every column clear may do.
func (a *Access) wholly(r *Result, what string) error {
	for i := range r.Definition.Datasets {
		for id := range a.hidden(&r.Definition.Datasets[i]) {
			return model.Forbid("%s holds all rows as they are, and %s is hidden from you", what,
				r.Definition.Datasets[i].Column(id).Label)
		}
	}
	return nil
}

// masked says why rows that stay in an engine cannot be read by whom columns are hidden from.
func masked(d *report.Dataset, hidden map[string]string) error {
	if len(hidden) == 0 {
		return nil
	}
	return fmt.Errorf("the rows of %s stay in their database, where personal columns cannot be hidden from you; %w", d.ID,
		model.Forbid("who sees them clear may open them"))
}

// hiddenAlike refuses to look for the rows behind a figure by a column that is hidden from the person in
// another way there: none would be found, as if there were none.
func (a *Access) hiddenAlike(front, behind *report.Dataset, filters []string) error {
	here, there := a.hidden(front), a.hidden(behind)
	for _, f := range filters {
		id, _, _ := strings.Cut(f, "=")
		if here[id] != there[id] {
			return model.Forbid("%s is hidden from you in another way in the rows behind it; who sees it clear may open this",
				id)
		}
	}
	return nil
}
