// Package backup keeps copies of the records elsewhere: one whenever an administrator asks, and
// by itself as often as is set, of which the oldest go.
package backup

import (
	"context"
	"io"
	"log/slog"
	"sync"
	"time"

	"filippo.io/age"

	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/library/notices"
	"mantilla/model"
	"mantilla/store/backup"
)

// Settings are where back-ups go by themselves, and how often.
type Settings struct {
	Dir     string        // "" for nowhere
	Every   time.Duration // 0 only when somebody asks
	Keep    int           // how many there are, at least 1
	Whole   int           // every how-manieth has everything, at least 1; the others have what changed since
	Program string        // the version that writes them
	For     string        // file with the public keys for which they are encrypted; "" for nobody
}

// Records are what is copied.
type Records interface {
	About(ctx context.Context) (backup.About, error)
	CopyTo(ctx context.Context, path string) error
}

// File is a back-up that lies in the directory.
type File struct {
	Name  string
	At    time.Time
	Bytes int64
	After string // the whole one that it leans on, where it has only what changed since; "" where it is whole
}

// State is how it stands.
type State struct {
	Settings
	Files   []File // the newest first
	Fault   string // of the last one that was to be made by itself; "" for none
	FaultAt time.Time
}

// Room makes back-ups. It is safe for several goroutines.
type Room struct {
	org      model.Organisation
	settings Settings
	dir      string          // of the records, where copies lie while they are written
	readers  []age.Recipient // for whom they are encrypted; none for everybody
	records  Records
	log      *slog.Logger

	// What follows is set before anybody is let in.
	people  *access.Room
	notices *notices.Room

	making sync.Mutex // held while a copy is made: one at a time

	mu      sync.Mutex // guards what follows
	fault   string
	faultAt time.Time
}

// Access is back-ups as one person may make them.
type Access struct {
	*access.Access
	room *Room
}

// Open makes the room; copies lie below dir while they are written.
func Open(org model.Organisation, settings Settings, dir string, records Records, log *slog.Logger) (*Room, error) {
	settings.Keep, settings.Whole = max(settings.Keep, 1), max(settings.Whole, 1)
	room := &Room{org: org, settings: settings, dir: dir, records: records, log: log}
	if settings.For == "" {
		return room, nil
	}
	var err error
	room.readers, err = backup.Recipients(settings.For)
	return room, err
}

// Joins lets the room tell who keeps the service when no back-up is made, and when one is again.
func (room *Room) Joins(people *access.Room, told *notices.Room) {
	room.people, room.notices = people, told
}

// As returns back-ups as a person may make them.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// Watch makes back-ups by itself, as often as is set, counted from the newest that there is.
func (room *Room) Watch(work *background.Work) {
	if room.settings.Dir == "" || room.settings.Every <= 0 {
		return
	}
	for wait := room.left(); work.Sleep(wait, nil); wait = room.left() {
		if room.left() > 0 {
			continue
		}
		f, err := room.keep(work.Context())
		room.noted(work.Context(), err)
		if err != nil {
			room.log.Error("a back-up was not made", "error", err)
			if !work.Sleep(retryAfter, nil) {
				return
			}
			continue
		}
		room.log.Info("a back-up was made", "file", f.Name, "bytes", f.Bytes)
	}
}

// retryAfter is how long to wait after a back-up that was not made.
const retryAfter = 10 * time.Minute

// longestNap bounds how long nobody looks at the clock, which may be set.
const longestNap = time.Minute

// left is how long it is until the next is due, at most a nap.
func (room *Room) left() time.Duration {
	files, err := room.files()
	if err != nil || len(files) == 0 {
		return 0
	}
	return min(max(files[0].At.Add(room.settings.Every).Sub(room.org.Now()), 0), longestNap)
}

// noted keeps what became of the last that was to be made, and tells who keeps the service where
// that is news.
func (room *Room) noted(ctx context.Context, err error) {
	room.mu.Lock()
	before := room.fault
	room.fault, room.faultAt = "", time.Time{}
	if err != nil {
		room.fault, room.faultAt = err.Error(), room.org.Now()
	}
	now := room.fault
	room.mu.Unlock()
	if (before == "") == (now == "") {
		return
	}
	says := "Back-ups are made again."
	if now != "" {
		says = "No back-up was made: " + now
	}
	keepers, err := room.people.WhoMay(ctx, access.KeepService)
	if err == nil {
		err = room.notices.Tell(ctx, "", keepers, notices.Subject{About: "backup", Place: "/office?desk=backups"}, "%s", says)
	}
	if err != nil {
		room.log.ErrorContext(ctx, "telling of back-ups", "error", err)
	}
}

// State tells how it stands.
func (a *Access) State() (s State, err error) {
	if err := a.May(access.KeepService); err != nil {
		return s, err
	}
	a.room.mu.Lock()
	s = State{Settings: a.room.settings, Fault: a.room.fault, FaultAt: a.room.faultAt}
	a.room.mu.Unlock()
	if s.Dir == "" {
		return s, nil
	}
	if s.Files, err = a.room.files(); err != nil && s.Fault == "" {
		s.Fault, s.FaultAt = err.Error(), a.room.org.Now()
	}
	return s, nil
}

// Fault is why the last that was to be made by itself was not, and when; "" where it was.
func (room *Room) Fault() (why string, at time.Time) {
	room.mu.Lock()
	defer room.mu.Unlock()
	return room.fault, room.faultAt
}

// Make makes one in the directory now.
func (a *Access) Make(ctx context.Context) (f File, err error) {
	if err := a.May(access.KeepService); err != nil {
		return f, err
	}
	if a.room.settings.Dir == "" {
		return f, model.Refuse("dir", "the service keeps no back-ups by itself; start it with --backup-dir, or take one away")
	}
	if f, err = a.room.keep(ctx); err == nil {
		a.room.noted(ctx, nil)
		a.room.log.InfoContext(ctx, "a back-up was made", "file", f.Name, "bytes", f.Bytes, "by", a.Person().Name)
	}
	return f, err
}

// Write writes a back-up of now.
func (a *Access) Write(ctx context.Context, w io.Writer) error {
	if err := a.May(access.KeepService); err != nil {
		return err
	}
	a.room.log.InfoContext(ctx, "a back-up is taken away", "by", a.Person().Name)
	return a.room.take(ctx, w, a.room.org.Now().UTC().Truncate(time.Second))
}

// Name is what a back-up of now is called.
func (a *Access) Name() string { return a.room.name(a.room.org.Now(), "") }
