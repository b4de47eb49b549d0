// Package store keeps the service's records in SQLite: sources, the catalog
// with its versions, runs, and results with their rows. What each room of the library
// keeps is a package below it. Every change that belongs together is one transaction.
package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/gofrs/flock"

	"mantilla/store/cache"
	"mantilla/store/db"
)

// RecordsFile is the file of the records within the data directory.
const RecordsFile = "mantilla.db"

// Store is the records of one data directory. Each room of the library has its own
// part of them. It is safe for several goroutines.
type Store struct{ db *db.DB }

// Open opens the data directory, creating it and bringing its records up to
// date if need be. CacheBytes bounds the memory for decoded rows. It fails with
// [db.ErrInUse] when another process has the directory open.
func Open(ctx context.Context, dir string, cacheBytes int) (*Store, error) {
	return OpenOn(ctx, dir, cacheBytes, "")
}

// OpenOn is Open on a disk that SQLite knows by a name, see [storetest.Disk]; ""
// is the machine's own.
func OpenOn(ctx context.Context, dir string, cacheBytes int, disk string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return nil, fmt.Errorf("making the data directory: %w", err)
	}
	lock := flock.New(filepath.Join(dir, "lock"))
	if locked, err := lock.TryLock(); err != nil {
		return nil, fmt.Errorf("locking the data directory: %w", err)
	} else if !locked {
		return nil, fmt.Errorf("the data directory %s %w", dir, db.ErrInUse)
	}
	s := &Store{&db.DB{Lock: lock, Cache: cache.New(cacheBytes)}}
	if err := s.db.Open(ctx, filepath.Join(dir, RecordsFile), disk); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// Close closes the records and gives the data directory free.
func (s *Store) Close() error {
	var errs []error
	for _, side := range []*sql.DB{s.db.Read, s.db.Write} {
		if side != nil {
			errs = append(errs, side.Close())
		}
	}
	return errors.Join(append(errs, s.db.Lock.Unlock())...)
}
