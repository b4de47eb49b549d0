package cli_test

import (
	"os"
	"path/filepath"
	"testing"

	"mantilla/demo/demotest"
)

// TestBackupsAreTakenAway copies the records by the command line, for those who may.
func TestBackupsAreTakenAway(t *testing.T) {
	s, to := demotest.Start(t), t.TempDir()
	follow(t, s, []step{
		{"lila", "backup", 7, "needs the role administrator"},
		{"lila", "backup take " + to, 7, "needs the role administrator"},
		{"adda", "backup", 0, "makes none by itself"},
		{"adda", "backup make", 2, "start it with --backup-dir, or take one away"},
		{"adda", "backup take", 2, "accepts 1 arg"},
		{"adda", "backup take " + filepath.Join(to, "nowhere", "x"), 2, "there is no directory"},
		{"adda", "backup take " + to, 0, "is written|mantilla verify"},
		{"adda", "backup take " + filepath.Join(to, "own.backup"), 0, "own.backup is written"},
	})
	files, err := os.ReadDir(to)
	if err != nil || len(files) != 2 {
		t.Errorf("there are %v, %v", files, err)
	}
}
