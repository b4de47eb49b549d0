// Package access decides who may do what: people, groups, signing in, and what a
// person may open and see. Every room of the library takes an [Access] and
// nothing else decides rights.
package access

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"sync"
	"time"

	"mantilla/identity/passkey"
	"mantilla/model"
)

// Catalog is what access asks of the catalog.
type Catalog interface {
	// ReportIDs are those of all reports, also of those that cannot be read.
	ReportIDs() []string
	// Units are the units of each source.
	Units() []Units
	// UnitCodes are the codes of the units of all sources, with the kinds of the units at and below each.
	UnitCodes(ctx context.Context) (map[string][]string, error)
}

// Room keeps people and what is open to them. It is safe for several goroutines.
type Room struct {
	org      model.Organisation
	records  Records
	log      *slog.Logger
	catalog  Catalog          // set before anybody is let in
	doors    doors            // how signing in is guarded
	trust    Trust            // in a provider; set likewise
	sealer   Sealer           // of second factors; set likewise
	clock    func() time.Time // that codes by time go by
	keeps    map[string]Known // by the kind of what can be retired; set likewise
	keys     *passkey.Door    // nil where the address has none; set likewise
	asked    *questions       // that passkeys were asked
	purposes purposes         // that people read reports for
	tells    func(ctx context.Context, person, says string) error
	erased   []func(ctx context.Context, name, title, alias string) error
	renamed  []func(ctx context.Context) error // called after somebody got another name; set likewise

	changing sync.Mutex // held while openings are changed, in the records and below

	mu       sync.RWMutex               // guards what follows
	openings map[string][]model.Opening // by report
	retired  map[string]model.Retired   // by kind and id
}

// Open reads to whom reports are open.
func Open(ctx context.Context, org model.Organisation, records Records, log *slog.Logger) (*Room, error) {
	openings, err := records.Openings(ctx)
	if err != nil {
		return nil, fmt.Errorf("reading to whom reports are open: %w", err)
	}
	room := &Room{org: org, records: records, log: log, doors: newDoors(), asked: newQuestions(),
		purposes: purposes{all: map[[2]string]purpose{}}, clock: time.Now, openings: openings,
		keeps: map[string]Known{}}
	room.Keeps(model.KindGroup, func(ctx context.Context, id string) (bool, error) {
		groups, err := records.Groups(ctx)
		return slices.ContainsFunc(groups, func(g model.Group) bool { return g.ID == id }), err
	})
	return room, room.ReadRetired(ctx)
}

// Knows tells the room of the catalog, whose rights it decides.
func (room *Room) Knows(c Catalog) { room.catalog = c }

// As returns what a person may do.
func (room *Room) As(p model.Person) *Access { return &Access{room: room, person: p} }

// AsPerson returns what the person with that account may do: for all that is done in their name while
// they are not here.
func (room *Room) AsPerson(ctx context.Context, name string) (*Access, error) {
	p, err := room.records.Person(ctx, name)
	if err != nil {
		return nil, fmt.Errorf("the account %s: %w", name, err)
	}
	return room.answered(ctx, room.As(p))
}

// Person returns an account.
func (room *Room) Person(ctx context.Context, name string) (model.Person, error) {
	return room.records.Person(ctx, name)
}

// ServiceName is the name of the service itself, which no account has.
const ServiceName = "service"

// AsService returns what the service itself may do, to load the demo or to
// answer on its own behalf.
func (room *Room) AsService() *Access {
	return room.As(model.Person{Name: ServiceName, Title: "The service", Role: model.Administrator})
}

// Openings returns to whom a report is open.
func (room *Room) Openings(report string) []model.Opening {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return slices.Clone(room.openings[report])
}

// SetOpenings says to whom a report is open from now on.
func (room *Room) SetOpenings(ctx context.Context, report string, to []model.Opening) error {
	if err := room.CheckOpenings(ctx, to); err != nil {
		return err
	}
	if err := room.newlyOpen(room.Openings(report), to); err != nil {
		return err
	}
	room.changing.Lock()
	defer room.changing.Unlock()
	if err := room.records.PutOpenings(ctx, report, to); err != nil {
		return err
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	openings := maps.Clone(room.openings)
	openings[report] = slices.Clone(to)
	room.openings = openings
	return nil
}

// Reopen reads anew to whom reports are open.
func (room *Room) Reopen(ctx context.Context) error {
	room.changing.Lock()
	defer room.changing.Unlock()
	openings, err := room.records.Openings(ctx)
	if err != nil {
		return err
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	room.openings = openings
	return nil
}

// Named are the accounts that an opening names.
func (room *Room) Named(ctx context.Context, o model.Opening) (names []string, err error) {
	if o.Kind == "person" {
		return []string{o.Name}, nil
	}
	people, err := room.records.People(ctx)
	for _, p := range people {
		if !p.Closed && (o.Kind == "everyone" || slices.Contains(p.Groups, o.Name)) {
			names = append(names, p.Name)
		}
	}
	return names, err
}

// WhoMay are the accounts that have a right.
func (room *Room) WhoMay(ctx context.Context, r Right) (names []string, err error) {
	people, err := room.records.People(ctx)
	for _, p := range people {
		if !p.Closed && room.As(p).Has(r) {
			names = append(names, p.Name)
		}
	}
	return names, err
}

// Accounts are the names of the accounts that are not closed.
func (room *Room) Accounts(ctx context.Context) (map[string]bool, error) {
	people, err := room.records.People(ctx)
	names := map[string]bool{}
	for _, p := range people {
		names[p.Name] = !p.Closed
	}
	return names, err
}
