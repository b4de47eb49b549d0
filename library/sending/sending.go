package sending

import (
	"context"
	"encoding/json"
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

// Recipient is one who gets a part: by which line, and of a column's values which; all where there are none.
type Recipient struct {
	Name, Mail, Line string
	Values           []string
}

// Recipients are those who get the part, and the folder and the address on the web that do.
func (p Part) Recipients() (out []Recipient) {
	for _, l := range p.plan.Lines {
		name := l.Name
		if name == "" {
			name = l.Nickname
		}
		out = append(out, Recipient{Name: name, Mail: l.Mail, Line: l.Line, Values: l.Parts})
	}
	if p.plan.Send.Folder != "" {
		out = append(out, Recipient{Name: "the folder " + p.plan.Send.Folder, Line: "folder"})
	}
	if p.plan.Send.Webhook != "" {
		out = append(out, Recipient{Name: p.plan.Send.Webhook, Line: "web"})
	}
	return out
}

// Nobody are those who get nothing of the part, and why.
func (p Part) Nobody() []string { return p.plan.Nobody }

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
	var lines []line
	for _, l := range []struct {
		name    string
		written []string
	}{{"to", s.To}, {"copy", s.Copy}, {"blind", s.Blind}} {
		people, err := a.room.addressed(book, l.written)
		if err != nil {
			return model.Refuse("send."+l.name, "%w", err)
		}
		for _, p := range people {
			lines = append(lines, line{Address: p, Line: l.name})
		}
	}
	if err := a.room.mayGoOut(a.Access, *s, lines); err != nil {
		return err
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
	} else if len(lines) == 0 && s.Folder == "" && s.Webhook == "" {
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
