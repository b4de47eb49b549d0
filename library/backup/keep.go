package backup

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"filippo.io/age"

	"mantilla/store/backup"
)

// Names of files: mantilla-20261015T030000Z.backup has everything; one that has what changed since
// another names the moment of that one too. The names order as the moments do.
const (
	stem   = "mantilla-"
	moment = "20060102T150405Z"
	after  = "-after-"
	ending = ".backup"
	sealed = ".age" // behind the name of one that is encrypted

	baseFile = "backup.base" // beside the records: what those to come lean on
)

// name is that of a back-up of a moment, which leans on a whole one or on none.
func (room *Room) name(at time.Time, base string) string {
	name := stem + at.UTC().Format(moment)
	if of, ok := parsed(base); ok {
		name += after + of.At.Format(moment)
	}
	if name += ending; len(room.readers) > 0 {
		name += sealed
	}
	return name
}

// parsed reads the name of a back-up.
func parsed(name string) (f File, ok bool) {
	plain := strings.TrimSuffix(name, sealed)
	said, is := strings.CutPrefix(strings.TrimSuffix(plain, ending), stem)
	if !is || !strings.HasSuffix(plain, ending) {
		return f, false
	}
	own, base, leans := strings.Cut(said, after)
	at, err := time.Parse(moment, own)
	if leans {
		f.After = stem + base + ending + strings.TrimPrefix(name, plain)
	}
	f.Name, f.At = name, at
	return f, err == nil
}

// files are those in the directory, the newest first.
func (room *Room) files() (out []File, err error) {
	entries, err := os.ReadDir(room.settings.Dir)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	for _, e := range entries {
		f, ok := parsed(e.Name())
		if info, gone := e.Info(); ok && gone == nil {
			f.Bytes = info.Size()
			out = append(out, f)
		}
	}
	slices.SortFunc(out, func(a, b File) int { return strings.Compare(b.Name, a.Name) })
	return out, err
}

// copied is a copy of the records in a file that is removed when it was written.
type copied struct {
	file  string
	about backup.About
	image backup.Image
}

// copy copies the records as they are now, while the room makes one.
func (room *Room) copy(ctx context.Context, at time.Time) (c copied, err error) {
	c.file = filepath.Join(room.dir, "backup.part")
	if err := os.Remove(c.file); err != nil && !errors.Is(err, os.ErrNotExist) { // of one that was cut off
		return c, err
	}
	if c.about, err = room.records.About(ctx); err == nil {
		err = room.records.CopyTo(ctx, c.file)
	}
	if err == nil {
		c.image, err = backup.Look(c.file)
	}
	c.about.At, c.about.Of, c.about.Program = at, room.org.Name, room.settings.Program
	if err != nil {
		return c, errors.Join(fmt.Errorf("copying the records: %w", err), c.remove())
	}
	return c, nil
}

func (c copied) remove() error {
	if err := os.Remove(c.file); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// keep makes a back-up in the directory and removes the oldest that are too many. It is there
// whole or not at all.
func (room *Room) keep(ctx context.Context) (f File, err error) {
	room.making.Lock()
	defer room.making.Unlock()
	if err := os.MkdirAll(room.settings.Dir, 0o750); err != nil {
		return f, err
	}
	at := room.org.Now().UTC().Truncate(time.Second)
	c, err := room.copy(ctx, at)
	if err != nil {
		return f, err
	}
	defer func() { err = errors.Join(err, c.remove()) }()
	base := room.base(c.image)
	f = File{Name: room.name(at, base.Name), At: at, After: base.Name}
	if f.Bytes, err = room.lay(f.Name, func(w io.Writer) error { return room.write(w, c, base) }); err != nil {
		return f, err
	}
	if f.After == "" && room.settings.Whole > 1 {
		base = backup.Base{Name: f.Name, Size: f.Bytes, For: room.whom(), Image: c.image}
		if err := backup.KeepBase(filepath.Join(room.dir, baseFile), base); err != nil {
			return f, fmt.Errorf("noting what the next back-up leans on: %w", err)
		}
	}
	return f, room.rotate()
}

// base is the whole back-up that the next leans on; none where that has to be whole itself: where so
// many lean on one already, where it is gone or for others, or where more than half has changed.
func (room *Room) base(now backup.Image) (none backup.Base) {
	if room.settings.Whole <= 1 {
		return none
	}
	b, ok := backup.KeptBase(filepath.Join(room.dir, baseFile))
	files, err := room.files()
	if !ok || err != nil || b.For != room.whom() || 2*len(now.Since(b.Image)) > len(now.Pages) {
		return none
	}
	there, leaning := false, 0
	for _, f := range files {
		if f.Name == b.Name && f.Bytes == b.Size {
			there = true
		}
		if f.After == b.Name {
			leaning++
		}
	}
	if !there || leaning >= room.settings.Whole-1 {
		return none
	}
	return b
}

// whom calls those for whom back-ups are encrypted.
func (room *Room) whom() string {
	if len(room.readers) == 0 {
		return ""
	}
	all := sha256.New()
	for _, r := range room.readers {
		fmt.Fprintln(all, r)
	}
	return hex.EncodeToString(all.Sum(nil))
}

// lay puts a file into the directory, whole or not at all, and returns its size in bytes.
func (room *Room) lay(name string, write func(w io.Writer) error) (int64, error) {
	to := filepath.Join(room.settings.Dir, name)
	out, err := os.OpenFile(to+".part", os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return 0, err
	}
	if err = write(out); err == nil {
		err = out.Sync()
	}
	if err = errors.Join(err, out.Close()); err == nil {
		err = os.Rename(to+".part", to)
	}
	if err != nil {
		return 0, errors.Join(err, os.Remove(to+".part"))
	}
	info, err := os.Stat(to)
	if err != nil {
		return 0, err
	}
	return info.Size(), nil
}

// rotate removes the oldest that are too many, but for those that others lean on.
func (room *Room) rotate() error {
	files, err := room.files()
	if err != nil {
		return err
	}
	needed := map[string]bool{}
	for i, f := range files {
		if i < room.settings.Keep {
			needed[f.Name], needed[f.After] = true, true
		}
	}
	for _, f := range files {
		if !needed[f.Name] {
			err = errors.Join(err, os.Remove(filepath.Join(room.settings.Dir, f.Name)))
		}
	}
	return err
}

// take copies the records as they are now and writes a back-up of all of them.
func (room *Room) take(ctx context.Context, w io.Writer, at time.Time) (err error) {
	room.making.Lock()
	defer room.making.Unlock()
	c, err := room.copy(ctx, at)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, c.remove()) }()
	return room.write(w, c, backup.Base{})
}

// write writes a copy, or what changed in it since a whole back-up, encrypted if that is wished.
func (room *Room) write(w io.Writer, c copied, base backup.Base) error {
	to := func(w io.Writer) error {
		if base.Name == "" {
			return backup.Write(w, c.about, c.image, c.file)
		}
		return backup.WriteChanges(w, c.about, c.image, base, c.file)
	}
	if len(room.readers) == 0 {
		return to(w)
	}
	closed, err := age.Encrypt(w, room.readers...)
	if err != nil {
		return err
	}
	return errors.Join(to(closed), closed.Close())
}
