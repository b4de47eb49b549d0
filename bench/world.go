package main

import (
	"context"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"mantilla/bench/made"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/store"
)

// bench is a library with one report on a made table.
type bench struct {
	dir     string
	store   *store.Store
	library *library.Library
	result  int64
	workers int              // captures at a time; 0 is one
	now     func() time.Time // its clock; nil for that of the machine
}

// cacheBytes is the budget of decoded rows.
const cacheBytes = 512 << 20

func open(ctx context.Context, millions int) (*bench, error) {
	dir, err := *into, error(nil)
	if dir == "" {
		dir, err = os.MkdirTemp(*dataDir, "records")
	} else {
		err = os.MkdirAll(dir, 0o750)
	}
	if err != nil {
		return nil, err
	}
	b := &bench{dir: dir}
	return b, b.reopen(ctx, millions)
}

// reopen opens the records anew, with nothing in memory.
func (b *bench) reopen(ctx context.Context, millions int) (err error) {
	if b.library != nil {
		if err := b.library.Close(); err != nil {
			return err
		}
		if err := b.store.Close(); err != nil {
			return err
		}
	}
	if b.store, err = store.Open(ctx, b.dir, cacheBytes); err != nil {
		return err
	}
	return b.openLibrary(ctx, millions)
}

// clock is the benchmark's own, where it has one.
func (b *bench) clock() func() time.Time {
	if b.now != nil {
		return b.now
	}
	return time.Now
}

func (b *bench) openLibrary(ctx context.Context, millions int) error {
	path, err := filepath.Abs(made.Path(*dataDir, made.TableOf(millions)))
	if err != nil {
		return err
	}
	b.library, err = library.Open(ctx, b.store, library.Settings{
		Organisation: model.Organisation{Zone: time.UTC, Currency: "EUR", Now: b.clock()},
		Limits:       capture.Limits{Rows: 1 << 31, Time: time.Hour, Workers: max(b.workers, 1)},
		DataDir:      filepath.Dir(path),
	},
		slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	if err := b.library.AsService().Catalog.PutSource(ctx, "made",
		[]byte("source: made\nkind: sqlite\nfile: "+filepath.Base(path)+"\n")); err != nil {
		return err
	}
	_, err = b.library.AsService().Catalog.PutReport(ctx, []byte(made.Definition(millions)), catalog.Put{Was: "*"})
	return err
}

// reopenLibrary opens the library anew on the same records, so that decoded
// rows stay and what was computed of them goes.
func (b *bench) reopenLibrary(ctx context.Context, millions int) error {
	if err := b.library.Close(); err != nil {
		return err
	}
	return b.openLibrary(ctx, millions)
}

func (b *bench) close() {
	b.library.Close()
	b.store.Close()
	if *into == "" {
		os.RemoveAll(b.dir)
	}
}
