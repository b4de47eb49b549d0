package files

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"sync"
	"time"

	"mantilla/core/rescue"
	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/library/notices"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/files"
)

// between is how long folders are not looked into again.
const between = 5 * time.Second

// Watch takes the files that come by themselves, until the work ends. Each table is looked after
// by itself, so that a slow server keeps no other waiting.
func (room *Room) Watch(work *background.Work) {
	asked := map[string]time.Time{} // when it was looked last
	for {
		for _, s := range room.catalog.AllSources() {
			if s.Config.Kind == kind && work.Context().Err() == nil {
				room.watch(work, s.Config, asked)
			}
		}
		if !work.Sleep(between, nil) {
			return
		}
	}
}

func (room *Room) watch(work *background.Work, c *source.Config, asked map[string]time.Time) {
	ctx := work.Context()
	for table, t := range c.Tables {
		key := c.ID + " " + table
		if t.From == nil || time.Since(asked[key]) < t.From.Pause() {
			continue
		}
		looking := room.looking(key)
		if !looking.TryLock() {
			continue // it is still looked for the file, or somebody else looks
		}
		asked[key] = time.Now()
		work.Go(func() {
			defer looking.Unlock()
			err := rescue.Call(func() error { _, err := room.look(ctx, c, table, false); return err })
			if err != nil && ctx.Err() == nil {
				room.log.Error("looking for a file", "source", c.ID, "table", table, "error", err)
			}
		})
	}
}

// looking is the lock that is held while it is looked for a file of a table, so that none is
// taken twice.
func (room *Room) looking(key string) *sync.Mutex {
	of, _ := room.looks.LoadOrStore(key, &sync.Mutex{})
	return of.(*sync.Mutex)
}

// LookNow looks at once for a file that comes by itself for a table, and takes it; one that was
// not taken before is tried again.
func (a *Access) LookNow(ctx context.Context, id, table string) (model.FileLook, error) {
	c, err := a.table(id, table)
	if err != nil {
		return model.FileLook{}, err
	}
	if c.Tables[table].From == nil {
		return model.FileLook{}, model.Refuse("table", "no files come by themselves for %s; people bring them", table)
	}
	looking := a.room.looking(id + " " + table)
	looking.Lock()
	defer looking.Unlock()
	return a.room.look(ctx, c, table, true)
}

// Looked tells what became of the last look for a file of a table.
func (a *Access) Looked(ctx context.Context, id, table string) (model.FileLook, error) {
	return a.room.records.Looked(ctx, id, table)
}

// lately is how long ago a look may be that is not written down when nothing came of it.
const lately = time.Minute

// look takes a file that came, and keeps what became of it. What is wrong with a file, or with
// where it comes from, is told there; the error is of the records alone. The table's lock is held.
func (room *Room) look(ctx context.Context, c *source.Config, table string, again bool) (model.FileLook, error) {
	l, err := room.records.Looked(ctx, c.ID, table)
	if err != nil {
		return l, err
	}
	last := l.State
	if again && l.Fault != "" {
		l.State = ""
	}
	came, err := room.arrived(ctx, c, c.Tables[table].From, l.State)
	if ctx.Err() != nil {
		return l, context.Cause(ctx)
	}
	was := l
	l.At = room.org.Now()
	switch {
	case err != nil:
		l.Fault, l.State = err.Error(), "" // it is read anew once it is there again
	case came != nil:
		if err := room.taken(ctx, c, came, &l); err != nil {
			return was, err
		}
	case l.State == "":
		l.Fault = "" // nothing came yet
	}
	if l.Fault != "" && l.Fault != was.Fault {
		room.log.WarnContext(ctx, "a file was not taken", "source", c.ID, "table", table, "error", l.Fault)
	}
	// Words of the same fault may differ from look to look; another file is another matter.
	another := came != nil && came.State != last
	if l.Fault != "" && (was.Fault == "" || another) || l.Fault == "" && was.Fault != "" {
		room.tell(ctx, c, l)
	}
	unchanged := l.State == was.State && l.Digest == was.Digest && l.Fault == was.Fault
	if unchanged && !again && l.At.Sub(was.At) < lately {
		return l, nil
	}
	return l, room.records.PutLook(ctx, l)
}

// tell tells who keeps the catalog what became of a file that comes by itself.
func (room *Room) tell(ctx context.Context, c *source.Config, l model.FileLook) {
	says := "is taken again."
	if l.Fault != "" {
		says = "is missing: " + l.Fault
	}
	title := c.Title
	if title == "" {
		title = c.ID
	}
	keepers, err := room.people.WhoMay(ctx, access.KeepCatalog)
	if err == nil {
		err = room.notices.Tell(ctx, "", keepers, notices.Subject{About: "file", Place: "/office?desk=sources"},
			"The file of “%s” for %s %s", l.Table, title, says)
	}
	if err != nil {
		room.log.ErrorContext(ctx, "telling of a file that comes by itself", "source", c.ID, "table", l.Table, "error", err)
	}
}

func (room *Room) arrived(ctx context.Context, c *source.Config, from *source.FileFrom, state string) (*files.Arrival,
	error) {
	if from.List == "" {
		return files.Arrived(ctx, from, source.Place{Dir: room.dir, Secrets: room.secrets}, state)
	}
	if from.Source == c.ID {
		return nil, errors.New("a table is not made of a list of its own source")
	}
	of, err := room.catalog.Source(from.Source)
	if err != nil {
		return nil, err
	}
	return files.Listed(ctx, of, of.Config, from.List, state)
}

// taken takes a file that came, unless it is the one that was taken last.
func (room *Room) taken(ctx context.Context, c *source.Config, came *files.Arrival, l *model.FileLook) error {
	l.State = came.State
	sum := sha256.Sum256(came.Data)
	digest := hex.EncodeToString(sum[:])
	if digest == l.Digest {
		l.Fault = ""
		return nil
	}
	_, err := room.take(ctx, c, l.Table, came.Name, came.Data, "")
	refusal, unfit := errors.AsType[*Refused](err)
	other, wrong := errors.AsType[*model.Refused](err)
	switch {
	case unfit:
		l.Fault = fmt.Sprintf("%s was not taken; lines that do not fit: %d; %s", came.Name, refusal.Told.Left,
			firstOf(map[string]files.Told{l.Table: refusal.Told}))
	case wrong:
		l.Fault = fmt.Sprintf("%s was not taken: %v", came.Name, other)
	case err != nil:
		return err
	default:
		l.Fault, l.Digest = "", digest
	}
	return nil
}
