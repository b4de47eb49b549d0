package catalog

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"mantilla/core/definition"
	"mantilla/core/manuscript"
	"mantilla/core/report"
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
	// Silent tells since when the source cannot be read, and why; zero where it can.
	Silent func() (since time.Time, why error)
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
			room.log.ErrorContext(ctx, "a source cannot be opened", "source", id, "error", err)
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
	at := source.Place{Dir: room.files.Dir, Secrets: room.files.Secrets}
	s, err := source.Open(config, at)
	if err != nil {
		return Source{}, err
	}
	if room.files.Worker.Memory > 0 {
		s = room.files.Worker.Of(s, config, at)
	}
	w := &watched{Source: s, now: room.org.Now}
	return Source{Source: w, Config: config, Book: lookup.New(config, w), Silent: w.Silent}, nil
}

// Reopen opens the sources anew whose password is a secret that was changed; what cannot be
// opened with it is told of those who use it.
func (room *Room) Reopen(secret string) {
	texts, err := room.records.Sources(context.Background())
	if err != nil {
		room.log.Error("reading the sources after a secret was changed", "error", err)
		return
	}
	for _, text := range texts {
		config, err := source.ParseConfig([]byte(text))
		if err != nil || !config.Uses(secret) {
			continue
		}
		room.office.Lock()
		s, err := room.openSource([]byte(text))
		if old := room.replace(config.ID, s, err); old != nil {
			if err := old.Close(); err != nil {
				room.log.Error("closing a source", "source", config.ID, "error", err)
			}
		}
		room.office.Unlock()
	}
}

// replace puts an opened source, or why it could not be opened, in the place of the one before,
// which it returns; nil for none.
func (room *Room) replace(id string, s Source, failed error) (old source.Source) {
	room.mu.Lock()
	defer room.mu.Unlock()
	if before, ok := room.sources[id]; ok {
		old = before.Source
	}
	delete(room.sources, id)
	delete(room.broken, id)
	if failed != nil {
		room.broken[id] = failed
		return old
	}
	room.sources[id] = s
	return old
}

// Examine looks whether a source can be reached and read, step by step: the one that is
// declared, or one as a text declares it.
func (a *Access) Examine(ctx context.Context, id string, text []byte) (source.Findings, error) {
	if err := a.May(access.SeeSources); err != nil {
		return nil, err
	}
	if len(text) == 0 {
		s, err := a.room.Source(id)
		if err != nil {
			return nil, err
		}
		return s.Examine(ctx), nil
	}
	if err := a.May(access.KeepCatalog); err != nil {
		return nil, err
	}
	s, err := a.room.openSource(text)
	if err != nil {
		return nil, model.Refuse("source", "%w", err)
	}
	return s.Examine(ctx), s.Close()
}

// Declared is a source as it is declared, with what keeps it from being read.
type Declared struct {
	*source.Config
	Since time.Time // it does not answer; zero where it does, or was never opened
	Fault error
}

// Sources returns how the sources are declared, by id.
func (a *Access) Sources(ctx context.Context) (out []Declared, err error) {
	if err := a.May(access.SeeSources); err != nil {
		return nil, err
	}
	texts, err := a.room.records.Sources(ctx)
	if err != nil {
		return nil, err
	}
	for _, text := range texts {
		config, err := source.ParseConfig([]byte(text))
		if err != nil {
			config = &source.Config{ID: "unknown", Text: text}
		}
		out = append(out, a.room.declared(config, err))
	}
	slices.SortFunc(out, func(a, b Declared) int { return strings.Compare(a.ID, b.ID) })
	return out, nil
}

func (room *Room) declared(config *source.Config, fault error) Declared {
	d := Declared{Config: config, Fault: fault}
	if d.Fault == nil {
		d.Since, d.Fault = room.Silent(config.ID)
	}
	return d
}

// Silent tells what keeps a source from being read, and since when it does not answer.
func (room *Room) Silent(id string) (since time.Time, why error) {
	s, err := room.Source(id)
	if err != nil {
		return time.Time{}, err
	}
	return s.Silent()
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
	err = a.room.ready.Prepare(ctx, s.Config, id)
	if err == nil {
		err = s.Book.Warm(ctx)
	}
	if err == nil && s.Config.ID != id {
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
	old := a.room.replace(s.Config.ID, s, nil)
	if old == nil {
		return nil
	}
	if old.Dialect().String() != s.Dialect().String() {
		err = a.room.readAnew(ctx, id)
	}
	return errors.Join(err, old.Close())
}

// readAnew reads the definitions of a source that speaks another dialect than it did.
func (room *Room) readAnew(ctx context.Context, id string) error {
	room.mu.Lock()
	maps.DeleteFunc(room.versions, func(_ string, d *report.Definition) bool { return d.Source == id })
	drafts := maps.Clone(room.drafts)
	room.mu.Unlock()
	for draft, d := range drafts {
		if d.Source != id {
			continue
		}
		if read, faults := definition.Parse([]byte(d.Text), room.defaults(room.present())); faults == nil {
			room.SetDraft(draft, read)
		}
	}
	reports, err := room.records.Reports(ctx)
	if err != nil {
		return fmt.Errorf("reading the catalog anew: %w", err)
	}
	for _, r := range reports {
		if manuscript.SourceOf([]byte(r.Text)) == id {
			room.take(r)
		}
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

// SourceIDs are the ids of all declared sources, also of those that cannot be read, in order.
func (room *Room) SourceIDs() []string {
	room.mu.RLock()
	defer room.mu.RUnlock()
	ids := slices.Collect(maps.Keys(room.sources))
	for id := range room.broken {
		if _, open := room.sources[id]; !open {
			ids = append(ids, id)
		}
	}
	slices.Sort(ids)
	return ids
}
