package backup_test

import (
	"bytes"
	"context"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"mantilla/demo/demotest"
	"mantilla/library"
	of "mantilla/library/backup"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/store"
	"mantilla/store/backup"
)

var noon = time.Date(2026, 10, 15, 10, 0, 0, 0, time.UTC)

// world is a library that keeps back-ups, with its directories.
func world(t *testing.T, now *librarytest.Clock, every time.Duration) (l *library.Library, dir, kept string) {
	t.Helper()
	dir, kept = demotest.Loaded(t, now.Time()), filepath.Join(t.TempDir(), "backups")
	return librarytest.OpenWith(t, dir, now, func(s *library.Settings) {
		s.Backup = of.Settings{Dir: kept, Every: every, Keep: 2, Program: "a test"}
	}), dir, kept
}

// ran runs a small report.
func ran(t *testing.T, l *library.Library) {
	t.Helper()
	librarytest.RunWell(t, librarytest.Person(t, l, "runa"), capture.Ask{Report: "staff-list"})
}

// verified restores a back-up and reads all of it.
func verified(t *testing.T, file string) (a backup.About, v backup.Verified, dir string) {
	t.Helper()
	dir = t.TempDir()
	a, err := backup.Restore(file, "", dir)
	if err != nil {
		t.Fatal(err)
	}
	return a, verify(t, dir), dir
}

func verify(t *testing.T, dir string) backup.Verified {
	t.Helper()
	s, err := store.Open(t.Context(), dir, 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	v, err := s.Backup().Verify(t.Context(), func(int64) {})
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// TestABackupHasAllThatWasThereWhenItBegan takes one away while runs go on, and finds in it every
// result that there was before, whole.
func TestABackupHasAllThatWasThereWhenItBegan(t *testing.T) {
	l, _, kept := world(t, librarytest.At(noon), 0)
	for range 3 {
		ran(t, l)
	}
	ctx, stop := context.WithCancel(t.Context())
	var busy sync.WaitGroup
	runa := librarytest.Person(t, l, "runa")
	busy.Go(func() {
		for ctx.Err() == nil {
			run, err := runa.Capture.StartRun(t.Context(), capture.Ask{Report: "staff-list"})
			if err != nil {
				t.Error(err)
				return
			}
			librarytest.Ended(t, runa, run)
		}
	})
	file := filepath.Join(t.TempDir(), "taken.backup")
	var taken bytes.Buffer
	if err := librarytest.Person(t, l, "adda").Backup.Write(t.Context(), &taken); err != nil {
		t.Fatal(err)
	}
	f, err := librarytest.Person(t, l, "adda").Backup.Make(t.Context())
	stop()
	busy.Wait()
	if err != nil || f.Bytes == 0 {
		t.Fatalf("%+v, %v", f, err)
	}
	if err := os.WriteFile(file, taken.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, file := range []string{file, filepath.Join(kept, f.Name)} {
		a, v, _ := verified(t, file)
		if v.Results < 3 || len(v.Faults) > 0 || a.Program != "a test" || a.Schema == 0 || !a.At.Equal(noon) {
			t.Errorf("%s: %+v, %+v", file, a, v)
		}
	}
}

// TestARestoredServiceGoesOn opens what was restored, with its people and results, and runs more.
func TestARestoredServiceGoesOn(t *testing.T) {
	l, source, kept := world(t, librarytest.At(noon), 0)
	ran(t, l)
	f, err := librarytest.Person(t, l, "adda").Backup.Make(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	_, _, dir := verified(t, filepath.Join(kept, f.Name))
	s, err := store.Open(t.Context(), dir, 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	if name, err := s.Runs().Origin(t.Context(), "service", "another"); err != nil || name != "another" {
		t.Errorf("engines take it for the service that it is a copy of: %q, %v", name, err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if err := os.CopyFS(dir, only{os.DirFS(source)}); err != nil { // the files of sources are in no back-up
		t.Fatal(err)
	}
	again := librarytest.OpenWith(t, dir, librarytest.At(noon), func(*library.Settings) {})
	r, err := librarytest.Person(t, again, "runa").Reading.Result(t.Context(), 1)
	if err != nil || r.Report != "staff-list" {
		t.Errorf("the first result is %+v, %v", r, err)
	}
	ran(t, again)
	if _, err := backup.Restore(filepath.Join(kept, f.Name), "", dir); err == nil || !strings.Contains(err.Error(),
		"records already") {
		t.Errorf("restored over records: %v", err)
	}
}

// TestDamageIsFound refuses a back-up that was cut off or changed, and finds a cell that was changed
// in records, by its result.
func TestDamageIsFound(t *testing.T) {
	l, _, kept := world(t, librarytest.At(noon), 0)
	ran(t, l)
	ran(t, l)
	f, err := librarytest.Person(t, l, "adda").Backup.Make(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	whole, err := os.ReadFile(filepath.Join(kept, f.Name))
	if err != nil {
		t.Fatal(err)
	}
	changed := bytes.Clone(whole)
	for i := range 64 { // a single bit may be one that compression leaves unused, which changes nothing
		changed[len(changed)/2+i] ^= 0xff
	}
	for what, text := range map[string][]byte{"cut off": whole[:len(whole)-100], "changed": changed, "empty": nil,
		"another file": []byte("report: lots\n")} {
		file, dir := filepath.Join(t.TempDir(), "x.backup"), t.TempDir()
		if err := os.WriteFile(file, text, 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := backup.Restore(file, "", dir); err == nil || !strings.Contains(err.Error(),
			"no back-up, or not a whole one") {
			t.Errorf("%s: %v", what, err)
		}
		if left, err := os.ReadDir(dir); err != nil || len(left) > 0 {
			t.Errorf("%s: %v were left, %v", what, left, err)
		}
	}
	_, v, dir := verified(t, filepath.Join(kept, f.Name))
	if len(v.Faults) > 0 {
		t.Fatal(v.Faults)
	}
	librarytest.Exec(t, dir, "update cells set data = substr(data, 1, length(data) - 1) || x'00' where rowid = "+
		"(select max(rowid) from cells)")
	librarytest.Exec(t, dir, "pragma foreign_keys = off; delete from person where name = 'runa'")
	v = verify(t, dir)
	told := strings.Join(v.Faults, "\n")
	named := regexp.MustCompile(`R-000002 \(Staff list\): \w+ in rows 1 to \d+ of staff: not what was sealed`)
	if !named.MatchString(told) || strings.Contains(told, "R-000001") || v.Results != 2 {
		t.Errorf("it is found that %s", told)
	}
	librarytest.Exec(t, dir, "update batch set data = x'00' where run = (select min(run) from batch)")
	if told := strings.Join(verify(t, dir).Faults, "\n"); !strings.Contains(told, "R-000001 (Staff list): rows 1 to ") {
		t.Errorf("it is found that %s", told)
	}
}

// TestBackupsAreMadeByThemselves makes one when it is due and removes the oldest.
func TestBackupsAreMadeByThemselves(t *testing.T) {
	now := librarytest.At(noon)
	l, _, _ := world(t, now, time.Hour)
	adda := librarytest.Person(t, l, "adda")
	files := func() (names []string) {
		s, err := adda.Backup.State()
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range s.Files {
			names = append(names, f.Name)
		}
		return names
	}
	librarytest.Until(t, "the first is made", func() bool { return len(files()) == 1 })
	for hour := range 3 {
		now.Set(noon.Add(time.Duration(hour+1) * time.Hour))
		if _, err := adda.Backup.Make(t.Context()); err != nil {
			t.Fatal(err)
		}
	}
	if got := strings.Join(files(), " "); got != "mantilla-20261015T130000Z.backup mantilla-20261015T120000Z.backup" {
		t.Errorf("there are %s", got)
	}
	if _, err := librarytest.Person(t, l, "lila").Backup.State(); err == nil {
		t.Error("a librarian sees back-ups")
	}
}

// TestWhoKeepsTheServiceIsToldOfBackupsThatAreNotMade tells administrators once, and once more when
// they are made again.
func TestWhoKeepsTheServiceIsToldOfBackupsThatAreNotMade(t *testing.T) {
	blocked := filepath.Join(t.TempDir(), "a file")
	if err := os.WriteFile(blocked, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	l := librarytest.OpenWith(t, demotest.Loaded(t, noon), librarytest.At(noon), func(s *library.Settings) {
		s.Backup = of.Settings{Dir: filepath.Join(blocked, "backups"), Every: time.Hour}
	})
	adda := librarytest.Person(t, l, "adda")
	librarytest.Until(t, "it is told", func() bool {
		return strings.Contains(librarytest.Told(t, adda),
			"No back-up was made: ")
	})
	s, err := adda.Backup.State()
	if err != nil || s.Fault == "" || !s.FaultAt.Equal(noon) {
		t.Errorf("it stands at %+v, %v", s, err)
	}
	if told := librarytest.Told(t, librarytest.Person(t, l, "lila")); strings.Contains(told, "back-up") {
		t.Errorf("a librarian is told %s", told)
	}
	if err := os.Remove(blocked); err != nil {
		t.Fatal(err)
	}
	if _, err := adda.Backup.Make(t.Context()); err != nil {
		t.Fatal(err)
	}
	if told := librarytest.Told(t, adda); !strings.Contains(told, "Back-ups are made again.") {
		t.Errorf("told is %s", told)
	}
}

// TestAnEncryptedBackupOpensWithItsKey and with no other, and is told apart from one that is not.
func TestAnEncryptedBackupOpensWithItsKey(t *testing.T) {
	keys, kept, now := t.TempDir(), t.TempDir(), librarytest.At(noon)
	own, other := filepath.Join(keys, "own"), filepath.Join(keys, "other")
	public, err := backup.NewKey(own)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := backup.NewKey(other); err != nil {
		t.Fatal(err)
	}
	if _, err := backup.NewKey(own); err == nil {
		t.Error("a key was written over")
	}
	readers := filepath.Join(keys, "for")
	if err := os.WriteFile(readers, []byte("# who opens them\n"+public+"\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	l := librarytest.OpenWith(t, demotest.Loaded(t, noon), now, func(s *library.Settings) {
		s.Backup = of.Settings{Dir: kept, For: readers}
	})
	f, err := librarytest.Person(t, l, "adda").Backup.Make(t.Context())
	if err != nil || !strings.HasSuffix(f.Name, ".backup.age") {
		t.Fatalf("%+v, %v", f, err)
	}
	file := filepath.Join(kept, f.Name)
	for key, says := range map[string]string{own: "", other: "another key", "": "--key", readers: "no key that opens"} {
		if _, err := backup.Restore(file, key, t.TempDir()); says == "" && err != nil ||
			says != "" && (err == nil || !strings.Contains(err.Error(), says)) {
			t.Errorf("by %q: %v", filepath.Base(key), err)
		}
	}
	text, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	text[len(text)-10] ^= 1
	if err := os.WriteFile(file, text, 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := backup.Restore(file, own, t.TempDir()); err == nil || !strings.Contains(err.Error(), "not a whole one") {
		t.Errorf("one that was changed: %v", err)
	}
}

// only is the files of sources of a data directory.
type only struct{ fs.FS }

// ReadDir leaves out the service's own records.
func (o only) ReadDir(name string) ([]fs.DirEntry, error) {
	all, err := fs.ReadDir(o.FS, name)
	return slices.DeleteFunc(all, func(e fs.DirEntry) bool {
		return strings.HasPrefix(e.Name(), "mantilla") || e.Name() == "lock" || e.Name() == "exports"
	}), err
}
