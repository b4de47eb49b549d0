// Package catalog keeps sources, reports with their versions, the parameters
// that they share, and to whom they are open.
package catalog

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"sync"

	"mantilla/core/definition"
	"mantilla/core/report"
	"mantilla/core/search"
	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/apart"
)

// Files say where the files of sources lie.
type Files struct {
	Dir      string
	Reserved string         // the service's own, which is no source
	Secrets  source.Secrets // passwords of servers
	Worker   apart.Worker   // by which sources are read, where it has any memory
}

// Room is the catalog. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	files   Files
	records Records
	people  *access.Room
	log     *slog.Logger

	// ReportNeeded says what else needs a report, which keeps it from being
	// deleted. It is set before anybody is let in.
	ReportNeeded func(ctx context.Context, report string) error

	beside  []Known                           // set before anybody is let in
	renamed []func(ctx context.Context) error // called after one got another id; set likewise
	ready   Ready                             // set likewise
	lists   func(report string) bool          // those to whom it is not open see that there is one; set likewise

	office sync.Mutex // held while the catalog is changed, in the records and below

	mu       sync.RWMutex // guards what follows
	sources  map[string]Source
	broken   map[string]error  // sources that cannot be read
	unread   map[string]unread // reports that cannot be read
	shared   *definition.Shared
	catalog  map[string]*report.Definition // present versions
	versions map[string]*report.Definition // by report, version and currency
	drafts   map[string]*report.Definition // that can be tried out, by the id they are run under
	retired  map[string]string             // reports that left the catalog, with their successors
	names    map[string]string             // what reports are called now, by what they were called before
	changes  int                           // how often the catalog changed
	index    *index                        // nil until somebody searches after a change
}

// Ready makes ready what sources read that is not elsewhere.
type Ready interface {
	// Prepare makes ready what a source reads, before it is taken into the catalog; what was
	// brought for it is kept under an id, which is another when it is renamed.
	Prepare(ctx context.Context, c *source.Config, id string) error
	// Forget takes away what a source read that is in the catalog no more.
	Forget(c *source.Config) error
}

// Known is what is known of reports elsewhere: what else they are found by, and what of
// them is probably not meant.
type Known interface {
	Found(d *report.Definition) []search.Field
	Warnings(d *report.Definition) []string
}

// Beside lets the catalog know what is known elsewhere.
func (room *Room) Beside(k Known) { room.beside = append(room.beside, k) }

// Readies lets somebody make ready what sources read.
func (room *Room) Readies(ready Ready) { room.ready = ready }

// Lists lets the catalog know which reports are listed for those to whom they are not open.
func (room *Room) Lists(listed func(report string) bool) { room.lists = listed }

// Changed tells that reports are found by other words than before.
func (room *Room) Changed() {
	room.mu.Lock()
	defer room.mu.Unlock()
	room.changed()
}

// Access is the catalog as one person may use it.
type Access struct {
	*access.Access
	room *Room
}

// As returns the catalog as a person may use it.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// Open reads the catalog from the records.
func Open(ctx context.Context, org model.Organisation, files Files, records Records, people *access.Room,
	log *slog.Logger) (*Room, error) {
	room := &Room{org: org, files: files, records: records, people: people, log: log,
		ReportNeeded: func(context.Context, string) error { return nil }, lists: func(string) bool { return false },
		sources: map[string]Source{}, broken: map[string]error{}, unread: map[string]unread{},
		catalog: map[string]*report.Definition{}, versions: map[string]*report.Definition{},
		drafts: map[string]*report.Definition{}, retired: map[string]string{}}
	people.Knows(room)
	people.Keeps(model.KindSource, func(_ context.Context, id string) (bool, error) {
		_, err := room.Source(id)
		return err == nil, nil
	})
	people.Keeps(model.KindParameter, func(_ context.Context, id string) (bool, error) {
		return slices.Contains(room.present().IDs(), id), nil
	})
	if err := room.load(ctx); err != nil {
		return nil, errors.Join(err, room.Close())
	}
	return room, nil
}

func (room *Room) load(ctx context.Context) error {
	if err := room.loadSources(ctx); err != nil {
		return err
	}
	text, err := room.records.Shared(ctx)
	if err != nil {
		return fmt.Errorf("reading the shared parameters: %w", err)
	}
	if room.shared, err = parseShared(text); err != nil {
		return fmt.Errorf("the shared parameters in the catalog: %w", err)
	}
	if room.names, err = room.records.Names(ctx); err != nil {
		return fmt.Errorf("reading what reports were called: %w", err)
	}
	reports, err := room.records.Reports(ctx)
	if err != nil {
		return fmt.Errorf("reading the catalog: %w", err)
	}
	for _, r := range reports {
		room.take(r)
	}
	return nil
}

// take reads the present version of a report, and whether it is retired. One that cannot be read stands in
// nobody's way.
func (room *Room) take(r model.Report) {
	if r.Retired {
		room.mu.Lock()
		room.retired[r.ID] = r.Successor
		room.mu.Unlock()
	}
	d, err := room.parse(r.Text, r.Shared, room.org.Currency)
	if err == nil {
		room.remember(d)
		return
	}
	room.log.Error("a report of the catalog cannot be read", "report", r.ID, "error", err)
	room.mu.Lock()
	defer room.mu.Unlock()
	room.unread[r.ID] = unread{r, err}
	delete(room.catalog, r.ID)
	room.changed()
}

// Warm reads the lists of all sources ahead. What is wrong with one is told when
// it is asked for.
func (room *Room) Warm(work *background.Work) {
	ctx := work.Context()
	for _, s := range room.AllSources() {
		if ctx.Err() != nil {
			return
		}
		err := s.Book.Warm(ctx)
		if now, gone := room.Source(s.Config.ID); gone != nil || now.Book != s.Book {
			continue // it was declared anew meanwhile
		}
		if err != nil && ctx.Err() == nil {
			room.log.Warn("reading the lists of a source ahead", "source", s.Config.ID, "error", err)
		}
	}
}

// Close closes the sources.
func (room *Room) Close() error {
	var errs []error
	for _, s := range room.sources {
		errs = append(errs, s.Close())
	}
	return errors.Join(errs...)
}

// remember makes a definition the present version of its report.
func (room *Room) remember(d *report.Definition) {
	room.mu.Lock()
	defer room.mu.Unlock()
	room.catalog[d.ID] = d
	room.changed()
	room.versions[versionKey(d.ID, d.Version, room.org.Currency)] = d
	delete(room.unread, d.ID)
}

// changed tells that what is searched is another; mu is held.
func (room *Room) changed() { room.changes, room.index = room.changes+1, nil }

// ReportIDs are those of all reports, also of those that cannot be read, and of drafts.
func (room *Room) ReportIDs() []string {
	ids := slices.Collect(maps.Keys(room.listed()))
	room.mu.RLock()
	defer room.mu.RUnlock()
	return append(ids, slices.Collect(maps.Keys(room.drafts))...)
}

// SetDraft lets a draft be tried out under an id; nil ends that.
func (room *Room) SetDraft(id string, d *report.Definition) {
	room.mu.Lock()
	defer room.mu.Unlock()
	if d == nil {
		delete(room.drafts, id)
		return
	}
	room.drafts[id] = d.Draft(id)
}

// Units are the units of each source.
func (room *Room) Units() (all []access.Units) {
	for _, s := range room.AllSources() {
		all = append(all, s.Book)
	}
	return all
}

// UnitCodes are the codes of the units of all sources, with the kinds of the units at and below each.
func (room *Room) UnitCodes(ctx context.Context) (map[string][]string, error) {
	known := map[string][]string{}
	for _, s := range room.AllSources() {
		if s.Config.Units == "" {
			continue
		}
		items, err := s.List(ctx, s.Config.Units)
		if err != nil {
			return nil, err
		}
		parent := map[string]string{}
		for _, i := range items {
			parent[i.Code] = i.Parent
			known[i.Code] = append([]string{}, known[i.Code]...)
		}
		for _, i := range items {
			up := i.Code
			for range items { // a tree is no deeper than it has units
				if up == "" {
					break
				}
				if i.Kind != "" && !slices.Contains(known[up], i.Kind) {
					known[up] = append(known[up], i.Kind)
				}
				up = parent[up]
			}
		}
	}
	return known, nil
}
