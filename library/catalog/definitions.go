package catalog

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/lookup"
)

// Report returns the present version of a report that is open to the person.
func (a *Access) Report(id string) (*report.Definition, error) {
	present := a.room.Present()
	if d, ok := present[id]; ok && a.Opens(id) {
		return d, nil
	}
	if err := a.room.whyUnread(id); err != nil && a.Opens(id) {
		return nil, model.Refuse("report", "the report %s cannot be read by this program; its text has to be mended: %s", id,
			strings.Join(strings.Fields(err.Error()), " "))
	}
	var open []string
	for known := range present {
		if a.Opens(known) {
			open = append(open, known)
		}
	}
	return nil, model.NoSuch("report", id, open)
}

// Versions returns the versions that a report had, the newest first.
func (a *Access) Versions(ctx context.Context, id string) ([]model.Version, error) {
	return a.room.records.Versions(ctx, id)
}

func parseShared(text string) (*report.Shared, error) {
	shared, faults := report.ParseShared([]byte(text))
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

// parse reads a definition as it was kept, with the shared parameters of then.
func (room *Room) parse(text, shared, currency string) (*report.Definition, error) {
	s, err := parseShared(shared)
	if err != nil {
		return nil, err
	}
	d, faults := report.Parse([]byte(text), report.Defaults{Currency: currency, Shared: s, Quotes: room.quotes})
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
	if err != nil {
		return nil, fmt.Errorf("version %.12s of report %s: %w", version, id, err)
	}
	room.mu.Lock()
	room.versions[key] = d
	room.mu.Unlock()
	return d, nil
}

// CheckReport reads a definition and checks it against its source. When it is
// not right, the error is a [report.Faults] that lists all that is wrong.
func (a *Access) CheckReport(ctx context.Context, text []byte) (*report.Definition, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	a.room.mu.RLock()
	shared := a.room.shared
	a.room.mu.RUnlock()
	return a.room.check(ctx, text, shared)
}

// longestCheck is how long a source may take to understand a definition. A check
// reads no rows, so that it ends in a moment unless a list never ends.
const longestCheck = 30 * time.Second

func (room *Room) check(ctx context.Context, text []byte, shared *report.Shared) (*report.Definition, error) {
	d, faults := report.Parse(text, report.Defaults{Currency: room.org.Currency, Shared: shared, Quotes: room.quotes})
	if faults != nil {
		return nil, faults
	}
	src, err := room.Source(d.Source)
	if err != nil {
		return nil, report.Faults{{Line: 1, Column: 1, Message: err.Error()}}
	}
	ctx, cancel := context.WithTimeoutCause(ctx, longestCheck,
		fmt.Errorf("the source took longer than %s to understand it", longestCheck))
	defer cancel()
	if err := room.checkSource(ctx, d, src); err != nil {
		return nil, err
	}
	return d, nil
}

// checkSource looks whether lists exist, defaults resolve and the source
// understands every query, with each way that its pieces can be switched.
func (room *Room) checkSource(ctx context.Context, d *report.Definition, src Source) error {
	var faults report.Faults
	lists := src.Book.For(report.Reach{})
	for _, p := range d.Parameters {
		if p.From == "" {
			continue
		}
		if _, err := lists.Entries(ctx, p.From, lookup.Wish{Limit: 1}); err != nil {
			faults = append(faults, at(d, p.ID, fmt.Sprintf("parameter %s: %v", p.ID, err)))
		}
	}
	if faults != nil {
		return faults
	}
	calendar := room.org.Calendar()
	calendar.Last = period.Last{At: room.org.Now(), Of: "the check"} // since last run has something to begin at
	values, wrong, err := param.Resolve(ctx, d.Parameters, nil, param.Setting{Calendar: calendar, Lists: lists})
	if err != nil {
		return err
	}
	for _, f := range wrong {
		if p := d.Parameter(f.Parameter); p != nil && p.Default == "" {
			continue // a required parameter without a default is for the person to fill in
		}
		faults = append(faults, at(d, f.Parameter, fmt.Sprintf("the default of parameter %s: %s", f.Parameter, f.Message)))
	}
	if faults != nil {
		return faults
	}
	for _, settled := range d.Ways(values) {
		if err := prepare(ctx, settled, values, src); err != nil {
			return err
		}
	}
	return nil
}

// quotes tells how a source quotes.
func (room *Room) quotes(source string) report.Quotes {
	s, err := room.Source(source)
	if err != nil {
		return report.AnyQuotes
	}
	return s.Dialect().Quotes()
}

// prepare has the source understand every query of a settled definition.
func prepare(ctx context.Context, d *report.Definition, values param.Values, src Source) error {
	var faults report.Faults
	queries, err := query.PlanAll(d, values, src.Dialect().Quotes())
	if err != nil {
		return err
	}
	for _, q := range queries {
		if err := src.Prepare(ctx, q); errors.Is(err, source.ErrMissing) || errors.Is(err, source.ErrLocked) {
			return err
		} else if err != nil {
			faults = append(faults, report.Fault{Line: q.Dataset.From.Line, Column: q.Dataset.From.Col,
				Message: fmt.Sprintf("dataset %s: the source does not accept its SQL: %v", q.Dataset.ID, err)})
		}
	}
	if faults != nil {
		return faults
	}
	return nil
}

// at places a fault at a parameter's first line.
func at(d *report.Definition, parameter, message string) report.Fault {
	return report.Fault{Line: max(d.ParameterLine(parameter), 1), Column: 1, Message: message}
}

// PutReport checks a definition and makes it the present version of its
// report. Was is the version seen before; see [Records]. Authors
// may put new reports; changing one that is there is for librarians, and for
// authors as long as it is open to nobody.
func (a *Access) PutReport(ctx context.Context, text []byte, was string) (*report.Definition, error) {
	d, err := a.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	open := len(a.room.people.Openings(d.ID)) > 0
	if err := a.May(access.KeepCatalog); err != nil && open {
		return nil, err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	kept := model.Report{ID: d.ID, Title: d.Title, Category: d.Category, Version: d.Version, Text: d.Text}
	if err := a.room.records.PutReport(ctx, kept, was, a.room.org.Now()); err != nil {
		return nil, fmt.Errorf("report %s: %w", d.ID, err)
	}
	a.room.remember(d)
	a.room.log.Info("report taken into the catalog", "report", d.ID, "version", d.Version[:12], "by", a.Person().Name)
	return d, nil
}

// Shared returns the file of parameters that are declared for the whole
// catalog.
func (a *Access) Shared() (string, error) {
	a.room.mu.RLock()
	defer a.room.mu.RUnlock()
	return a.room.shared.Text, a.May(access.Write)
}

// PutShared changes the shared parameters. Every report of the catalog is read
// anew with them; when one is no longer right, nothing changes.
func (a *Access) PutShared(ctx context.Context, text []byte) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	shared, faults := report.ParseShared(text)
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
			kept = append(kept, model.Report{ID: d.ID, Title: d.Title, Category: d.Category, Version: d.Version, Text: d.Text})
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
