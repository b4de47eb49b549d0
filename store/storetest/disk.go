// Package storetest has a disk for tests that fails when it is told to: full, or
// broken, from one write on or for one write only.
package storetest

import (
	"sync"

	"github.com/ncruces/go-sqlite3"
	"github.com/ncruces/go-sqlite3/util/vfsutil"
	"github.com/ncruces/go-sqlite3/vfs"
)

// Disk is where records lie; [store.OpenOn] opens them there by its name. It
// counts what is written and fails as Fails says.
type Disk struct {
	Name string

	mu     sync.Mutex // guards what follows
	writes int
	fails  func(write int) error
}

// NewDisk makes a disk under a name of its own.
func NewDisk(name string) *Disk {
	d := &Disk{Name: name}
	vfs.Register(name, disk{vfs.Find(""), d})
	return d
}

// Fails says what becomes of each write from now on, which are counted from 0;
// nil lets all succeed.
func (d *Disk) Fails(of func(write int) error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.writes, d.fails = 0, of
}

// Full is the failure of a disk without space.
var Full error = sqlite3.FULL

// Broken is the failure of a disk that cannot be written.
var Broken error = sqlite3.IOERR_WRITE

// Writes returns how many writes there were since [Disk.Fails].
func (d *Disk) Writes() int {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.writes
}

func (d *Disk) written() error {
	d.mu.Lock()
	defer d.mu.Unlock()
	n := d.writes
	d.writes++
	if d.fails == nil {
		return nil
	}
	return d.fails(n)
}

type disk struct {
	vfs.VFS
	*Disk
}

func (d disk) Open(name string, flags vfs.OpenFlag) (vfs.File, vfs.OpenFlag, error) {
	f, flags, err := vfsutil.WrapOpen(d.VFS, name, flags)
	if err != nil {
		return nil, flags, err
	}
	return file{f, d.Disk}, flags, nil
}

func (d disk) OpenFilename(name *vfs.Filename, flags vfs.OpenFlag) (vfs.File, vfs.OpenFlag, error) {
	f, flags, err := vfsutil.WrapOpenFilename(d.VFS, name, flags)
	if err != nil {
		return nil, flags, err
	}
	return file{f, d.Disk}, flags, nil
}

type file struct {
	vfs.File
	disk *Disk
}

func (f file) WriteAt(p []byte, off int64) (int, error) {
	if err := f.disk.written(); err != nil {
		return 0, err
	}
	return f.File.WriteAt(p, off)
}

func (f file) Sync(flags vfs.SyncFlag) error {
	if err := f.disk.written(); err != nil {
		return err
	}
	return f.File.Sync(flags)
}

func (f file) Truncate(size int64) error { return f.File.Truncate(size) }

// Unwrap and what follows let SQLite do with the file what it does with one of
// the machine's.
func (f file) Unwrap() vfs.File                { return f.File }
func (f file) SharedMemory() vfs.SharedMemory  { return vfsutil.WrapSharedMemory(f.File) }
func (f file) LockState() vfs.LockLevel        { return vfsutil.WrapLockState(f.File) }
func (f file) PersistWAL() bool                { return vfsutil.WrapPersistWAL(f.File) }
func (f file) SetPersistWAL(keep bool)         { vfsutil.WrapSetPersistWAL(f.File, keep) }
func (f file) PowersafeOverwrite() bool        { return vfsutil.WrapPowersafeOverwrite(f.File) }
func (f file) SetPowersafeOverwrite(safe bool) { vfsutil.WrapSetPowersafeOverwrite(f.File, safe) }
