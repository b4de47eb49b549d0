// Package library is what the service does, in the words of the work. Each subject
// is a room: access, catalog, asking, capture, reading, sending, controls, desk, notices,
// care, meaning, shelf, drafting, moving, health. This package only wires them. Every face of the
// service uses them as somebody: [Library.As] gives the rooms as that person may use them, and rights are
// checked there and nowhere else.
package library

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"path/filepath"

	"mantilla/core/period"
	"mantilla/identity/passkey"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/library/asking"
	"mantilla/library/audit"
	"mantilla/library/background"
	"mantilla/library/backup"
	"mantilla/library/capture"
	"mantilla/library/care"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/drafting"
	"mantilla/library/entering"
	"mantilla/library/files"
	"mantilla/library/health"
	"mantilla/library/history"
	"mantilla/library/keeping"
	"mantilla/library/meaning"
	"mantilla/library/moving"
	"mantilla/library/needs"
	"mantilla/library/notices"
	"mantilla/library/reading"
	"mantilla/library/reconciling"
	"mantilla/library/secrets"
	"mantilla/library/sending"
	"mantilla/library/shelf"
	"mantilla/library/standing"
	"mantilla/library/trash"
	"mantilla/model"
	"mantilla/source/apart"
	"mantilla/store"
	"mantilla/store/runs"
)

// Settings are what an organisation decides about its service.
type Settings struct {
	model.Organisation
	Sending sending.Settings
	Limits  capture.Limits
	DataDir string // where relative source files lie, and files on their way
	Secrets secrets.Settings
	Backup  backup.Settings
	Audit   audit.Settings
	Trust   access.Trust // in a provider that knows who people are
	Worker  apart.Worker // by which runs read their sources; none where it has no memory
}

// Library is the rooms, and the work that goes on in them. It is safe for several
// goroutines.
type Library struct {
	settings Settings
	work     *background.Work

	audit       *audit.Room
	people      *access.Room
	catalog     *catalog.Room
	asking      *asking.Room
	capture     *capture.Room
	reading     *reading.Room
	sending     *sending.Room
	controls    *controls.Room
	desk        *desk.Room
	drafting    *drafting.Room
	meaning     *meaning.Room
	moving      *moving.Room
	health      *health.Room
	notices     *notices.Room
	needs       *needs.Room
	care        *care.Room
	shelf       *shelf.Room
	keeping     *keeping.Room
	reconciling *reconciling.Room
	history     *history.Room
	entering    *entering.Room
	trash       *trash.Room
	secrets     *secrets.Room
	files       *files.Room
	backup      *backup.Room
	standing    *standing.Room
}

// Access is the library as one person may use it. People, groups and sessions are
// in the embedded room.
type Access struct {
	*access.Access
	Catalog     *catalog.Access
	Asking      *asking.Access
	Capture     *capture.Access
	Reading     *reading.Access
	Sending     *sending.Access
	Controls    *controls.Access
	Desk        *desk.Access
	Drafting    *drafting.Access
	Meaning     *meaning.Access
	Moving      *moving.Access
	Health      *health.Access
	Notices     *notices.Access
	Care        *care.Access
	Needs       *needs.Access
	Shelf       *shelf.Access
	Keeping     *keeping.Access
	Reconciling *reconciling.Access
	History     *history.Access
	Entering    *entering.Access
	Trash       *trash.Access
	Secrets     *secrets.Access
	Files       *files.Access
	Backup      *backup.Access
	Audit       *audit.Access
	Standing    *standing.Access
}

// Open loads the catalog from the store and starts the workers.
func Open(ctx context.Context, s *store.Store, settings Settings, log *slog.Logger) (*Library, error) {
	l := &Library{settings: settings, work: background.Begin(ctx, log)}
	if err := l.open(ctx, s, log); err != nil {
		return nil, errors.Join(err, l.Close())
	}
	if err := l.capture.Begin(ctx); err != nil {
		return nil, errors.Join(err, l.Close())
	}
	l.work.Go(l.reading.Sweep)
	l.work.Go(func() { l.capture.Sweep(l.work) })
	l.work.Go(l.trash.Empty)
	l.work.Go(func() { l.catalog.Warm(l.work) })
	l.sending.Begin()
	l.controls.Begin()
	l.care.Begin()
	l.work.Go(func() { l.keeping.Watch(l.work) })
	l.work.Go(func() { l.files.Watch(l.work) })
	l.work.Go(func() { l.backup.Watch(l.work) })
	l.work.Go(func() { l.audit.Watch(l.work) })
	l.work.Go(func() { l.audit.Keep(l.work) })
	l.work.Go(func() { l.standing.Watch(l.work, log) })
	l.work.Go(func() { l.audit.Send(l.work) })
	return l, nil
}

// passkeys makes and checks those of the service; nil where its address has none.
func passkeys(org model.Organisation, log *slog.Logger) *passkey.Door {
	if org.Address == "" {
		return nil
	}
	door, err := passkey.New(org.Name, org.Address)
	if err != nil {
		log.Info("nobody signs in by a passkey", "reason", err)
	}
	return door
}

// open opens the rooms, each on those before it.
func (l *Library) open(ctx context.Context, s *store.Store, log *slog.Logger) (err error) {
	org := l.settings.Organisation
	if l.audit, err = audit.Open(org, l.settings.Audit, s.Audit(), log); err != nil {
		return err
	}
	l.work.Notes(l.audit.Add)
	if l.people, err = access.Open(ctx, org, s.People(), log); err != nil {
		return err
	}
	l.people.Trusts(l.settings.Trust)
	l.people.Erases(l.audit.Erase)
	l.people.Unlocks(passkeys(org, log))
	if l.settings.Secrets.KeyFile == "" {
		l.settings.Secrets.KeyFile = filepath.Join(l.settings.DataDir, "secrets.key")
	}
	l.secrets = secrets.Open(org, l.settings.Secrets, s.Secrets(), log)
	l.people.Seals(l.secrets)
	where := catalog.Files{Dir: l.settings.DataDir, Reserved: store.RecordsFile, Secrets: l.secrets.Find,
		Worker: l.settings.Worker}
	if l.catalog, err = catalog.Open(ctx, org, where, s.Catalog(), l.people, log); err != nil {
		return err
	}
	if l.backup, err = backup.Open(org, l.settings.Backup, l.settings.DataDir, s.Backup(), log); err != nil {
		return err
	}
	l.secrets.Tells(l.catalog.Reopen)
	l.standing = standing.Open(org, l.settings.DataDir, s.Standing(), l.catalog, l.backup, l.settings.Audit.Syslog != "")
	if l.files, err = files.Open(ctx, org, l.settings.DataDir, s.Files(), l.catalog, l.secrets.Find,
		log); err != nil {
		return err
	}
	l.asking = asking.Open(org, s.Criteria(), l.people, l.catalog)
	if l.reading, err = reading.Open(ctx, org, l.settings.DataDir, l.settings.Limits.Rows, s.Results(), l.catalog,
		l.work, log); err != nil {
		return err
	}
	if err := s.Sending().Resume(ctx, org.Now()); err != nil {
		return fmt.Errorf("settling what was being sent: %w", err)
	}
	l.keeping = keeping.Open(org, s.Keeping(), l.people, l.asking, l.reading, log)
	l.reconciling = reconciling.Open(org, s.Reconciling(), l.people, l.catalog, l.reading, log)
	l.entering = entering.Open(org, s.Entering(), l.reading, log)
	l.history = history.Open(org, s.History(), l.people, l.reading, log)
	if l.settings.Limits.Spare == nil {
		l.settings.Limits.Spare = func() error { return standing.Spare(l.settings.DataDir) }
	}
	l.capture = capture.Open(ctx, org, l.settings.Limits, queue{s.Runs()}, l.catalog, l.asking, log)
	l.capture.Allows(l.standing.MayKeepMore)
	l.sending = sending.Open(org, l.settings.Sending, s.Sending(), l.people, l.catalog, l.reading, l.capture.Ended(),
		l.work, log)
	rooms := controls.Rooms{People: l.people, Catalog: l.catalog, Asking: l.asking, Capture: l.capture, Sending: l.sending}
	if l.controls, err = controls.Open(ctx, org, s.Controls(), rooms, l.work, log); err != nil {
		return err
	}
	l.desk = desk.Open(org, s.Desks(), l.catalog, l.controls, l.reading)
	if l.meaning, err = meaning.Open(ctx, org, s.Meaning(), l.people, l.catalog, l.reading, log); err != nil {
		return err
	}
	if l.shelf, err = shelf.Open(ctx, org, s.Shelf(), l.people, l.catalog, log); err != nil {
		return err
	}
	l.moving = moving.Open(org, s.Moving(), s.Drafting(), moving.Rooms{People: l.people, Catalog: l.catalog,
		Meaning: l.meaning, Shelf: l.shelf}, log)
	l.notices = notices.Open(org, s.Drafting(), l.sending.Notify, log)
	l.people.Tells(func(ctx context.Context, person, says string) error {
		return l.notices.Tell(ctx, "", []string{person}, notices.Subject{About: "account", Place: "/"}, "%s", says)
	})
	if l.care, err = care.Open(ctx, org, s.Care(), l.people, l.catalog, l.notices, l.work, log); err != nil {
		return err
	}
	l.needs = needs.Open(org, s.Needs(), needs.Rooms{People: l.people, Catalog: l.catalog, Capture: l.capture,
		Controls: l.controls, Sending: l.sending, Reading: l.reading, Care: l.care, Notices: l.notices}, log)
	l.files.Joins(l.people, l.notices)
	l.backup.Joins(l.people, l.notices)
	l.keeping.Joins(l.capture, l.notices, func(report string) string { return l.care.Of(report).Owner })
	l.history.Joins(l.capture, l.controls)
	l.reconciling.Joins(l.capture, l.controls.DaysOff)
	l.health = health.Open(org, l.settings.Limits, s.Health(), s.Drafting(), l.people, l.catalog, l.care)
	l.drafting, err = drafting.Open(ctx, org, s.Drafting(), drafting.Rooms{People: l.people, Catalog: l.catalog,
		Capture: l.capture, Reading: l.reading, Notices: l.notices, Care: l.care, Meaning: l.meaning}, log)
	l.trash = trash.Open(org, s.Trash(), trash.Rooms{Asking: l.asking, Catalog: l.catalog, Controls: l.controls,
		Desk: l.desk, Drafting: l.drafting, Reading: l.reading, Shelf: l.shelf}, l.work, log)
	return err
}

// queue is the records of runs, whose captures are what capture wants of them.
type queue struct{ runRecords }

type runRecords = runs.Runs // by another name, since runs have a method Runs

func (q queue) Capture(run int64) capture.Keeper { return q.runRecords.Capture(run) }

// Close ends all work and closes the sources.
func (l *Library) Close() error {
	l.work.End()
	if l.capture != nil {
		l.capture.Close()
	}
	l.work.Wait()
	if l.reading != nil {
		l.reading.Close()
	}
	if l.catalog == nil {
		return nil
	}
	return l.catalog.Close()
}

// Remind tells the owners of reports whose day of review has come; see [care.Room.Remind].
func (l *Library) Remind(ctx context.Context) error { return l.care.Remind(ctx) }

// Alarm tells people of due moments that gave no result; see [keeping.Room.Alarm].
func (l *Library) Alarm(ctx context.Context) error { return l.keeping.Alarm(ctx) }

// Sweep ends results that were kept long enough, now; see [reading.Room.Sweep].
func (l *Library) Sweep(ctx context.Context) error { return l.reading.SweepNow(ctx) }

// SweepEngines removes rows that stay in engines and that nobody wants; see [capture.Room.Sweep].
func (l *Library) SweepEngines(ctx context.Context) error { return l.capture.SweepNow(ctx) }

// NoteSettings notes which settings of the service are others than at its last start.
func (l *Library) NoteSettings(ctx context.Context, now []audit.Setting) error {
	return l.audit.Settings(ctx, now)
}

// Note keeps a line of the audit, of the act that goes on in a context.
func (l *Library) Note(ctx context.Context, w acting.Done) { l.audit.Add(ctx, w) }

// Standing is how the service stands, for what watches over it.
func (l *Library) Standing() *standing.Room { return l.standing }

// Words says what the acts are called that the audit has; see [audit.Room.Words].
func (l *Library) Words(of map[string]string) { l.audit.Words(of) }

// ForgetAudit removes lines of the audit whose time is over; see [audit.Room.Forget].
func (l *Library) ForgetAudit(ctx context.Context) error { return l.audit.Forget(ctx) }

// Keys are those that proofs of results are signed with; see [keeping.Room.Keys].
func (l *Library) Keys(ctx context.Context) ([]model.SigningKey, error) { return l.keeping.Keys(ctx) }

// Settings returns what the organisation decided.
func (l *Library) Settings() Settings { return l.settings }

// Calendar is today's, in the organisation's zone.
func (l *Library) Calendar() period.Calendar { return l.settings.Calendar() }

// As returns the library as a person may use it.
func (l *Library) As(p model.Person) *Access { return l.enter(l.people.As(p)) }

func (l *Library) enter(who *access.Access) *Access {
	return &Access{Access: who, Catalog: l.catalog.As(who), Asking: l.asking.As(who), Capture: l.capture.As(who),
		Reading: l.reading.As(who), Sending: l.sending.As(who), Controls: l.controls.As(who), Desk: l.desk.As(who),
		Drafting: l.drafting.As(who), Meaning: l.meaning.As(who), Moving: l.moving.As(who), Health: l.health.As(who),
		Notices: l.notices.As(who), Care: l.care.As(who), Needs: l.needs.As(who), Shelf: l.shelf.As(who),
		Keeping:     l.keeping.As(who),
		Reconciling: l.reconciling.As(who), History: l.history.As(who), Entering: l.entering.As(who),
		Trash: l.trash.As(who), Secrets: l.secrets.As(who), Files: l.files.As(who),
		Backup: l.backup.As(who), Audit: l.audit.As(who),
		Standing: l.standing.As(who)}
}

// AsPerson returns the library as the person with that account.
func (l *Library) AsPerson(ctx context.Context, name string) (*Access, error) {
	who, err := l.people.AsPerson(ctx, name)
	if err != nil {
		return nil, err
	}
	return l.enter(who), nil
}

// AsService returns the library as the service itself uses it, to load the demo
// or to answer on its own behalf.
func (l *Library) AsService() *Access { return l.enter(l.people.AsService()) }

// WhoHas returns the library as the person whose secret it is.
func (l *Library) WhoHas(ctx context.Context, secret string) (*Access, error) {
	who, err := l.people.WhoHas(ctx, secret)
	if err != nil {
		return nil, err
	}
	return l.enter(who), nil
}

// Door is where people come in who are not known yet.
func (l *Library) Door() access.Door { return l.people }

// Feed writes what is due for the person of a secret; see [controls.Room.Feed].
func (l *Library) Feed(ctx context.Context, secret string) ([]byte, error) {
	return l.controls.Feed(ctx, secret)
}
