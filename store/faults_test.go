package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/ncruces/go-sqlite3/driver"
	"github.com/pressly/goose/v3"

	"mantilla/model"
	"mantilla/store/db"
	"mantilla/store/storetest"
)

// work is a run from asking to a letter that was sent. Each step may fail; what
// was done stays done when it is taken up again.
func work(ctx context.Context, s *Store) error {
	run, err := s.Runs().AddRun(ctx, model.Run{Report: "lots", AskedBy: "me", AskedAt: now, AfterCrash: "again"}, "key")
	if err != nil {
		return err
	}
	if run.State == model.Waiting {
		if run, err = s.Runs().Claim(ctx, now, 0); err != nil {
			return err
		}
	}
	if run.State == model.Running {
		c, err := keep(s, run.Number, 200)
		if err != nil {
			return errors.Join(err, s.Runs().Requeue(ctx, run.Number))
		}
		if _, err := c.Seal(ctx, run, model.Manifest{Report: "lots"}, nil, nil, now); err != nil {
			return errors.Join(err, s.Runs().Requeue(ctx, run.Number))
		}
	}
	if err := s.Sending().AddParcels(ctx, []model.Parcel{parcel("letter", "a")}); err != nil {
		return err
	}
	p, err := s.Sending().NextParcel(ctx, "mail", now, minute)
	if errors.Is(err, model.ErrNotFound) {
		return nil // it is being tried
	}
	if err != nil {
		return err
	}
	p.State = model.Sent
	return s.Sending().SettleParcel(ctx, p, now)
}

// TestEveryWriteMayFail lets each write of a piece of work fail in turn, once for
// want of space and once for a broken disk, and proves that it is told, that
// nothing is half-written, and that the work goes on when there is space again.
func TestEveryWriteMayFail(t *testing.T) {
	disk := storetest.NewDisk("faults")
	ctx := context.Background()
	for _, failure := range []error{storetest.Full, storetest.Broken} {
		for n, failed := 0, true; failed; n++ {
			dir := t.TempDir()
			disk.Fails(nil)
			s, err := OpenOn(ctx, dir, 1<<20, disk.Name)
			if err != nil {
				t.Fatal(err)
			}
			disk.Fails(func(write int) error {
				if write >= n && write < n+5 {
					return failure
				}
				return nil
			})
			err = work(ctx, s)
			failed = disk.Writes() > n
			if err != nil && !errors.Is(err, model.ErrFull) {
				t.Errorf("%v at write %d: %v", failure, n, err)
			}
			if _, err := s.Runs().Runs(ctx, model.RunWish{Sees: model.Sight{All: true}, Limit: 10}); err != nil {
				t.Errorf("%v at write %d: nothing can be read: %v", failure, n, err)
			}
			disk.Fails(nil)
			for range 3 {
				if err = work(ctx, s); err == nil {
					break
				}
			}
			if err != nil {
				t.Errorf("%v at write %d: the work does not go on: %v", failure, n, err)
			}
			r, err := s.Results().Result(ctx, 1)
			if err == nil {
				var good bool
				if good, err = s.Results().CheckSeal(ctx, r); err == nil && !good {
					err = errors.New("the seal does not agree")
				}
			}
			var sound string
			if err := errors.Join(err, s.db.Read.QueryRow(`pragma integrity_check`).Scan(&sound)); err != nil || sound != "ok" {
				t.Errorf("%v at write %d: %v, %s", failure, n, err, sound)
			}
			if all, err := s.Sending().Parcels(ctx, "", "", 0, 10); err != nil || len(all) != 1 {
				t.Errorf("%v at write %d: %d parcels, %v", failure, n, len(all), err)
			}
			if err := s.Close(); err != nil {
				t.Error(err)
			}
			if n > 500 {
				t.Fatal("the work has no end of writes")
			}
		}
	}
}

func TestAnOlderProgramRefusesNewerRecords(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir, 1<<20)
	if _, err := s.db.Write.Exec(fmt.Sprintf(`insert into %s (version_id, is_applied) values (99999, 1)`,
		goose.TableName())); err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(t.Context(), dir, 1<<20); !errors.Is(err, db.ErrNewer) {
		t.Errorf("got %v", err)
	}
	if _, err := os.Stat(filepath.Join(dir, RecordsFile)); err != nil {
		t.Error(err)
	}
}

func TestAnIdempotencyKeyIsOfOneBody(t *testing.T) {
	s := open(t, t.TempDir(), 1<<20)
	ask := model.Run{Report: "lots", Typed: map[string]string{"a": "1"}, AskedBy: "me", AskedAt: now}
	first, err := s.Runs().AddRun(t.Context(), ask, "key")
	if err != nil {
		t.Fatal(err)
	}
	if again, err := s.Runs().AddRun(t.Context(), ask, "key"); err != nil || again.Number != first.Number {
		t.Errorf("the same again: %d, %v", again.Number, err)
	}
	ask.Typed = map[string]string{"a": "2"}
	if _, err := s.Runs().AddRun(t.Context(), ask, "key"); !errors.Is(err, model.ErrKeyUsed) {
		t.Errorf("another body: %v", err)
	}
}

// TestEarlierRecordsAreCopied before they are brought up to date, and the copy is a way back.
func TestEarlierRecordsAreCopied(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, RecordsFile)
	if err := open(t, dir, 1<<20).Close(); err != nil {
		t.Fatal(err)
	}
	if files, err := filepath.Glob(path + ".of-*"); err != nil || len(files) != 0 {
		t.Errorf("new records are copied: %v, %v", files, err)
	}
	back(t, path)
	if err := os.WriteFile(path+".of-version-3", nil, 0o600); err != nil {
		t.Fatal(err)
	}
	asked(t, open(t, dir, 1<<20), "again")
	files, err := filepath.Glob(path + ".of-*")
	if err != nil || len(files) != 1 || !strings.HasSuffix(files[0], ".of-version-18") {
		t.Fatalf("the copies are %v, %v", files, err)
	}
	other := t.TempDir()
	text, err := os.ReadFile(files[0])
	if err == nil {
		err = os.WriteFile(filepath.Join(other, RecordsFile), text, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	if all, err := open(t, other, 1<<20).Runs().Runs(t.Context(), model.RunWish{Sees: model.Sight{All: true},
		Limit: 9}); err != nil || len(all) != 0 {
		t.Errorf("the copy has %d runs that came after it, %v", len(all), err)
	}
}

// back makes records those of version 18.
func back(t *testing.T, path string) {
	t.Helper()
	records, err := driver.Open("file:" + path)
	if err != nil {
		t.Fatal(err)
	}
	defer records.Close()
	steps, err := goose.NewProvider(goose.DialectSQLite3, records, os.DirFS("db/migrations"))
	if err == nil {
		_, err = steps.DownTo(t.Context(), 18)
	}
	if err != nil {
		t.Fatal(err)
	}
}
