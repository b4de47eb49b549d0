package catalog

import (
	"context"
	"fmt"
	"strings"
	"time"

	"mantilla/core/definition"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/model"
)

// Report returns the present version of a report that is open to the person.
func (a *Access) Report(id string) (*report.Definition, error) {
	present := a.room.Present()
	if d, ok := present[id]; ok && a.Opens(id) {
		return d, nil
	}
	if d := a.room.draft(id); d != nil && a.Opens(id) {
		return d, nil
	}
	if err := a.room.whyUnread(id); err != nil && a.Opens(id) {
		return nil, model.Refuse("report", "the report %s cannot be read by this program; its text has to be mended: %s", id,
			strings.Join(strings.Fields(err.Error()), " "))
	}
	if now := a.room.calledNow(id); now != "" && a.Opens(now) {
		return nil, &model.Missing{What: "report", Name: id, Near: []string{now}}
	}
	var open []string
	for known := range present {
		if a.Opens(known) {
			open = append(open, known)
		}
	}
	return nil, model.NoSuch("report", id, open)
}

// calledNow is the id of a report that was called otherwise before; "" for none.
func (room *Room) calledNow(was string) string {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return room.names[was]
}

func (room *Room) draft(id string) *report.Definition {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return room.drafts[id]
}

func parseShared(text string) (*definition.Shared, error) {
	shared, faults := definition.ParseShared([]byte(text))
	if faults != nil {
		return nil, faults
	}
	return shared, nil
}

// unread is a report whose text the program cannot read, with why.
type unread struct {
	model.Report
	why error
}

// whyUnread returns why a report cannot be read; nil where it can, or is none.
func (room *Room) whyUnread(id string) error {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return room.unread[id].why
}

// Unread are the reports that cannot be read, with why.
func (room *Room) Unread() map[string]error {
	room.mu.RLock()
	defer room.mu.RUnlock()
	out := map[string]error{}
	for id, u := range room.unread {
		out[id] = u.why
	}
	return out
}

// parse reads a definition as it was kept, with the shared parameters of then.
func (room *Room) parse(text, shared, currency string) (*report.Definition, error) {
	s, err := parseShared(shared)
	if err != nil {
		return nil, err
	}
	defaults := room.defaults(s)
	defaults.Currency = currency
	d, faults := definition.Parse([]byte(text), defaults)
	if faults != nil {
		return nil, faults
	}
	return d, nil
}

func versionKey(id, version, currency string) string { return id + "/" + version + "/" + currency }

// Version returns any version of a report that the catalog ever held, with money
// in a currency where it names none.
func (room *Room) Version(ctx context.Context, id, version, currency string) (*report.Definition, error) {
	key := versionKey(id, version, currency)
	room.mu.RLock()
	d := room.versions[key]
	room.mu.RUnlock()
	if d != nil {
		return d, nil
	}
	text, shared, err := room.records.ReportText(ctx, id, version)
	if err == nil {
		d, err = room.parse(text, shared, currency)
	}
	switch {
	case err == nil && model.IsDraft(id):
		d = d.Draft(id)
	case err == nil && d.ID != id: // it was written before the report was renamed
		renamed := *d
		renamed.ID, d = id, &renamed
	}
	if err != nil {
		return nil, fmt.Errorf("version %.12s of report %s: %w", version, id, err)
	}
	room.mu.Lock()
	room.versions[key] = d
	room.mu.Unlock()
	return d, nil
}

// Put says how a definition comes into the catalog.
type Put struct {
	Was  string // the version seen before; see [Records]
	Note string // why
	Back int    // the number of the earlier version that it is; 0 for none
	Pair string // who wrote it, where another person takes it in; "" for the person themselves

	// At is when it became the present version, which only the service may say, where it
	// takes in what is older; zero for now.
	At time.Time
}

// PutReport checks a definition and makes it the present version of its
// report. Authors may put new reports; changing one that is there is for librarians,
// and for authors as long as it is open to nobody. Where the organisation wants two
// people for it, what one person wrote and puts is refused.
func (a *Access) PutReport(ctx context.Context, text []byte, put Put) (*report.Definition, error) {
	d, err := a.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	open := len(a.room.people.Openings(d.ID)) > 0
	if err := a.May(access.KeepCatalog); err != nil && open {
		return nil, err
	}
	if a.room.org.TwoPeople && (put.Pair == "" || put.Pair == a.Person().Name) && a.Person().Name != access.ServiceName {
		return nil, model.Forbid(
			"here another person takes into the catalog what somebody wrote: keep a draft and hand it in")
	}
	if r, gone := a.room.people.Retired(model.KindSource, d.Source); gone && a.room.Present()[d.ID] == nil {
		return nil, model.Refuse("source", "the source %s is retired, and no new report reads it; %s", d.Source, r.Instead())
	}
	if model.IsDraft(d.ID) {
		return nil, model.Refuse("report", "the id %s is that of a draft; choose another", d.ID)
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	was := put.Was
	if present := a.room.Present()[d.ID]; present != nil {
		acting.Changes(ctx, "version "+present.Version[:12], "version "+d.Version[:12])
	} else {
		acting.Changes(ctx, "", "version "+d.Version[:12])
	}
	kept := model.Report{ID: d.ID, Title: d.Title, Category: d.Category, Version: d.Version, Text: d.Text,
		By: a.Person().Name, Note: put.Note, Back: put.Back}
	at := a.room.org.Now()
	if !put.At.IsZero() && a.Person().Name == access.ServiceName {
		at = put.At
	}
	if err := a.room.records.PutReport(ctx, kept, was, at); err != nil {
		return nil, fmt.Errorf("report %s: %w", d.ID, err)
	}
	a.room.remember(d)
	a.room.log.InfoContext(ctx, "report taken into the catalog", "report", d.ID, "version", d.Version[:12], "by",
		a.Person().Name)
	return d, nil
}

// CheckWith checks a definition as it would be beside other shared parameters.
func (a *Access) CheckWith(ctx context.Context, text []byte, shared *definition.Shared) (*report.Definition, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return nil, err
	}
	return a.room.check(ctx, text, shared)
}

// Changing holds the catalog still while another room changes it in the records, and
// then makes the new definitions and shared parameters the present ones.
func (a *Access) Changing(change func() error, shared *definition.Shared, all []*report.Definition) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := change(); err != nil {
		return err
	}
	for _, d := range all {
		a.room.remember(d)
	}
	a.room.mu.Lock()
	defer a.room.mu.Unlock()
	a.room.shared = shared
	return nil
}

// SharedParameters are the shared parameters of now, read.
func (a *Access) SharedParameters() *definition.Shared { return a.room.present() }

// Shared returns the file of parameters that are declared for the whole
// catalog.
func (a *Access) Shared() (string, error) {
	a.room.mu.RLock()
	defer a.room.mu.RUnlock()
	return a.room.shared.Text, a.May(access.Write)
}

// SharedChoice tells which list of a source a shared parameter chooses from, and whether
// several of its entries.
func (a *Access) SharedChoice(id string) (list string, many bool) {
	return a.room.present().Chooses(id)
}

// SharedIDs are the shared parameters.
func (a *Access) SharedIDs() []string { return a.room.present().IDs() }

// PutShared changes the shared parameters. Every report of the catalog is read
// anew with them; when one is no longer right, nothing changes.
func (a *Access) PutShared(ctx context.Context, text []byte) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	shared, faults := definition.ParseShared(text)
	if faults != nil {
		return faults
	}
	a.room.office.Lock() // no report is put meanwhile
	defer a.room.office.Unlock()
	var changed []*report.Definition
	var kept []model.Report
	for id, present := range a.room.Present() {
		d, err := a.room.check(ctx, []byte(present.Text), shared)
		if err != nil {
			return model.Refuse("shared", "with these shared parameters the report %s is not right: %w", id, err)
		}
		if d.Version != present.Version {
			changed = append(changed, d)
			kept = append(kept, model.Report{ID: d.ID, Title: d.Title, Category: d.Category, Version: d.Version, Text: d.Text,
				By: a.Person().Name, Note: "the shared parameters changed"})
		}
	}
	if err := a.room.records.PutShared(ctx, string(text), kept, a.room.org.Now()); err != nil {
		return err
	}
	for _, d := range changed {
		a.room.remember(d)
	}
	a.room.mu.Lock()
	a.room.shared = shared
	a.room.mu.Unlock()
	return nil
}

// ParameterIDs are the ids of a report's parameters, in order.
func ParameterIDs(d *report.Definition) (ids []string) {
	for _, p := range d.Parameters {
		ids = append(ids, p.ID)
	}
	return ids
}
