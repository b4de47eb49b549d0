package backup_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/demo/demotest"
	"mantilla/library"
	of "mantilla/library/backup"
	"mantilla/library/librarytest"
	"mantilla/store/backup"
)

// stepping is a library of which every third back-up has everything, and makes one at an hour.
func stepping(t *testing.T, keep int, readers string) (l *library.Library, kept string, do func(hour int) of.File) {
	t.Helper()
	kept = filepath.Join(t.TempDir(), "backups")
	now := librarytest.At(noon)
	l = librarytest.OpenWith(t, demotest.Loaded(t, noon), now, func(s *library.Settings) {
		s.Backup = of.Settings{Dir: kept, Keep: keep, Whole: 3, For: readers}
	})
	return l, kept, func(hour int) of.File {
		now.Set(noon.Add(time.Duration(hour) * time.Hour))
		ran(t, l)
		f, err := librarytest.Person(t, l, "adda").Backup.Make(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
}

// TestABackupHasWhatChanged is small where little changed, brings back everything by the whole one
// beside it, and is whole again when so many lean on one, or that one is gone.
func TestABackupHasWhatChanged(t *testing.T) {
	_, kept, do := stepping(t, 20, "")
	var all []of.File
	for hour := range 5 {
		all = append(all, do(hour))
	}
	whole := []bool{true, false, false, true, false}
	for i, f := range all {
		if (f.After == "") != whole[i] {
			t.Errorf("the %dth leans on %q", i+1, f.After)
		}
		if f.After != "" && f.Bytes > all[0].Bytes/4 {
			t.Errorf("what changed by one run is %d bytes, everything %d", f.Bytes, all[0].Bytes)
		}
		if _, v, _ := verified(t, filepath.Join(kept, f.Name)); v.Results != int64(i+1) || len(v.Faults) > 0 {
			t.Errorf("%s has %+v", f.Name, v)
		}
	}
	if err := os.Remove(filepath.Join(kept, all[3].Name)); err != nil {
		t.Fatal(err)
	}
	if f := do(5); f.After != "" {
		t.Errorf("it leans on %s, which is gone", f.After)
	}
}

// TestWhatOthersLeanOnStays keeps a whole back-up that is too old as long as one needs it.
func TestWhatOthersLeanOnStays(t *testing.T) {
	l, _, do := stepping(t, 2, "")
	for hour, want := range []string{"10", "11<10 10", "12<10 11<10 10", "13 12<10 10", "14<13 13", "15<13 14<13 13"} {
		do(hour)
		s, err := librarytest.Person(t, l, "adda").Backup.State()
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, f := range s.Files {
			name := f.At.Format("15")
			if f.After != "" {
				name += "<" + strings.TrimPrefix(f.After, "mantilla-20261015T")[:2]
			}
			got = append(got, name)
		}
		if strings.Join(got, " ") != want {
			t.Errorf("after %d hours there are %v, want %s", hour, got, want)
		}
	}
}

// TestWhatChangedNeedsItsOwnBase tells which file is missing, or is another, and leaves nothing.
func TestWhatChangedNeedsItsOwnBase(t *testing.T) {
	_, kept, do := stepping(t, 20, "")
	base, step := do(0), do(1)
	refused := func(file, says string) {
		t.Helper()
		dir := t.TempDir()
		_, err := backup.Restore(file, "", dir)
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%v does not say %s", err, says)
		}
		if left, err := os.ReadDir(dir); err != nil || len(left) > 0 {
			t.Errorf("%v were left, %v", left, err)
		}
	}
	alone := filepath.Join(t.TempDir(), step.Name)
	copied(t, filepath.Join(kept, step.Name), alone)
	refused(alone, "has only what changed since "+base.Name+", which has to lie beside it: there is no file")
	_, elsewhere, other := stepping(t, 20, "")
	copied(t, filepath.Join(elsewhere, other(0).Name), filepath.Join(filepath.Dir(alone), base.Name))
	refused(alone, "has what changed since another "+base.Name)
	text, err := os.ReadFile(filepath.Join(kept, step.Name))
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(kept, step.Name), text[:len(text)-50], 0o600); err != nil {
		t.Fatal(err)
	}
	refused(filepath.Join(kept, step.Name), "is no back-up, or not a whole one")
}

func copied(t *testing.T, from, to string) {
	t.Helper()
	text, err := os.ReadFile(from)
	if err == nil {
		err = os.WriteFile(to, text, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
}

// TestWhatChangedIsEncryptedAsItsBase opens both with one key.
func TestWhatChangedIsEncryptedAsItsBase(t *testing.T) {
	keys := t.TempDir()
	own, readers := filepath.Join(keys, "own"), filepath.Join(keys, "for")
	public, err := backup.NewKey(own)
	if err == nil {
		err = os.WriteFile(readers, []byte(public+"\n"), 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	_, kept, do := stepping(t, 20, readers)
	base, step := do(0), do(1)
	if step.After != base.Name || !strings.HasSuffix(step.Name, ".backup.age") {
		t.Fatalf("%+v after %+v", step, base)
	}
	if a, err := backup.Restore(filepath.Join(kept, step.Name), own, t.TempDir()); err != nil || a.After != base.Name {
		t.Errorf("%+v, %v", a, err)
	}
	if _, err := backup.Restore(filepath.Join(kept, step.Name), "", t.TempDir()); err == nil ||
		!strings.Contains(err.Error(), "--key") {
		t.Errorf("without its key: %v", err)
	}
}
