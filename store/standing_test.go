package store

import (
	"os"
	"path/filepath"
	"testing"
)

// TestWhatIsFreeIsGivenBack to the disk, a little at a time, and what little there is stays.
func TestWhatIsFreeIsGivenBack(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir, 1<<20)
	exec := func(text string, args ...any) {
		t.Helper()
		if _, err := s.db.Write.Exec(text, args...); err != nil {
			t.Fatal(err)
		}
	}
	exec("create table filler (b blob)")
	for range 40 {
		exec("insert into filler values (zeroblob(1000000))")
	}
	exec("pragma wal_checkpoint(truncate)")
	exec("delete from filler")
	before, err := s.Standing().Space(t.Context(), now)
	if err != nil || before.Free < 30_000_000 || before.File < before.Free {
		t.Fatalf("it is %+v, %v", before, err)
	}
	rounds := 0
	for more := true; more; rounds++ {
		if more, err = s.Standing().GiveBack(t.Context()); err != nil || rounds > 100 {
			t.Fatal(rounds, err)
		}
	}
	exec("pragma wal_checkpoint(truncate)")
	after, err := s.Standing().Space(t.Context(), now)
	if err != nil || rounds < 2 || after.Free > 20_000_000 || after.File > before.File-15_000_000 {
		t.Errorf("after %d rounds it is %+v, %v", rounds, after, err)
	}
	if info, err := os.Stat(filepath.Join(dir, RecordsFile)); err != nil || info.Size() > before.File-15_000_000 {
		t.Errorf("the file has %d bytes, %v", info.Size(), err)
	}
}
