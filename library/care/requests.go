package care

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/library/access"
	"mantilla/library/notices"
	"mantilla/model"
)

const (
	mostRequests = 500  // are listed
	longestSays  = 1000 // characters
)

// Ask asks for a report that is listed and not open to the person. Those who may open it are
// told.
func (a *Access) Ask(ctx context.Context, report, says string) error {
	d := a.room.catalog.Present()[report]
	_, gone := a.room.catalog.Retired(report)
	if d == nil || gone || !a.Opens(report) && !a.room.listed(report) {
		return model.NoSuch("report", report, nil)
	}
	if a.Opens(report) {
		return model.Refuse("report", "%s is open to you already", d.Title)
	}
	says = strings.TrimSpace(says)
	if len([]rune(says)) > longestSays {
		return model.Refuse("says", "say why in at most %d characters", longestSays)
	}
	number, err := a.room.records.AddRequest(ctx, model.Request{Report: report, Person: a.Person().Name,
		At: a.room.org.Now(), Says: says})
	if err != nil {
		return err
	}
	keepers, err := a.room.people.WhoMay(ctx, access.Grant)
	if err != nil {
		return err
	}
	if says != "" {
		says = " “" + says + "”"
	}
	return a.room.notices.Tell(ctx, a.Person().Name, keepers,
		notices.Subject{About: "request", Place: fmt.Sprintf("/office?desk=open&request=%d", number)},
		"%s asks for the report “%s”.%s", a.Person().Title, d.Title, says)
}

// Requests are what people asked for, the open ones first: of all for those who keep the
// catalog, and for others their own.
func (a *Access) Requests(ctx context.Context) ([]model.Request, error) {
	person := a.Person().Name
	if a.Has(access.Grant) {
		person = ""
	}
	return a.room.records.Requests(ctx, person, mostRequests)
}

// Answer opens a report to who asked for it, or refuses it; they are told.
func (a *Access) Answer(ctx context.Context, number int64, grant bool, answer string) (model.Request, error) {
	if err := a.May(access.Grant); err != nil {
		return model.Request{}, err
	}
	r, err := a.room.records.Request(ctx, number)
	if errors.Is(err, model.ErrNotFound) {
		return r, model.NoSuch("request", fmt.Sprint(number), nil)
	}
	if err != nil {
		return r, err
	}
	if len([]rune(answer)) > longestSays {
		return r, model.Refuse("answer", "the answer has more than %d characters", longestSays)
	}
	if r.State != "open" {
		return r, model.Refuse("request", "it was answered before: %s by %s", r.State, r.AnsweredBy)
	}
	r.State, r.Answer, r.AnsweredBy, r.AnsweredAt = "refused", strings.TrimSpace(answer), a.Person().Name, a.room.org.Now()
	if grant {
		r.State = "granted"
		if err := a.open(ctx, r); err != nil {
			return r, err
		}
	}
	if err := a.room.records.AnswerRequest(ctx, r); err != nil {
		return r, err
	}
	said := "is not opened to you"
	if grant {
		said = "is open to you now"
	}
	title := r.Report
	if d := a.room.catalog.Present()[r.Report]; d != nil {
		title = d.Title
	}
	if r.Answer != "" {
		said += ": " + r.Answer
	} else {
		said += "."
	}
	return r, a.room.notices.Tell(ctx, a.Person().Name, []string{r.Person},
		notices.Subject{About: "request", Place: "/catalog?search=" + r.Report}, "The report “%s” %s", title, said)
}

func (a *Access) open(ctx context.Context, r model.Request) error {
	to, err := a.catalog.Opening(r.Report)
	if err != nil {
		return err
	}
	own := model.Opening{Kind: "person", Name: r.Person}
	if slices.Contains(to, own) {
		return nil
	}
	return a.catalog.OpenAsked(ctx, r.Report, r.Person)
}

// HandOver gives what a person keeps to another: criteria, kept views, run controls, drafts,
// reports, terms, addresses and tiles. It tells how much of what it was.
func (a *Access) HandOver(ctx context.Context, from, to string) ([]string, error) {
	if err := a.May(access.KeepPeople); err != nil {
		return nil, err
	}
	if from == to {
		return nil, model.Refuse("to", "%s would hand over to themselves; name another", from)
	}
	for _, name := range []string{from, to} {
		p, err := a.room.people.Person(ctx, name)
		if errors.Is(err, model.ErrNotFound) {
			return nil, model.NoSuch("account", name, nil)
		}
		if err != nil {
			return nil, err
		}
		if name == to && p.Closed {
			return nil, model.Refuse("to", "the account %s is closed; name another", to)
		}
	}
	moved, err := a.room.records.HandOver(ctx, from, to)
	if err != nil {
		return nil, err
	}
	if err := a.room.reload(ctx); err != nil {
		return nil, err
	}
	a.room.log.InfoContext(ctx, "handed over", "from", from, "to", to, "what", strings.Join(moved, ", "), "by",
		a.Person().Name)
	if len(moved) == 0 {
		return []string{}, nil
	}
	return moved, a.room.notices.Tell(ctx, a.Person().Name, []string{to}, notices.Subject{About: "people", Place: "/"},
		"What %s kept is yours now: %s.", from, strings.Join(moved, ", "))
}
