package catalog

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"mantilla/library/access"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/lookup"
)

// Source is a source that is open, with the book of its lists.
type Source struct {
	source.Source
	Config *source.Config
	Book   *lookup.Book
}

func (room *Room) loadSources(ctx context.Context) error {
	texts, err := room.records.Sources(ctx)
	if err != nil {
		return fmt.Errorf("reading the sources: %w", err)
	}
	for _, text := range texts {
		s, err := room.openSource([]byte(text))
		if err != nil {
			id := "unknown"
			if config, parsed := source.ParseConfig([]byte(text)); parsed == nil {
				id = config.ID
			}
			room.log.Error("a source cannot be opened", "source", id, "error", err)
			room.broken[id] = err
			continue
		}
		room.sources[s.Config.ID] = s
	}
	return nil
}

func (room *Room) openSource(text []byte) (Source, error) {
	config, err := source.ParseConfig(text)
	if err != nil {
		return Source{}, err
	}
	if filepath.Clean(config.File) == room.files.Reserved {
		return Source{},
			model.Refuse("file", "source %s: %s holds the service's own records and is no source", config.ID, config.File)
	}
	s, err := source.Open(config, room.files.Dir)
	if err != nil {
		return Source{}, err
	}
	return Source{Source: s, Config: config, Book: lookup.New(config, s)}, nil
}

// Sources returns how the sources are declared, by id.
func (a *Access) Sources() ([]*source.Config, error) {
	var out []*source.Config
	for _, s := range a.room.AllSources() {
		out = append(out, s.Config)
	}
	slices.SortFunc(out, func(a, b *source.Config) int { return strings.Compare(a.ID, b.ID) })
	return out, a.May(access.Write)
}

// PutSource checks the declaration of a source and takes it into the catalog.
// When it is not right, the source stays as it was.
func (a *Access) PutSource(ctx context.Context, id string, text []byte) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	s, err := a.room.openSource(text)
	var own *model.Refused
	if errors.As(err, &own) {
		return err
	}
	if err != nil {
		return model.Refuse("source", "%w", err)
	}
	if err = s.Book.Warm(ctx); err == nil && s.Config.ID != id {
		err = fmt.Errorf("the declaration is of the source %s, not %s", s.Config.ID, id)
	}
	if err != nil {
		return errors.Join(model.Refuse("source", "%w", err), s.Close())
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := a.room.records.PutSource(ctx, s.Config.ID, string(text)); err != nil {
		return errors.Join(err, s.Close())
	}
	a.room.mu.Lock()
	old, known := a.room.sources[s.Config.ID]
	a.room.sources[s.Config.ID] = s
	delete(a.room.broken, s.Config.ID)
	a.room.mu.Unlock()
	if known {
		return old.Close()
	}
	return nil
}

// Source returns an open source; it fails where there is none, or where it cannot
// be read.
func (room *Room) Source(id string) (Source, error) {
	room.mu.RLock()
	defer room.mu.RUnlock()
	if s, ok := room.sources[id]; ok {
		return s, nil
	}
	if err := room.broken[id]; err != nil {
		return Source{}, model.Refuse("source", "the source %s cannot be read: %w", id, err)
	}
	return Source{}, model.NoSuch("source", id, slices.Collect(maps.Keys(room.sources)))
}

// AllSources are those that are open.
func (room *Room) AllSources() []Source {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return slices.Collect(maps.Values(room.sources))
}
