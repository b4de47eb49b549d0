// Package audit keeps the book of who did what, answers those who may look into it, and sends it
// on to where an organisation gathers such lines.
package audit

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"sync"
	"time"

	"mantilla/core/audit"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/library/background"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	Add(ctx context.Context, l audit.Line, lightly bool) (audit.Line, error)
	Check(ctx context.Context) (audit.Chain, error)
	Erase(ctx context.Context, name, title, alias string) (lines int, err error)
	Each(ctx context.Context, behind int64, visit func(audit.Line) error) error
	Forget(ctx context.Context, before time.Time) (int64, error)
	Lines(ctx context.Context, q model.AuditSearch) ([]audit.Line, error)
	Readers(ctx context.Context, result string) ([]model.Reading, error)
	Sent(ctx context.Context) (int64, error)
	SetSent(ctx context.Context, number int64) error
}

// Settings are how long lines are kept, and where they are sent on.
type Settings struct {
	Keep   time.Duration // 0 for ever
	Syslog string        // udp://host:514, tcp:// or tls://; "" for nowhere
	CA     string        // file with the certificates that are trusted there; otherwise the system's
}

// Room keeps the book. It is safe for several goroutines.
type Room struct {
	org      model.Organisation
	settings Settings
	records  Records
	log      *slog.Logger
	added    chan struct{} // told that there is more to send

	writing sync.Mutex    // held while what waits is written
	waits   chan struct{} // told that something does

	mu    sync.Mutex
	later []audit.Line          // readings that are not written yet
	read  map[reading]time.Time // when a reading was noted last
	words map[string]string     // what acts are in words
}

// reading is somebody's reading of a part of something.
type reading struct{ person, face, act, kind, id, part string }

// Access is the book as one person may look into it.
type Access struct {
	*access.Access
	room *Room
}

// Open makes the room. It fails where it is not said right where lines are sent on.
func Open(org model.Organisation, settings Settings, records Records, log *slog.Logger) (*Room, error) {
	if settings.Syslog != "" {
		if _, err := parsed(settings); err != nil {
			return nil, err
		}
	}
	return &Room{org: org, settings: settings, records: records, log: log, added: make(chan struct{}, 1),
		waits: make(chan struct{}, 1),
		read:  map[reading]time.Time{}, words: maps.Clone(words)}, nil
}

// As returns the book as a person may look into it.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// again is how long the same reading by the same person is not noted again.
const again = 15 * time.Minute

// Add adds a line of the act that goes on in a context. Where the records take none, the act was
// done all the same: the line stands in the log then, as a whole.
func (room *Room) Add(ctx context.Context, w acting.Done) {
	act := acting.Of(ctx)
	person, kind, id, before, after := act.Said()
	if w.Person == "" {
		w.Person = person
	}
	if kind != "" {
		w.Kind, w.ID = kind, id
	}
	if why := act.Refused(); why != "" {
		w.Outcome, w.Why = "refused", why
	}
	if w.Outcome == "" {
		w.Outcome = "done"
	}
	now := room.org.Now()
	this := reading{w.Person, act.Face, w.Act, w.Kind, w.ID, w.Part}
	once := w.Reading && w.Outcome == "done"
	if once && room.lately(this, now) {
		return
	}
	line := audit.Line{At: now, Person: audit.Cut(w.Person), Face: act.Face, Address: audit.Cut(act.Address),
		Request: audit.Cut(act.Request), Act: w.Act, Kind: w.Kind, ID: audit.Cut(w.ID), Part: audit.Cut(w.Part),
		Before: audit.Cut(before), After: audit.Cut(after), Outcome: w.Outcome, Why: audit.Cut(w.Why)}
	if once { // nobody who reads waits for who writes
		room.noted(this, now, line)
		tell(room.waits)
		return
	}
	room.write(context.WithoutCancel(ctx), line, false)
}

// write writes a line.
func (room *Room) write(ctx context.Context, line audit.Line, lightly bool) {
	if _, err := room.records.Add(ctx, line, lightly); err != nil {
		room.log.ErrorContext(ctx, "a line of the audit could not be kept", "error", err, "line", fmt.Sprintf("%+v", line))
		return
	}
	tell(room.added)
}

// flush writes the readings that wait.
func (room *Room) flush(ctx context.Context) {
	room.writing.Lock()
	defer room.writing.Unlock()
	room.mu.Lock()
	lines := room.later
	room.later = nil
	room.mu.Unlock()
	for _, line := range lines {
		room.write(ctx, line, true)
	}
}

// Keep writes readings as they come, until the library closes, and then those that are left.
func (room *Room) Keep(work *background.Work) {
	for {
		select {
		case <-work.Context().Done():
			room.flush(context.WithoutCancel(work.Context()))
			return
		case <-room.waits:
			room.flush(context.WithoutCancel(work.Context()))
		}
	}
}

// tell tells of something, where that is not told already.
func tell(bell chan struct{}) {
	select {
	case bell <- struct{}{}:
	default:
	}
}

// lately tells whether a reading was noted a short while ago.
func (room *Room) lately(r reading, now time.Time) bool {
	room.mu.Lock()
	defer room.mu.Unlock()
	last, ok := room.read[r]
	return ok && now.Sub(last).Abs() < again
}

func (room *Room) noted(r reading, now time.Time, line audit.Line) {
	room.mu.Lock()
	defer room.mu.Unlock()
	const most = 10_000
	if len(room.read) >= most { // what is forgotten is noted once more
		clear(room.read)
	}
	room.read[r] = now
	room.later = append(room.later, line)
}

// Watch removes the lines whose time is over, once an hour, until the library closes.
func (room *Room) Watch(work *background.Work) {
	ctx := work.Context()
	hourly := time.NewTicker(time.Hour)
	defer hourly.Stop()
	for {
		if err := room.Forget(ctx); err != nil && ctx.Err() == nil {
			room.log.Error("lines of the audit whose time is over stay", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-hourly.C:
		}
	}
}

// Forget removes the lines whose time is over; that it did is a line.
func (room *Room) Forget(ctx context.Context) error {
	if room.settings.Keep == 0 {
		return nil
	}
	before := room.org.Now().Add(-room.settings.Keep)
	n, err := room.records.Forget(ctx, before)
	if err != nil || n == 0 {
		return err
	}
	room.Add(ctx, acting.Done{Act: "forgetLines", Kind: "audit", Why: "lines from before " +
		before.UTC().Format(time.RFC3339)})
	return nil
}

// Erase takes somebody out of every line that names them. Whoever calls it says so in the audit.
func (room *Room) Erase(ctx context.Context, name, title, alias string) error {
	room.flush(ctx)
	lines, err := room.records.Erase(ctx, name, title, alias)
	acting.Changes(ctx, "", fmt.Sprintf("taken out of %d lines", lines))
	return err
}

// Search returns lines, the newest first.
func (a *Access) Search(ctx context.Context, q model.AuditSearch) ([]audit.Line, error) {
	if err := a.May(access.KeepService); err != nil {
		return nil, err
	}
	a.room.flush(ctx)
	return a.room.records.Lines(ctx, q)
}

// Check looks through the whole book. It fails with [*audit.Broken] where that is not whole.
func (a *Access) Check(ctx context.Context) (audit.Chain, error) {
	if err := a.May(access.KeepService); err != nil {
		return audit.Chain{}, err
	}
	a.room.flush(ctx)
	return a.room.records.Check(ctx)
}

// Export returns the lines behind one, a line of JSON for each, in order.
func (a *Access) Export(ctx context.Context, behind int64) (io.ReadCloser, error) {
	if err := a.May(access.KeepService); err != nil {
		return nil, err
	}
	a.room.flush(ctx)
	r, w := io.Pipe()
	go func() {
		lines := json.NewEncoder(w)
		w.CloseWithError(a.room.records.Each(ctx, behind, func(l audit.Line) error { return lines.Encode(l) }))
	}()
	return r, nil
}

// Readers returns who read a result or took it away.
func (a *Access) Readers(ctx context.Context, result string) ([]model.Reading, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return nil, err
	}
	a.room.flush(ctx)
	return a.room.records.Readers(ctx, result)
}
