package sending

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/report"
	"mantilla/model"
)

// Parts settles for whom an order is run: what each part holds and who gets
// it, each cut to what they may see. Recipients who may see less than the part
// holds get a part of their own.
func (a *Access) Parts(ctx context.Context, c Order) ([]Part, error) {
	base := plan{Title: c.Title, Send: *c.Send, Outputs: c.Outputs}
	for _, s := range c.Steps {
		base.Views = append(base.Views, s.View)
	}
	book, err := a.room.records.Addresses(ctx)
	if err != nil {
		return nil, err
	}
	var lines []line
	for _, l := range []struct {
		name    string
		written []string
	}{{"to", c.Send.To}, {"cc", c.Send.Copy}, {"bcc", c.Send.Blind}} {
		people, err := a.room.addressed(book, l.written)
		if err != nil {
			return nil, err
		}
		for _, p := range people {
			lines = append(lines, line{Address: p, Line: l.name})
		}
	}
	whole := Part{As: a.Access, plan: base}
	whole.plan.Lines = lines
	switch {
	case c.Split == nil:
		return a.cutToRecipients(ctx, c, whole)
	case c.Split.Column != "":
		whole.plan.Column = c.Split.Column
		for value, written := range c.Split.People {
			people, err := a.room.addressed(book, written)
			if err != nil {
				return nil, err
			}
			for _, p := range people {
				at := slices.IndexFunc(whole.plan.Lines, func(l line) bool { return l.Mail == p.Mail })
				if at < 0 {
					whole.plan.Lines = append(whole.plan.Lines, line{Address: p, Line: "to", Parts: []string{value}})
				} else if whole.plan.Lines[at].Parts != nil {
					whole.plan.Lines[at].Parts = append(whole.plan.Lines[at].Parts, value)
				}
			}
		}
		return a.cutToRecipients(ctx, c, whole)
	}
	return a.unitParts(ctx, c, book, whole)
}

// unitParts makes a part of each unit of a kind that the person sees.
func (a *Access) unitParts(ctx context.Context, c Order, book []model.Address, whole Part) (out []Part, err error) {
	d, err := a.catalog.Report(c.Steps[0].Report)
	if err != nil {
		return nil, err
	}
	src, err := a.room.catalog.Source(d.Source)
	if err != nil {
		return nil, err
	}
	reach, err := a.Reach(ctx, src.Book)
	if err != nil {
		return nil, err
	}
	units, _, err := src.Book.Units(ctx, c.Split.Units)
	if err != nil {
		return nil, err
	}
	seen := map[string]bool{}
	for _, u := range units {
		if seen[u.Code] || reach.Limited && !slices.Contains(reach.Units, u.Code) {
			continue
		}
		seen[u.Code] = true
		own := whole
		own.Key, own.Name = u.Code, u.Label
		own.As = a.LimitedTo([]string{u.Code})
		own.plan.Lines = slices.Clone(whole.plan.Lines)
		people, err := a.room.addressed(book, c.Split.People[u.Code])
		if err != nil {
			return nil, err
		}
		for _, e := range book {
			if slices.Contains(e.Units, u.Code) {
				people = append(people, e)
			}
		}
		for _, p := range people {
			if !slices.ContainsFunc(own.plan.Lines, func(l line) bool { return l.Mail == p.Mail }) {
				own.plan.Lines = append(own.plan.Lines, line{Address: p, Line: "to"})
			}
		}
		if len(own.plan.Lines) == 0 && c.Send.Folder == "" && c.Send.Webhook == "" {
			continue // nobody is there to get it
		}
		cut, err := a.cutToRecipients(ctx, c, own)
		if err != nil {
			return nil, err
		}
		out = append(out, cut...)
	}
	if len(out) == 0 {
		return nil, model.Refuse("split", "no unit of the kind %s has anybody to write to; name units in the address book",
			c.Split.Units)
	}
	return out, nil
}

// cutToRecipients takes out of a part those who may not see all of it, and
// makes parts of what they may see.
func (a *Access) cutToRecipients(ctx context.Context, c Order, whole Part) ([]Part, error) {
	lines := whole.plan.Lines
	whole.plan.Lines = nil
	parts := []Part{whole}
	for _, l := range lines {
		units, why, err := a.sightOf(ctx, c, l.Address, whole)
		if err != nil {
			return nil, err
		}
		switch {
		case why != "":
			parts[0].plan.Nobody = append(parts[0].plan.Nobody, why)
			continue
		case units == nil:
			parts[0].plan.Lines = append(parts[0].plan.Lines, l)
			continue
		}
		key := strings.Trim(whole.Key+" for "+strings.Join(units, " "), " ")
		at := slices.IndexFunc(parts, func(p Part) bool { return p.Key == key })
		if at < 0 {
			own := whole
			own.Key, own.Name, own.As = key, strings.Join(units, ", "), whole.As.LimitedTo(units)
			own.plan.Lines, own.plan.Nobody = nil, nil
			own.plan.Send.Folder, own.plan.Send.Webhook = "", ""
			parts = append(parts, own)
			at = len(parts) - 1
		}
		parts[at].plan.Lines = append(parts[at].plan.Lines, l)
	}
	first := parts[0].plan
	if len(parts) > 1 && len(first.Lines) == 0 && first.Send.Folder == "" && first.Send.Webhook == "" {
		parts[1].plan.Nobody = first.Nobody
		parts = parts[1:]
	}
	return parts, nil
}

// sightOf tells what of a part a recipient may see: all of it, where units is
// nil; some units of it; or nothing, and why.
func (a *Access) sightOf(ctx context.Context, c Order, e model.Address, of Part) (units []string, why string,
	err error) {
	limit := e.Units
	if e.Person != "" {
		p, err := a.room.people.Person(ctx, e.Person)
		switch {
		case errors.Is(err, model.ErrNotFound) || err == nil && p.Closed:
			return nil, fmt.Sprintf("%s: the account %s is closed", e.Name, e.Person), nil
		case err != nil:
			return nil, "", err
		case p.Owner != "":
			return nil, fmt.Sprintf("%s: the account %s is a service account, which reads no mail", e.Name, e.Person), nil
		}
		for _, s := range c.Steps {
			if !a.room.people.As(p).Opens(s.Report) {
				return nil, fmt.Sprintf("%s may not open the report %s", e.Name, s.Report), nil
			}
		}
		limit = p.Units
	}
	if len(limit) == 0 {
		return nil, "", nil
	}
	d, err := a.catalog.Report(c.Steps[0].Report)
	if err != nil {
		return nil, "", err
	}
	src, err := a.room.catalog.Source(d.Source)
	if err != nil {
		return nil, "", err
	}
	theirs, err := src.Book.Reach(ctx, limit)
	if err != nil {
		return nil, "", err
	}
	has, err := of.As.Reach(ctx, src.Book)
	if err != nil {
		return nil, "", err
	}
	if !has.Limited {
		return limit, "", nil
	}
	covered, some := true, false
	for _, u := range has.Units {
		sees := slices.Contains(theirs.Units, u)
		covered, some = covered && sees, some || sees
	}
	if covered {
		return nil, "", nil
	}
	if _, plain := report.Plain(limit); !plain && some {
		return limit, "", nil
	}
	for _, u := range limit {
		if slices.Contains(has.Units, u) {
			units = append(units, u)
		}
	}
	if len(units) == 0 {
		return nil, fmt.Sprintf("%s sees nothing of %s", e.Name, of.Name), nil
	}
	return units, "", nil
}

func (p plan) text() json.RawMessage {
	text, _ := json.Marshal(p) // of texts alone
	return text
}

func readPlan(text json.RawMessage) (p plan, err error) {
	return p, json.Unmarshal(text, &p)
}
