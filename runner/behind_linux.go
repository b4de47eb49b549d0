package runner

import (
	"runtime"

	"golang.org/x/sys/unix"
)

// behind is how far a worker steps back behind people who wait for an answer, as Unix
// counts niceness.
const behind = 10

// stepBack has the worker go on in a thread of its own that the system prefers others
// to: a capture takes what readers leave.
func stepBack() error {
	runtime.LockOSThread()
	return unix.Setpriority(unix.PRIO_PROCESS, 0, behind) // on Linux this is the thread
}
