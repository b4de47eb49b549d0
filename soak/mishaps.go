package main

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/demo"
)

// mishap is something that goes wrong for a while.
type mishap struct {
	name  string
	begin func(ctx context.Context) error
	end   func() error // nil where it ends by itself
}

// mishaps are all that go wrong.
func (s *soak) mishaps() []mishap {
	full := filepath.Join(s.dir, fullFile)
	var held *sqlite3.Conn
	return []mishap{
		{"the power fails", func(ctx context.Context) error {
			if err := s.keeper.kill(ctx); err != nil {
				return err
			}
			return s.backUp(ctx)
		}, nil},
		{"the disk is full", func(context.Context) error { return os.WriteFile(full, nil, 0o600) },
			func() error { return os.Remove(full) }},
		{"the mail server is slow", func(context.Context) error { s.wire.slow.Store(true); return nil },
			func() error { s.wire.slow.Store(false); return nil }},
		{"the mail server is dead", func(context.Context) error { s.wire.dead.Store(true); return nil },
			func() error { s.wire.dead.Store(false); return nil }},
		{"the source hangs", func(context.Context) (err error) {
			held, err = sqlite3.Open("file:" + filepath.Join(s.dir, demo.SourceFile))
			if err == nil {
				err = errors.Join(held.BusyTimeout(time.Second), held.Exec(`begin exclusive`))
			}
			if errors.Is(err, sqlite3.BUSY) { // it is being read all the time
				return nil
			}
			return err
		}, func() error { return held.Close() }},
		{"the clock is set forth", func(context.Context) error { return s.setClock(26 * 3600) }, nil},
		{"the clock is set back", func(context.Context) error { return s.setClock(-2 * 3600) }, nil},
	}
}

// setClock sets the clock forth or back by so many seconds.
func (s *soak) setClock(by int64) error {
	s.ahead += by
	path := filepath.Join(s.dir, clockFile)
	if err := os.WriteFile(path+".new", fmt.Append(nil, s.ahead), 0o600); err != nil {
		return err
	}
	return os.Rename(path+".new", path)
}

// goWrong has one thing after another go wrong, in any order, the power failing only in the first part, so
// that what the service takes can be followed in the second.
func (s *soak) goWrong(ctx context.Context, length time.Duration) error {
	begun, long := time.Now(), min(max(length/20, time.Second), 5*time.Second)
	all := s.mishaps()
	for ctx.Err() == nil {
		order := rand.Perm(len(all))
		if len(s.happened) == 0 { // the power fails once at least, and early
			at := slices.Index(order, 0)
			order[0], order[at] = order[at], order[0]
		}
		for _, at := range order {
			m := all[at]
			if at == 0 && time.Since(begun) > length/2 {
				continue
			}
			pause(ctx, long/2)
			if ctx.Err() != nil {
				return nil
			}
			s.happened[m.name]++
			if err := m.begin(ctx); err != nil && ctx.Err() == nil {
				return fmt.Errorf("%s: %w", m.name, err)
			}
			pause(ctx, long)
			if m.end != nil {
				if err := m.end(); err != nil {
					return fmt.Errorf("%s no more: %w", m.name, err)
				}
			}
		}
	}
	return nil
}
