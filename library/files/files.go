// Package files takes the files that people bring for tables of sources: each is read at
// once, told with all that does not fit, and kept, so that an earlier one can be used again.
package files

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"maps"
	"os"
	"slices"
	"sync"

	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/library/notices"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/files"
)

// Records are what the room keeps.
type Records interface {
	Add(ctx context.Context, v model.FileVersion, data []byte, ready func() error) (int64, error)
	InUse(ctx context.Context, source string) (map[string][]byte, error)
	Looked(ctx context.Context, source, table string) (model.FileLook, error)
	PutLook(ctx context.Context, l model.FileLook) error
	Use(ctx context.Context, v model.FileVersion, ready func() error) error
	Version(ctx context.Context, source, table string, number int64) (model.FileVersion, []byte, error)
	Versions(ctx context.Context, source string) ([]model.FileVersion, error)
}

// Room takes files. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	dir     string
	records Records
	catalog *catalog.Room
	secrets source.Secrets
	people  *access.Room
	notices *notices.Room
	log     *slog.Logger

	building sync.Mutex // held while tables are made anew
	looks    sync.Map   // of locks, by source and table; see looking
}

// Access is the files as one person may bring them.
type Access struct {
	*access.Access
	room *Room
}

// Joins says whom the room tells of files that were not taken, before it watches.
func (room *Room) Joins(people *access.Room, told *notices.Room) {
	room.people, room.notices = people, told
}

// Open makes the room. Tables that are gone are made again of the files that are kept.
func Open(ctx context.Context, org model.Organisation, dir string, records Records, c *catalog.Room,
	secrets source.Secrets, log *slog.Logger) (*Room, error) {
	room := &Room{org: org, dir: dir, records: records, catalog: c, secrets: secrets, log: log}
	c.Readies(room)
	for _, s := range c.AllSources() {
		if s.Config.Kind != kind {
			continue
		}
		if _, err := os.Stat(files.Path(dir, s.Config.ID)); !errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err := room.Prepare(ctx, s.Config, s.Config.ID); err != nil {
			log.ErrorContext(ctx, "making the tables of a source of files", "source", s.Config.ID, "error", err)
		}
	}
	return room, nil
}

const kind = "files"

// As returns the files as a person may bring them.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// Prepare makes the tables of a source as it is declared of the files that are in use under an
// id; a declaration that they do not fit is refused.
func (room *Room) Prepare(ctx context.Context, c *source.Config, id string) error {
	if c.Kind != kind {
		return nil
	}
	of, err := room.records.InUse(ctx, id)
	if err != nil {
		return err
	}
	room.building.Lock()
	defer room.building.Unlock()
	told, err := files.Build(ctx, room.dir, c, of)
	if errors.Is(err, files.ErrFaults) {
		return fmt.Errorf("%w: %s", err, firstOf(told))
	}
	return err
}

// Forget takes away the tables of a source.
func (room *Room) Forget(c *source.Config) error {
	if c.Kind != kind {
		return nil
	}
	if err := os.Remove(files.Path(room.dir, c.ID)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// firstOf is the first fault of any file, in words.
func firstOf(told map[string]files.Told) string {
	for _, id := range slices.Sorted(maps.Keys(told)) {
		for _, f := range told[id].Faults {
			return fmt.Sprintf("%s, %s: %s", f.Place, f.Column, f.Says)
		}
	}
	return ""
}

// Refused says that a file was not taken, with what does not fit.
type Refused struct {
	Told files.Told
	Err  error
}

func (r *Refused) Error() string { return r.Err.Error() }

// Unwrap returns why.
func (r *Refused) Unwrap() error { return r.Err }

// table finds a table of a source, of those whose files the person may bring.
func (a *Access) table(id, table string) (*source.Config, error) {
	s, err := a.room.catalog.Source(id)
	if err != nil {
		return nil, err
	}
	if s.Config.Kind != kind {
		return nil, model.Refuse("source", "%s is not of files that people bring", id)
	}
	t, ok := s.Config.Tables[table]
	if !ok {
		return nil, model.NoSuch("table of "+id, table, slices.Collect(maps.Keys(s.Config.Tables)))
	}
	return s.Config, a.MayBring(t.Groups)
}

// Take reads a file and makes the table of it; see [Refused] for one that does not fit.
func (a *Access) Take(ctx context.Context, id, table, name string, data []byte) (model.FileVersion, error) {
	c, err := a.table(id, table)
	if err != nil {
		return model.FileVersion{}, err
	}
	return a.room.take(ctx, c, table, name, data, a.Person().Name)
}

// take is Take for a person, or for nobody: the file came by itself.
func (room *Room) take(ctx context.Context, c *source.Config, table, name string, data []byte,
	person string) (model.FileVersion, error) {
	sum := sha256.Sum256(data)
	v := model.FileVersion{Source: c.ID, Table: table, Name: name, Bytes: int64(len(data)),
		Digest: hex.EncodeToString(sum[:]), Person: person, At: room.org.Now(), InUse: true}
	room.building.Lock()
	defer room.building.Unlock()
	of, err := room.records.InUse(ctx, c.ID)
	if err != nil {
		return v, err
	}
	of[table] = data
	b := build{room: room, config: c, of: of}
	if err := b.read(ctx, table); err != nil {
		return v, err
	}
	v.Rows, v.LeftOut = int64(b.told.Rows), int64(b.told.Left)
	if v.Faults, err = json.Marshal(append([]files.Fault{}, b.told.Faults...)); err != nil {
		return v, err
	}
	if v.Number, err = room.records.Add(ctx, v, data, b.stand); err != nil {
		return v, err
	}
	room.log.InfoContext(ctx, "file taken", "source", c.ID, "table", table, "rows", v.Rows, "left out", v.LeftOut, "by",
		v.Person)
	return v, nil
}

// Restore makes an earlier file that of its table again.
func (a *Access) Restore(ctx context.Context, id, table string, number int64) error {
	c, err := a.table(id, table)
	if err != nil {
		return err
	}
	v, data, err := a.room.records.Version(ctx, id, table, number)
	if errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("file of "+table, fmt.Sprint(number), nil)
	}
	if err != nil {
		return err
	}
	a.room.building.Lock()
	defer a.room.building.Unlock()
	of, err := a.room.records.InUse(ctx, id)
	if err != nil {
		return err
	}
	of[table] = data
	b := build{room: a.room, config: c, of: of}
	if err := b.read(ctx, table); err != nil {
		return err
	}
	return a.room.records.Use(ctx, v, b.stand)
}

// Data is a file as it was brought.
func (a *Access) Data(ctx context.Context, id, table string, number int64) (model.FileVersion, []byte, error) {
	if _, err := a.table(id, table); err != nil {
		return model.FileVersion{}, nil, err
	}
	v, data, err := a.room.records.Version(ctx, id, table, number)
	if errors.Is(err, model.ErrNotFound) {
		err = model.NoSuch("file of "+table, fmt.Sprint(number), nil)
	}
	return v, data, err
}

// Versions are the files of a source, the newest first: of the tables whose files the person
// may bring.
func (a *Access) Versions(ctx context.Context, id string) (c *source.Config, all []model.FileVersion, err error) {
	s, err := a.room.catalog.Source(id)
	if err != nil {
		return nil, nil, err
	}
	own := *s.Config
	own.Tables = map[string]source.FileTable{}
	for table, t := range s.Config.Tables {
		if _, err := a.table(id, table); err == nil {
			own.Tables[table] = t
		}
	}
	if len(own.Tables) == 0 {
		if err := a.May(access.KeepCatalog); err != nil {
			return nil, nil, err
		}
	}
	kept, err := a.room.records.Versions(ctx, id)
	for _, v := range kept {
		if _, ok := own.Tables[v.Table]; ok {
			all = append(all, v)
		}
	}
	return &own, all, err
}

// build makes the tables of a source anew.
type build struct {
	room   *Room
	config *source.Config
	of     map[string][]byte
	told   files.Told
	stands func() error
}

// read makes the tables beside those that there are, and tells how the file of one was read.
func (b *build) read(ctx context.Context, table string) error {
	told, stands, err := files.Prepare(ctx, b.room.dir, b.config, b.of)
	b.told, b.stands = told[table], stands
	switch {
	case errors.Is(err, files.ErrFaults):
		return &Refused{b.told, err}
	case err != nil && ctx.Err() == nil:
		return model.Refuse("file", "%w", err)
	}
	return err
}

// stand puts the tables that were made in the place of those before.
func (b *build) stand() error { return b.stands() }

// Look tells what a file seems to hold, for a declaration that is to be written.
func (a *Access) Look(name string, data []byte) (files.Looked, error) {
	if err := a.May(access.Write); err != nil {
		return files.Looked{}, err
	}
	looked, err := files.Look(name, data)
	if err != nil {
		return looked, model.Refuse("file", "%w", err)
	}
	return looked, nil
}
