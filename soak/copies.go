package main

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"mantilla/model"
	"mantilla/store"
	"mantilla/store/backup"
)

// backedUp is a back-up that was taken as everything went on, with what had been promised before it began.
type backedUp struct {
	file  string
	runs  map[string]string
	edits map[string][]string
}

// backUp takes a back-up away after the power failed, while everybody goes on.
func (s *soak) backUp(ctx context.Context) error {
	s.books.mu.Lock()
	b := backedUp{file: filepath.Join(s.dir, fmt.Sprintf("soak-%d.backup", len(s.copies))), runs: maps.Clone(s.books.runs),
		edits: maps.Clone(s.books.edits)}
	s.books.mu.Unlock()
	r, err := s.crowd.as("adda").until(ctx, http.StatusOK, "GET", "/backup", nil)
	if err != nil {
		return fmt.Errorf("taking a back-up: %w", err)
	}
	s.copies = append(s.copies, b)
	return os.WriteFile(b.file, r.body, 0o600)
}

// copiesRight restores each back-up, proves what is in it, and looks for everything that had been promised
// before it began.
func (s *soak) copiesRight(ctx context.Context) (err error) {
	for _, b := range s.copies {
		err = errors.Join(err, b.right(ctx, b.file+".restored"))
	}
	return err
}

func (b backedUp) right(ctx context.Context, dir string) (err error) {
	if _, err := backup.Restore(b.file, "", dir); err != nil {
		return err
	}
	records, err := store.Open(ctx, dir, 16<<20)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	v, err := records.Backup().Verify(ctx, func(int64) {})
	if err != nil || len(v.Faults) > 0 {
		return fmt.Errorf("the back-up %s: %s, %w", b.file, strings.Join(v.Faults, "; "), err)
	}
	for _, run := range b.runs {
		number, _ := strconv.ParseInt(strings.TrimPrefix(run, "RUN-"), 10, 64)
		if _, is := records.Runs().Run(ctx, number); is != nil {
			err = errors.Join(err, fmt.Errorf("the back-up %s has no %s: %w", b.file, run, is))
		}
	}
	for id := range b.edits {
		number, _ := strconv.ParseInt(strings.TrimPrefix(id, "C-"), 10, 64)
		if _, is := records.Criteria().CriteriaOf(ctx, number, "runa"); errors.Is(is, model.ErrNotFound) {
			err = errors.Join(err, fmt.Errorf("the back-up %s has no criteria %s", b.file, id))
		}
	}
	return err
}
