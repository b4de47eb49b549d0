package sending

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"mantilla/core/formula"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/render"
)

// Send is to whom and how the files of a run control go.
type Send struct {
	To      []string `json:"to,omitempty"` // nicknames, groups of the address book, mail addresses
	Copy    []string `json:"copy,omitempty"`
	Blind   []string `json:"blind,omitempty"`
	Subject string   `json:"subject,omitempty"` // with {title}, {part}, {date} and others
	Text    string   `json:"text,omitempty"`
	InBody  bool     `json:"in_body,omitempty"` // the sheets stand in the message
	Folder  string   `json:"folder,omitempty"`  // below the folder that the service writes to
	Webhook string   `json:"webhook,omitempty"` // address that is called
	When    string   `json:"when,omitempty"`    // "" always, rows, or a condition over the result: sum(value) > 10000

	Page render.Options `json:"page"`
}

// Split makes several of a run control: one for each unit of a kind, or for
// each value of a column, sent to that part's people.
type Split struct {
	Units  string `json:"units,omitempty"`  // kind of units: district
	Column string `json:"column,omitempty"` // of the first report's view
	// who gets a part, by unit or value; of units, those who stand for it in the address book too
	People map[string][]string `json:"people,omitempty"`
}

// line is a recipient with the line that names them.
type line struct {
	model.Address
	Line  string   `json:"line"`
	Parts []string `json:"parts,omitempty"` // values of a column that they get; all where there are none
}

// plan is what one run of a control sends, as it was settled when it was asked
// for.
type plan struct {
	Title   string   `json:"title"`
	Send    Send     `json:"send"`
	Column  string   `json:"column,omitempty"` // that files are split by
	Outputs []string `json:"outputs"`
	Views   []string `json:"views"` // opened first, by report; "" for the page
	Lines   []line   `json:"lines"`
	Nobody  []string `json:"nobody,omitempty"` // who gets nothing, and why
}

// Order is what is sent of which reports: what sending looks at of a run control.
type Order struct {
	Title   string
	Steps   []Step
	Outputs []string // formats; kept is none
	Send    *Send    // nil for nobody
	Split   *Split   // nil for one part
}

// Step is one report of an order with the view that opens first; "" for the page.
type Step struct{ Report, View string }

// Part is one run of an order that is sent: as whom, and to whom.
type Part struct {
	Key, Name string // "" for the whole
	As        *access.Access
	plan      plan
}

// Plan is what a part sends, to be kept with its run.
func (p Part) Plan() json.RawMessage { return p.plan.text() }

// Check says what is wrong with an order.
func (a *Access) Check(ctx context.Context, c Order) error {
	if c.Split != nil && c.Send == nil {
		return model.Refuse("split", "a run control that is split says to whom its parts are sent")
	}
	if c.Send == nil {
		return nil
	}
	s := c.Send
	book, err := a.room.records.Addresses(ctx)
	if err != nil {
		return err
	}
	recipients := 0
	for _, l := range []struct {
		name    string
		written []string
	}{{"to", s.To}, {"copy", s.Copy}, {"blind", s.Blind}} {
		people, err := a.room.addressed(book, l.written)
		if err != nil {
			return model.Refuse("send."+l.name, "%w", err)
		}
		recipients += len(people)
	}
	if err := s.Page.Check(); err != nil {
		return model.Refuse("send.page", "%w", err)
	}
	if s.Page.Password != "" {
		return model.Refuse("send.page", "a password cannot be kept in a run control")
	}
	if s.Folder != "" && !filepath.IsLocal(s.Folder) {
		return model.Refuse("send.folder", "the folder %q must lie below the folder that the service writes to", s.Folder)
	}
	if s.Webhook != "" {
		if err := a.room.settings.Calls.Check(s.Webhook); err != nil {
			return model.Refuse("send.webhook", "%w", err)
		}
	}
	if c.Split != nil {
		if err := a.checkSplit(ctx, c, book); err != nil {
			return err
		}
	} else if recipients == 0 && s.Folder == "" && s.Webhook == "" {
		return model.Refuse("send.to", "nobody is written to; name recipients, a folder or an address on the web")
	}
	return a.checkWhen(ctx, c)
}

func (a *Access) checkSplit(ctx context.Context, c Order, book []model.Address) error {
	for part, written := range c.Split.People {
		if _, err := a.room.addressed(book, written); err != nil {
			return model.Refuse("split.people", "%s: %w", part, err)
		}
	}
	d, err := a.catalog.Report(c.Steps[0].Report)
	if err != nil {
		return err
	}
	switch {
	case (c.Split.Units == "") == (c.Split.Column == ""):
		return model.Refuse("split", "a run control is split by units or by a column")
	case c.Split.Column != "":
		for i, s := range c.Steps {
			d, err := a.catalog.Report(s.Report)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(d.Datasets, func(x report.Dataset) bool { return x.Column(c.Split.Column) != nil }) {
				return model.Refuse("split.column", "report %d, %s, has no column %q", i+1, d.Title, c.Split.Column)
			}
		}
		return nil
	}
	src, err := a.room.catalog.Source(d.Source)
	if err != nil {
		return err
	}
	units, kinds, err := src.Book.Units(ctx, c.Split.Units)
	if err == nil && len(units) == 0 {
		err = model.Refuse("split.units", "there are no units of the kind %q; there are %s", c.Split.Units,
			strings.Join(kinds, ", "))
	}
	return err
}

// checkWhen reads the condition under which a control is sent against the first
// report, as it is without rows.
func (a *Access) checkWhen(ctx context.Context, c Order) error {
	if c.Send.When == "" || c.Send.When == "rows" {
		return nil
	}
	d, err := a.catalog.Report(c.Steps[0].Report)
	if err != nil {
		return err
	}
	v := reading.ViewOf(d, reading.FirstView(d, c.Steps[0].View))
	if _, err := formula.ParseCondition(c.Send.When, a.reading.FigureScope(d, v)); err != nil {
		return model.Refuse("send.when", "%w", err)
	}
	return nil
}

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
	covered := true
	for _, u := range has.Units {
		covered = covered && slices.Contains(theirs.Units, u)
	}
	if covered {
		return nil, "", nil
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
