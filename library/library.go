// Package library is what the service does, in the words of the work: it keeps
// the catalog, resolves values, starts runs, and lays kept results out. Every
// face of the service calls it and adds nothing of its own.
package library

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"path/filepath"
	"sync"
	"time"

	"mantilla/core/nearest"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/runner"
	"mantilla/source"
	"mantilla/source/sqlite"
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
	DataDir     string           // where relative source files lie
	Now         func() time.Time // the clock; tests and the demo set it
}

// Library is safe for several goroutines.
type Library struct {
	settings Settings
	store    *store.Store
	runner   *runner.Runner
	log      *slog.Logger
	orders   *cache.Cache

	mu       sync.RWMutex
	sources  map[string]source.Source
	catalog  map[string]*report.Definition // present versions
	versions map[string]*report.Definition // by report and version
}

// Open loads the catalog from the store and starts the workers.
func Open(ctx context.Context, s *store.Store, settings Settings, log *slog.Logger) (*Library, error) {
	l := &Library{settings: settings, store: s, log: log, orders: cache.New(256 << 20),
		sources: map[string]source.Source{}, catalog: map[string]*report.Definition{}, versions: map[string]*report.Definition{}}
	if err := l.load(ctx); err != nil {
		return nil, errors.Join(err, l.closeSources())
	}
	var err error
	if l.runner, err = runner.Start(ctx, s, settings.Workers, l.capture, settings.Now, log); err != nil {
		return nil, errors.Join(err, l.closeSources())
	}
	return l, nil
}

func (l *Library) load(ctx context.Context) error {
	sources, err := l.store.Sources(ctx)
	if err != nil {
		return fmt.Errorf("reading the sources: %w", err)
	}
	for _, text := range sources {
		config, err := source.ParseConfig([]byte(text))
		if err != nil {
			return err
		}
		s, err := l.openSource(config)
		if err != nil {
			return err
		}
		l.sources[config.ID] = s
	}
	reports, err := l.store.Reports(ctx)
	if err != nil {
		return fmt.Errorf("reading the catalog: %w", err)
	}
	for _, r := range reports {
		d, faults := report.Parse([]byte(r.Text), l.defaults())
		if faults != nil {
			return fmt.Errorf("report %s in the catalog: %w", r.ID, faults)
		}
		l.remember(d)
	}
	return nil
}

// Close stops the workers and closes the sources.
func (l *Library) Close() error {
	l.runner.Close()
	return l.closeSources()
}

func (l *Library) closeSources() error {
	var errs []error
	for _, s := range l.sources {
		errs = append(errs, s.Close())
	}
	return errors.Join(errs...)
}

func (l *Library) defaults() report.Defaults { return report.Defaults{Currency: l.settings.Currency} }

// remember makes a definition the present version of its report.
func (l *Library) remember(d *report.Definition) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.catalog[d.ID] = d
	l.versions[d.ID+"/"+d.Version] = d
}

func (l *Library) openSource(config *source.Config) (source.Source, error) {
	path := config.File
	if !filepath.IsAbs(path) {
		path = filepath.Join(l.settings.DataDir, path)
	}
	return sqlite.Open(config, path)
}

// PutSource checks a source's declaration and takes it into the catalog. When
// it is not right, the source stays as it was.
func (l *Library) PutSource(ctx context.Context, text []byte) error {
	config, err := source.ParseConfig(text)
	if err != nil {
		return err
	}
	s, err := l.openSource(config)
	if err != nil {
		return err
	}
	for _, list := range config.ListNames() {
		if _, err := s.Entries(ctx, list, source.Wish{Limit: 1}); err != nil {
			return errors.Join(err, s.Close())
		}
	}
	if err := l.store.PutSource(ctx, config.ID, string(text)); err != nil {
		return errors.Join(err, s.Close())
	}
	l.mu.Lock()
	old := l.sources[config.ID]
	l.sources[config.ID] = s
	l.mu.Unlock()
	if old != nil {
		return old.Close()
	}
	return nil
}

func (l *Library) source(id string) (source.Source, error) {
	l.mu.RLock()
	defer l.mu.RUnlock()
	if s, ok := l.sources[id]; ok {
		return s, nil
	}
	return nil, missing("source", id, keysOf(l.sources))
}

// Calendar is today's, in the organisation's zone.
func (l *Library) Calendar() period.Calendar {
	return period.At(l.settings.Now(), l.settings.Zone, l.settings.FiscalStart)
}

// Settings returns what the organisation decided.
func (l *Library) Settings() Settings { return l.settings }

// Missing says that something of that name does not exist.
type Missing struct {
	What, Name string
	Near       []string
}

func (m *Missing) Error() string {
	text := fmt.Sprintf("there is no %s %q", m.What, m.Name)
	if len(m.Near) > 0 {
		text += "; did you mean " + nearest.Or(m.Near) + "?"
	}
	return text
}

func missing(what, name string, known []string) error {
	return &Missing{What: what, Name: name, Near: nearest.Names(name, known, 3)}
}

func keysOf[T any](m map[string]T) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	return keys
}
