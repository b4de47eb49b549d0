package drafting

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
)

// mostFeedback is how much of what was written is listed.
const mostFeedback = 500

// Write sends what a reader has to say of a report, or of one of its results, to those
// who keep the catalog.
func (a *Access) Write(ctx context.Context, id string, result int64, says string) error {
	d, err := a.catalog.Report(id)
	if err != nil {
		return err
	}
	says = strings.TrimSpace(says)
	switch n := len([]rune(says)); {
	case n == 0:
		return model.Refuse("says", "write what you want to say")
	case n > mostNote:
		return model.Refuse("says", "what you say has %d characters; at most %d can be sent", n, mostNote)
	}
	if result > 0 {
		r, err := a.reading.Result(ctx, result)
		if err != nil {
			return err
		}
		if r.Report != id {
			return model.Refuse("result", "the result R-%06d is of the report %s", result, r.Report)
		}
	}
	number, err := a.room.records.AddFeedback(ctx, model.Feedback{Report: id, Result: result, Person: a.Person().Name,
		At: a.room.org.Now(), Says: says})
	if err != nil {
		return err
	}
	keepers, err := a.room.people.WhoMay(ctx, access.KeepCatalog)
	if err != nil {
		return err
	}
	about := d.Title
	if result > 0 {
		about += fmt.Sprintf(" (R-%06d)", result)
	}
	return a.tell(ctx, keepers, "feedback", fmt.Sprintf("/office?desk=feedback&number=%d", number), "%s writes of %s: %s",
		a.Person().Title, about, says)
}

// Feedback is what was written, the newest first: all of it for those who keep the
// catalog, and for others their own.
func (a *Access) Feedback(ctx context.Context) ([]model.Feedback, error) {
	person := a.Person().Name
	if a.Has(access.KeepCatalog) {
		person = ""
	}
	return a.room.records.Feedback(ctx, person, mostFeedback)
}

// Answer answers what a reader wrote, or says that it is done; the reader is told.
func (a *Access) Answer(ctx context.Context, number int64, state, answer string) (model.Feedback, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return model.Feedback{}, err
	}
	f, err := a.room.records.FeedbackNumbered(ctx, number)
	if errors.Is(err, model.ErrNotFound) {
		return f, model.NoSuch("feedback", fmt.Sprint(number), nil)
	}
	if err != nil {
		return f, err
	}
	if len([]rune(answer)) > mostNote {
		return f, model.Refuse("answer", "the answer has more than %d characters", mostNote)
	}
	f.State, f.Answer, f.AnsweredBy, f.AnsweredAt = state, strings.TrimSpace(answer), a.Person().Name, a.room.org.Now()
	if err := a.room.records.AnswerFeedback(ctx, f); err != nil {
		return f, err
	}
	return f, a.tell(ctx, []string{f.Person}, "feedback", "/reports/"+f.Report, "%s answers what you wrote of %s: %s",
		a.Person().Title, f.Report, fallback(f.Answer, "it is "+state))
}

func fallback(text, otherwise string) string {
	if text == "" {
		return otherwise
	}
	return text
}

// Retire takes a report out of the catalog and tells those who depend on it.
func (a *Access) Retire(ctx context.Context, id, successor string) error {
	d, err := a.catalog.Report(id)
	if err != nil {
		return err
	}
	concerned, err := a.effects(ctx, &report.Definition{ID: id})
	if err != nil {
		return err
	}
	if err := a.catalog.Retire(ctx, id, successor); err != nil {
		return err
	}
	instead := "nothing takes its place"
	if successor != "" {
		instead = successor + " takes its place"
	}
	for _, e := range concerned {
		if e.Owner == "" {
			continue
		}
		err := a.tell(ctx, []string{e.Owner}, "report", "/reports/"+id,
			"The report “%s” is retired; %s. Your %s “%s” runs no more; its results stay.", d.Title, instead, e.Kind, e.Name)
		if err != nil {
			return err
		}
	}
	return nil
}
