package demotest

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/gofrs/flock"

	"mantilla/demo"
	"mantilla/library"
)

// data is the demo data, written once for all tests. Tests of several packages
// run at the same time, so that one of them writes and the others wait.
var data = sync.OnceValues(func() (string, error) {
	dir := filepath.Join(os.TempDir(), fmt.Sprintf("mantilla-demo-data-%d", demo.DataVersion))
	lock := flock.New(dir + ".lock")
	if err := lock.Lock(); err != nil {
		return dir, err
	}
	defer lock.Unlock()
	return dir, demo.WriteData(context.Background(), dir)
})

// Dir makes a data directory of the test with the demo's source in it.
func Dir(t testing.TB) string {
	t.Helper()
	dir := t.TempDir()
	from, err := data()
	if err != nil {
		t.Fatal(err)
	}
	text, err := os.ReadFile(filepath.Join(from, demo.SourceFile))
	if err == nil {
		err = os.WriteFile(filepath.Join(dir, demo.SourceFile), text, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	return dir
}

// Statement is a file that the bank of the demo stated.
func Statement(t testing.TB, name string) []byte {
	t.Helper()
	from, err := data()
	if err != nil {
		t.Fatal(err)
	}
	text, err := os.ReadFile(filepath.Join(from, demo.StatementDir, name))
	if err != nil {
		t.Fatal(err)
	}
	return text
}

// world is what lies in a data directory beside the demo's source, made once for all tests of
// a package, of which each has a copy.
type world struct {
	once  sync.Once
	files map[string][]byte // by their paths below the directory
	err   error
}

// Loaded makes a data directory of the test with the demo's source, its catalog and its people,
// taken in at a moment.
func Loaded(t testing.TB, at time.Time) string {
	t.Helper()
	made, _ := worlds.LoadOrStore(at.UnixNano(), &world{})
	return made.(*world).copied(t, func(dir string) error { return load(dir, at) })
}

var (
	worlds sync.Map // by their moments
	aged   world
)

// afterAYear makes one in which the stages of training were kept each month.
func afterAYear(t testing.TB, at time.Time) string {
	t.Helper()
	return aged.copied(t, func(dir string) error {
		if err := demo.KeepHistory(context.Background(), dir, keeping(dir)); err != nil {
			return err
		}
		return load(dir, at)
	})
}

// copied makes a copy of the world for a test; the first has it made.
func (w *world) copied(t testing.TB, fill func(dir string) error) string {
	t.Helper()
	w.once.Do(func() {
		dir := Dir(t)
		if w.err = fill(dir); w.err == nil {
			w.files, w.err = filesBelow(dir)
		}
	})
	if w.err != nil {
		t.Fatalf("making the demo's world: %v", w.err)
	}
	dir := Dir(t)
	for path, content := range w.files {
		to := filepath.Join(dir, path)
		if err := errors.Join(os.MkdirAll(filepath.Dir(to), 0o700), os.WriteFile(to, content, 0o600)); err != nil {
			t.Fatal(err)
		}
	}
	return dir
}

func filesBelow(dir string) (map[string][]byte, error) {
	files := map[string][]byte{}
	err := filepath.WalkDir(dir, func(path string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() {
			return err
		}
		below, err := filepath.Rel(dir, path)
		if err == nil && below != demo.SourceFile {
			files[below], err = os.ReadFile(path)
		}
		return err
	})
	return files, err
}

// load has the demo's catalog and people taken in.
func load(dir string, at time.Time) error {
	ctx := context.Background()
	still := func() time.Time { return at }
	l, end, err := openLibrary(ctx, dir, "", still, nil, slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	return errors.Join(demo.Load(ctx, l), end())
}

// keeping opens the library as it was on earlier days.
func keeping(dir string) demo.Opener {
	return func(ctx context.Context, at time.Time) (*library.Library, func() error, error) {
		return openLibrary(ctx, dir, "", clock(at), nil, slog.New(slog.DiscardHandler))
	}
}
