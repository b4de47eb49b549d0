package standing

import (
	"fmt"

	"golang.org/x/sys/unix"

	"mantilla/model"
)

// Least is how many bytes have to be free for something new to be kept: what is there goes on being
// read below that, and SQLite has room to finish what it does.
const Least = 200 << 20

// Low is how few bytes are told, of so many.
func Low(all int64) int64 { return max(2<<30, all/20) }

// Free is how many bytes the disk of a directory has left for the service, and how many it has.
func Free(dir string) (free, all int64, err error) {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return 0, 0, fmt.Errorf("looking at the disk of %s: %w", dir, err)
	}
	return int64(s.Bavail) * s.Bsize, int64(s.Blocks) * s.Bsize, nil
}

// Spare says why nothing new is kept on the disk of a directory now: it is nearly full.
func Spare(dir string) error {
	free, _, err := Free(dir)
	if err != nil || free >= Least {
		return nil // it is tried then
	}
	return fmt.Errorf("%w: %d MB of the disk are left, and results are kept above %d MB; what is kept is read as ever",
		model.ErrFull, free>>20, int64(Least)>>20)
}
