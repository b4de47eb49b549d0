// Package library is what the service does, in the words of the work: it keeps
// the catalog, people, criteria and run controls, resolves values, starts runs,
// and lays kept results out. Every face of the service calls it, each time as
// somebody: [Library.As] gives what that person may do, and rights are checked
// there and nowhere else.
package library

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"path/filepath"
	"sync"
	"time"

	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/model"
	"mantilla/runner"
	"mantilla/store"
	"mantilla/store/cache"
)

// Settings are what an organisation decides about its service.
type Settings struct {
	Name        string         // the organisation's name
	Zone        *time.Location // where its days begin and end
	FiscalStart time.Month
	Currency    string // of money columns that name none
	MaxRows     int64  // of a run, unless its report says otherwise
	MaxTime     time.Duration
	Workers     int
	DataDir     string           // where relative source files lie, and files on their way
	Address     string           // of the console as people reach it, for links in what is taken away; "" for none
	Now         func() time.Time // the clock; tests and the demo set it

	Mail          deliver.Server
	MailLimit     int      // bytes of files in a message; larger ones become a link
	Folder        string   // below which files are put
	MailDomains   []string // that mail goes to; none for any
	Calls         deliver.Caller
	WebhookSecret string       // that calls are signed with
	Mailbox       *mailbox.Box // the stand-in mail server, where there is one
}

// Library is safe for several goroutines.
type Library struct {
	settings Settings
	store    *store.Store
	runner   *runner.Runner
	log      *slog.Logger
	orders   *cache.Cache
	exports  *exports

	toPost            []chan struct{} // wake those who send, one each
	toDispatch, toDue chan struct{}   // wake the sending of runs, and the timetable

	ctx        context.Context // ends when the library closes, and with it all that it does
	stop       context.CancelFunc
	background sync.WaitGroup
	doors      doors  // how signing in is guarded
	currency   string // of money in results that were kept before results knew theirs

	office sync.Mutex // held while the catalog is changed, in the records and below

	mu       sync.RWMutex // guards what follows
	sources  map[string]opened
	broken   map[string]error  // sources that cannot be read
	unread   map[string]unread // reports that cannot be read
	shared   *report.Shared
	catalog  map[string]*report.Definition // present versions
	versions map[string]*report.Definition // by report, version and currency
	openings map[string][]model.Opening    // by report
}

// Open loads the catalog from the store and starts the workers.
func Open(ctx context.Context, s *store.Store, settings Settings, log *slog.Logger) (*Library, error) {
	l := &Library{settings: settings, store: s, log: log, orders: cache.New(256 << 20), toDispatch: make(chan struct{}, 1), toDue: make(chan struct{}, 1),
		doors: newDoors(), sources: map[string]opened{}, broken: map[string]error{}, unread: map[string]unread{}, catalog: map[string]*report.Definition{}, versions: map[string]*report.Definition{}}
	l.ctx, l.stop = context.WithCancel(context.WithoutCancel(ctx))
	if err := l.load(ctx); err != nil {
		return nil, errors.Join(err, l.closeSources())
	}
	var err error
	if l.exports, err = openExports(filepath.Join(settings.DataDir, "exports")); err != nil {
		return nil, errors.Join(err, l.closeSources())
	}
	if err := s.Resume(ctx, settings.Now()); err != nil {
		return nil, errors.Join(err, l.closeSources())
	}
	if err := l.catchUp(ctx); err != nil {
		return nil, errors.Join(err, l.closeSources())
	}
	local := func() time.Time { return settings.Now().In(settings.Zone) }
	if l.runner, err = runner.Start(ctx, s, settings.Workers, l.capture, local, log); err != nil {
		return nil, errors.Join(err, l.closeSources())
	}
	l.background.Go(l.sweep)
	l.background.Go(l.warm)
	l.background.Go(l.dispatch)
	for _, way := range ways {
		wake := make(chan struct{}, 1)
		l.toPost = append(l.toPost, wake)
		l.background.Go(func() { l.post(way, wake) })
	}
	l.background.Go(l.keepTime)
	return l, nil
}

func (l *Library) load(ctx context.Context) error {
	var err error
	if l.currency, err = l.store.Origin(ctx, "currency", l.settings.Currency); err != nil {
		return fmt.Errorf("reading what the service began with: %w", err)
	}
	if err := l.loadSources(ctx); err != nil {
		return err
	}
	text, err := l.store.Shared(ctx)
	if err != nil {
		return fmt.Errorf("reading the shared parameters: %w", err)
	}
	if l.shared, err = parseShared(text); err != nil {
		return fmt.Errorf("the shared parameters in the catalog: %w", err)
	}
	reports, err := l.store.Reports(ctx)
	if err != nil {
		return fmt.Errorf("reading the catalog: %w", err)
	}
	for _, r := range reports {
		d, err := l.parse(r.Text, r.Shared, l.settings.Currency)
		if err != nil {
			l.log.Error("a report of the catalog cannot be read", "report", r.ID, "error", err)
			l.unread[r.ID] = unread{r, err}
			continue
		}
		l.remember(d)
	}
	l.openings, err = l.store.Openings(ctx)
	return err
}

// Close stops the workers and closes the sources.
func (l *Library) Close() error {
	l.stop()
	l.runner.Close()
	l.background.Wait()
	l.exports.close()
	return l.closeSources()
}

// warm reads the lists of all sources. What is wrong with one is told when it
// is asked for.
func (l *Library) warm() {
	for _, s := range l.allSources() {
		select {
		case <-l.ctx.Done():
			return
		default:
		}
		if err := s.book.Warm(l.ctx); err != nil && l.ctx.Err() == nil {
			l.log.Warn("reading the lists of a source ahead", "source", s.config.ID, "error", err)
		}
	}
}

// sweep deletes, now and every hour, the results that were kept long enough, and
// takes back moments that a clock once set far ahead left behind.
func (l *Library) sweep() {
	for {
		if err := l.catchUp(l.ctx); err != nil && l.ctx.Err() == nil {
			l.log.Error("looking at timetables anew", "error", err)
		}
		numbers, err := l.store.DeleteExpired(context.Background(), l.settings.Now())
		if err != nil {
			l.log.Error("deleting results that were kept long enough", "error", err)
		}
		for _, n := range numbers {
			l.orders.Forget(fmt.Sprintf("%d/", n))
			l.log.Info("result was kept long enough and is deleted", "result", n)
		}
		select {
		case <-l.ctx.Done():
			return
		case <-time.After(time.Hour):
		}
	}
}

// remember makes a definition the present version of its report.
func (l *Library) remember(d *report.Definition) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.catalog[d.ID] = d
	l.versions[versionKey(d.ID, d.Version, l.settings.Currency)] = d
	delete(l.unread, d.ID)
}

// Calendar is today's, in the organisation's zone.
func (l *Library) Calendar() period.Calendar {
	return period.At(l.settings.Now(), l.settings.Zone, l.settings.FiscalStart)
}

// Settings returns what the organisation decided.
func (l *Library) Settings() Settings { return l.settings }
