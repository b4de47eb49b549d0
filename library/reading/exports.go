package reading

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"time"

	"mantilla/library/background"
	"mantilla/model"
	"mantilla/render"
)

// Export is a file that is written in the background, to be fetched when it is
// whole. It is there for an hour and not longer than the service runs.
type Export struct {
	ID       string
	Result   int64
	Name     string
	Type     string
	State    model.State
	Progress render.Progress
	Reason   string
	MadeAt   time.Time

	owner string
	path  string
	stop  context.CancelCauseFunc
}

// exportsLast is how long a written file can be fetched.
const exportsLast = time.Hour

// exports are all files under way and written, by id.
type exports struct {
	dir     string
	mu      sync.Mutex
	known   map[string]*Export
	watched map[string]map[background.Bell]struct{} // told of each change, by id
	working sync.WaitGroup
}

// openExports sweeps away what an earlier service left.
func openExports(dir string) (*exports, error) {
	if err := errors.Join(os.RemoveAll(dir), os.MkdirAll(dir, 0o750)); err != nil {
		return nil, fmt.Errorf("making room for files to take away: %w", err)
	}
	return &exports{dir: dir, known: map[string]*Export{}, watched: map[string]map[background.Bell]struct{}{}}, nil
}

// close stops what is under way.
func (x *exports) close() {
	x.mu.Lock()
	for _, e := range x.known {
		e.stop(errors.New("the service was shut down"))
	}
	x.mu.Unlock()
	x.working.Wait()
}

// sweep forgets files that nobody fetched for long.
func (x *exports) sweep(now time.Time) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for id, e := range x.known {
		if e.State.Ended() && now.Sub(e.MadeAt) > exportsLast {
			os.Remove(e.path)
			delete(x.known, id)
		}
	}
}

// update changes what is known of an export and tells who watches.
func (x *exports) update(id string, change func(*Export)) {
	x.mu.Lock()
	defer x.mu.Unlock()
	change(x.known[id])
	for ch := range x.watched[id] {
		ch.Ring()
	}
}

// StartExport begins to write a file.
func (a *Access) StartExport(ctx context.Context, r *Result, take Take) (Export, error) {
	now := a.room.org.Now()
	a.room.exports.sweep(now)
	if n := a.room.exports.underWay(a.Person().Name); n >= mostUnderWay {
		return Export{}, model.TooMuch("%d files of yours are being written; wait for one to end, or stop one", n)
	}
	working, stop := context.WithCancelCause(a.room.work.Context())
	file, err := a.TakeAway(working, r, take)
	if err != nil {
		stop(nil)
		return Export{}, err
	}
	id := "X-" + model.NewSecret()[:12]
	e := &Export{ID: id, Result: r.Number, Name: file.Name, Type: file.Type, State: model.Running, MadeAt: now,
		owner: a.Person().Name,
		path:  filepath.Join(a.room.exports.dir, id), stop: stop, Progress: render.Progress{Of: file.Lines}}
	a.room.exports.mu.Lock()
	a.room.exports.known[id] = e
	begun := *e
	a.room.exports.mu.Unlock()
	a.room.exports.working.Go(func() {
		defer stop(nil)
		var done render.Progress
		err := a.room.work.Guard(func() (err error) {
			done, err = a.writeExport(working, e, file)
			return err
		})
		a.room.exports.update(id, func(e *Export) {
			e.Progress, e.State = done, model.Done
			switch {
			case errors.Is(err, errExportStopped):
				e.State = model.Stopped
			case err != nil:
				e.State, e.Reason = model.Failed, err.Error()
			}
		})
	})
	return begun, nil
}

// mostUnderWay is how many files of one person are written at once.
const mostUnderWay = 4

// underWay counts a person's files that are being written.
func (x *exports) underWay(owner string) (n int) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for _, e := range x.known {
		if e.owner == owner && !e.State.Ended() {
			n++
		}
	}
	return n
}

var errExportStopped = errors.New("the file was stopped")

func (a *Access) writeExport(ctx context.Context, e *Export, file *File) (done render.Progress, err error) {
	out, err := os.OpenFile(e.path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return done, err
	}
	told := time.Now()
	done, err = file.Write(ctx, out, func(p render.Progress) {
		if time.Since(told) > 100*time.Millisecond {
			told = time.Now()
			a.room.exports.update(e.ID, func(e *Export) { e.Progress = p })
		}
	})
	if err = errors.Join(err, out.Close()); err != nil {
		err = errors.Join(err, os.Remove(e.path))
	}
	return done, err
}

// Export returns a file of the person's.
func (a *Access) Export(id string) (Export, error) {
	a.room.exports.mu.Lock()
	defer a.room.exports.mu.Unlock()
	e := a.room.exports.known[id]
	if e == nil || e.owner != a.Person().Name {
		return Export{}, model.NoSuch("file under way", id, nil)
	}
	return *e, nil
}

// WatchExport returns a channel that is told of changes of a file; call end
// when it is no longer wanted.
func (a *Access) WatchExport(id string) (changes <-chan struct{}, end func(), err error) {
	if _, err := a.Export(id); err != nil {
		return nil, nil, err
	}
	x, ch := a.room.exports, background.NewBell()
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.watched[id] == nil {
		x.watched[id] = map[background.Bell]struct{}{}
	}
	x.watched[id][ch] = struct{}{}
	return ch, func() {
		x.mu.Lock()
		defer x.mu.Unlock()
		if delete(x.watched[id], ch); len(x.watched[id]) == 0 {
			delete(x.watched, id)
		}
	}, nil
}

// StopExport ends a file that is under way; one that is written stays.
func (a *Access) StopExport(id string) (Export, error) {
	e, err := a.Export(id)
	if err == nil {
		e.stop(errExportStopped)
	}
	return e, err
}

// OpenExport opens a written file.
// The person must still see its result.
func (a *Access) OpenExport(ctx context.Context, id string) (Export, *os.File, error) {
	e, err := a.Export(id)
	if err != nil {
		return e, nil, err
	}
	if _, err := a.Result(ctx, e.Result); err != nil {
		return e, nil, err
	}
	if e.State != model.Done {
		return e, nil, model.Refuse("export", "the file %s is not written; it is %s", e.Name, e.State)
	}
	f, err := os.Open(e.path)
	return e, f, err
}
