package library

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"mantilla/model"
	"mantilla/source"
	"mantilla/source/lookup"
	"mantilla/source/sqlite"
	"mantilla/store"
)

// opened is a source with the book of its lists.
type opened struct {
	source.Source
	config *source.Config
	book   *lookup.Book
}

func (l *Library) loadSources(ctx context.Context) error {
	texts, err := l.store.Sources(ctx)
	if err != nil {
		return fmt.Errorf("reading the sources: %w", err)
	}
	for _, text := range texts {
		s, err := l.openSource([]byte(text))
		if err != nil {
			id := "unknown"
			if config, parsed := source.ParseConfig([]byte(text)); parsed == nil {
				id = config.ID
			}
			l.log.Error("a source cannot be opened", "source", id, "error", err)
			l.broken[id] = err
			continue
		}
		l.sources[s.config.ID] = s
	}
	return nil
}

func (l *Library) closeSources() error {
	var errs []error
	for _, s := range l.sources {
		errs = append(errs, s.Close())
	}
	return errors.Join(errs...)
}

func (l *Library) openSource(text []byte) (opened, error) {
	config, err := source.ParseConfig(text)
	if err != nil {
		return opened{}, err
	}
	if !filepath.IsLocal(config.File) {
		return opened{}, model.Refuse("file", "source %s: its file %s must lie within the data directory", config.ID, config.File)
	}
	if filepath.Clean(config.File) == store.RecordsFile {
		return opened{}, model.Refuse("file", "source %s: %s holds the service's own records and is no source", config.ID, config.File)
	}
	s, err := sqlite.Open(config, filepath.Join(l.settings.DataDir, config.File))
	if err != nil {
		return opened{}, err
	}
	return opened{s, config, lookup.New(config, s)}, nil
}

// Sources returns how the sources are declared, by id.
func (a *Access) Sources() ([]*source.Config, error) {
	var out []*source.Config
	for _, s := range a.allSources() {
		out = append(out, s.config)
	}
	slices.SortFunc(out, func(a, b *source.Config) int { return strings.Compare(a.ID, b.ID) })
	return out, a.may(write)
}

// PutSource checks the declaration of a source and takes it into the catalog.
// When it is not right, the source stays as it was.
func (a *Access) PutSource(ctx context.Context, id string, text []byte) error {
	if err := a.may(keepCatalog); err != nil {
		return err
	}
	s, err := a.openSource(text)
	var own *model.Refused
	if errors.As(err, &own) {
		return err
	}
	if err != nil {
		return model.Refuse("source", "%w", err)
	}
	if err = s.book.Warm(ctx); err == nil && s.config.ID != id {
		err = fmt.Errorf("the declaration is of the source %s, not %s", s.config.ID, id)
	}
	if err != nil {
		return errors.Join(model.Refuse("source", "%w", err), s.Close())
	}
	a.office.Lock()
	defer a.office.Unlock()
	if err := a.store.PutSource(ctx, s.config.ID, string(text)); err != nil {
		return errors.Join(err, s.Close())
	}
	a.mu.Lock()
	old, known := a.sources[s.config.ID]
	a.sources[s.config.ID] = s
	delete(a.broken, s.config.ID)
	a.mu.Unlock()
	if known {
		return old.Close()
	}
	return nil
}

func (l *Library) source(id string) (opened, error) {
	l.mu.RLock()
	defer l.mu.RUnlock()
	if s, ok := l.sources[id]; ok {
		return s, nil
	}
	if err := l.broken[id]; err != nil {
		return opened{}, model.Refuse("source", "the source %s cannot be read: %w", id, err)
	}
	return opened{}, model.NoSuch("source", id, slices.Collect(maps.Keys(l.sources)))
}

func (l *Library) allSources() []opened {
	l.mu.RLock()
	defer l.mu.RUnlock()
	return slices.Collect(maps.Values(l.sources))
}
